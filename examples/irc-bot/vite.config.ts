import { defineConfig } from 'vite';

export default defineConfig({
  build: {
    target: 'node20',
    ssr: true,
    minify: false,
    rolldownOptions: { input: { 'irc-bot': 'src/main.ts' } },
  },
});
