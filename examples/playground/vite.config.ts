import { createRequire } from 'node:module';
import { dirname, join } from 'node:path';
import { defineConfig } from 'vite';
import { classicScript, yamlAsData } from '../../scripts/page-plugins.js';

/** Only what reads: the package's entry brings what writes along. */
const yamlParts = join(dirname(createRequire(import.meta.url).resolve('js-yaml/package.json')), 'lib');

export default defineConfig({
  base: './',
  resolve: { alias: [{ find: /^js-yaml\/lib/, replacement: yamlParts }] },
  plugins: [yamlAsData, classicScript],
  build: {
    target: 'es2023',
    modulePreload: false,
    // One file on purpose: a classic script has no parts.
    chunkSizeWarningLimit: 900,
    rolldownOptions: {
      output: { format: 'iife', entryFileNames: 'playground.js', assetFileNames: 'playground[extname]' },
    },
  },
});
