/** Finding the files of a folder that are modules. */
import { readdir, stat } from 'node:fs/promises';
import { join, relative, sep } from 'node:path';

/** A file that is read as a module. */
export interface ModuleFile {
  /** Its path from the folder on, without extension: `lending/borrow`. */
  readonly id: string;
  /** The same with its extension, for people. */
  readonly file: string;
  readonly path: string;
}

/** More would be another folder than was meant. */
const MOST_FILES = 10_000;
const isModule = /\.[cm]?[jt]s$/;
const isNone = /(?:^|[\\/])[_.]|\.d\.[cm]?ts$|\.(?:test|spec)\.[cm]?[jt]s$|[\\/]?node_modules[\\/]/;

/**
 * In the order of their ids.
 *
 * @throws TypeError where there is no such folder, or far too much in it
 */
export async function findModules(folder: string): Promise<readonly ModuleFile[]> {
  const isFolder = await stat(folder).then(
    (found) => found.isDirectory(),
    () => false,
  );
  if (!isFolder) throw new TypeError(`There is no folder ${folder} to load modules from`);
  const entries = await readdir(folder, { recursive: true, withFileTypes: true });
  const files = entries
    .filter((entry) => entry.isFile())
    .map((entry) => relative(folder, join(entry.parentPath, entry.name)))
    .filter((name) => isModule.test(name) && !isNone.test(name))
    .map((name): ModuleFile => {
      const file = name.split(sep).join('/');
      return { id: file.replace(isModule, ''), file, path: join(folder, name) };
    });
  if (files.length > MOST_FILES) throw new TypeError(`There are more than ${MOST_FILES} modules in ${folder}`);
  return files.sort((one, other) => (one.id < other.id ? -1 : 1));
}
