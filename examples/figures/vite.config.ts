import { defineConfig } from 'vite';
import { classicScript, yamlAsData } from '../../scripts/page-plugins.js';

export default ${JSON.stringify(parse(code))}`, moduleType: 'js' }
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
