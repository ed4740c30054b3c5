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

export default defineConfig({
  base: './',
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
