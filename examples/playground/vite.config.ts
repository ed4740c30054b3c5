import { createRequire } from 'node:module';
import { dirname, join } from 'node:path';
import { defineConfig, type Plugin } from 'vite';
import { parse } from 'yaml';

/** The demo's data becomes part of the page, so that it needs no server and no reader of YAML to begin. */
const yamlAsData: Plugin = {
  name: 'yaml-as-data',
  transform(code, id) {
    return id.endsWith('.yaml')
      ? { code: `export default ${JSON.stringify(parse(code))}`, moduleType: 'js' }
      : undefined;
  },
};

/** A classic script runs from any folder, also where it is opened as a file. */
const classicScript: Plugin = {
  name: 'classic-script',
  apply: 'build',
  transformIndexHtml: {
    order: 'post',
    handler: (html) => html.replace(/<script type="module" crossorigin/g, '<script defer').replace(/ crossorigin/g, ''),
  },
};

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
