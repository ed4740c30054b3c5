import { defineConfig } from 'vite';

export default defineConfig({
  build: {
    target: 'node20',
    ssr: true,
    minify: false,
    outDir: 'dist',
    emptyOutDir: true,
    rolldownOptions: {
      input: { main: 'src/main.ts', 'typescript-hooks': 'src/typescript-hooks.ts' },
      // Everything that is not a file of this package stays an import: the bot's own library is used.
      external: (id) => !id.startsWith('.') && !id.startsWith('/') && !id.startsWith('\0'),
      output: { chunkFileNames: 'parts/[name].js' },
    },
  },
});
