import { defineConfig } from 'vite';

export default defineConfig({
  ssr: { external: ['taxeon', '@oddmere/tool-library', 'redis'] },
  build: {
    target: 'node20',
    ssr: true,
    minify: false,
    rolldownOptions: { input: { many: 'src/main.ts', process: 'src/process.ts' } },
  },
});
