/** What the pages of the examples are built with. */
import { parse } from 'yaml';

/** The demo's data becomes part of a page, so that it needs no server and no reader of YAML to begin. */
export const yamlAsData = {
  name: 'yaml-as-data',
  transform(code, id) {
    return id.endsWith('.yaml')
      ? { code: `export default ${JSON.stringify(parse(code))}`, moduleType: 'js' }
      : undefined;
  },
};

/** A classic script runs from any folder, also where it is opened as a file. */
export const classicScript = {
  name: 'classic-script',
  apply: 'build',
  transformIndexHtml: {
    order: 'post',
    handler: (html) => html.replace(/<script type="module" crossorigin/g, '<script defer').replace(/ crossorigin/g, ''),
  },
};
