import { defineConfig } from 'vite';

export default defineConfig({
  // Commands that are read anew import the library themselves; the bot must have the same one.
  ssr: { external: ['taxeon', '@oddmere/tool-library'] },
  build: { target: 'node20', ssr: true, minify: false, rolldownOptions: { input: { 'irc-bot': 'src/main.ts' } } },
});
