import { defineConfig } from 'vite';

/** The page; the server has a configuration of its own. */
export default defineConfig({
  base: './',
  build: {
    target: 'es2023',
    outDir: 'dist/page',
    modulePreload: false,
    rolldownOptions: { output: { entryFileNames: 'page.js', assetFileNames: 'page[extname]' } },
  },
});
