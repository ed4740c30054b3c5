import { defineConfig } from 'vite';

/**
 * For Node: one file per entry point, so that a command-line start reads few files. Bundlers get the
 * modules as the compiler writes them, out of which they take what is used.
 */
const entries = [
  'index',
  'arg',
  'platforms/stand-in/index',
  'platforms/irc/index',
  'stores/file',
  'icu/index',
  'testing/index',
  'cli/main',
  'cli/typescript-hooks',
];

export default defineConfig({
  build: {
    target: 'es2023',
    minify: false,
    sourcemap: true,
    outDir: 'dist/node',
    emptyOutDir: true,
    lib: {
      entry: Object.fromEntries(entries.map((entry) => [entry, `src/${entry}.ts`])),
      formats: ['es'],
    },
    rolldownOptions: {
      // Everything that is not a file of this package stays an import.
      external: (id) => !id.startsWith('.') && !id.startsWith('/') && !id.startsWith('\0'),
      output: { chunkFileNames: 'shared/[name].js' },
    },
  },
});
