import { defineConfig } from 'vite';
import { classicScript, yamlAsData } from '../../scripts/page-plugins.js';

export default defineConfig({
  base: './',
  plugins: [yamlAsData, classicScript],
  build: {
    target: 'es2023',
    modulePreload: false,
    rolldownOptions: { output: { format: 'iife', entryFileNames: 'figures.js', assetFileNames: 'figures[extname]' } },
  },
});
