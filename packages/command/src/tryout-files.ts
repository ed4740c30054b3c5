/** Finding the files of tryouts. */
import { existsSync, readdirSync, statSync } from 'node:fs';
import { join } from 'node:path';
import { UsageError } from './errors.js';

const isTryout = /\.tryout\.ya?ml$/;
const isElsewhere = /(?:^|[\\/])(?:node_modules|dist|\.[^\\/.][^\\/]*)[\\/]/;

/**
 * Those that are named, those in folders that are named, or all in this folder, in order of the alphabet.
 *
 * @throws UsageError where there are none
 */
export function findTryouts(paths: readonly string[]): readonly string[] {
  const found = (paths.length === 0 ? ['.'] : paths).flatMap((path) => {
    if (!existsSync(path)) throw new UsageError(`There is no ${path}; name a tryout, or a folder with some.`);
    return statSync(path).isDirectory() ? inFolder(path) : [path];
  });
  if (found.length === 0) {
    throw new UsageError('There is no tryout here: a file whose name ends in .tryout.yaml. Write one, or name it.');
  }
  return [...new Set(found)].sort();
}

function inFolder(folder: string): readonly string[] {
  return readdirSync(folder, { recursive: true, encoding: 'utf8' })
    .filter((name) => isTryout.test(name) && !isElsewhere.test(name))
    .map((name) => join(folder, name));
}
