import { defineConfig, type Plugin } from 'vite';
import { parse } from 'yaml';

/** The demo's data becomes part of the page. */
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
    rolldownOptions: {
      output: { format: 'iife', entryFileNames: 'figures.js', assetFileNames: 'figures[extname]' },
    },
  },
});
