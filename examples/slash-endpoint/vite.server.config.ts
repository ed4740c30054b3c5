import { defineConfig } from 'vite';

export default defineConfig({
  ssr: { external: ['taxeon', '@oddmere/tool-library', 'hono', '@hono/node-server'] },
  build: {
    target: 'node20',
    ssr: true,
    outDir: 'dist/server',
    minify: false,
    rolldownOptions: { input: { server: 'src/server/main.ts' } },
  },
});
