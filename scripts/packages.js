/** The packages that are published, and what is built of them. */
import { readFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';

/** In the order in which they are built: each behind those that it needs. */
export const packages = ['taxeon', 'testing', 'icu', 'irc', 'http', 'redis', 'file-store', 'command'];

/** The folder of a package, with a slash behind it. */
export function folderOf(name) {
  return fileURLToPath(new URL(`../packages/${name}/`, import.meta.url));
}

/** What can be imported of a package: under which name, from which of its built files, made of which source. */
export function entriesOf(name) {
  const folder = folderOf(name);
  const { name: published, exports } = JSON.parse(readFileSync(`${folder}package.json`, 'utf8'));
  return Object.entries(exports).flatMap(([entry, { default: built }]) => {
    if (built === undefined) return [];
    // What is built lies as its sources do.
    const source = built.replace('./dist/', 'src/').replace(/\.js$/, '.ts');
    return [{ entry: published + entry.slice(1), built, file: folder + source }];
  });
}
