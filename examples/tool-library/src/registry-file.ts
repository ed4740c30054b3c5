/** The simulated platform's commands, kept in a file so that they are there the next time. */
import { existsSync, readFileSync, renameSync, writeFileSync } from 'node:fs';
import { emptyRegistrar, type RegistrarState } from 'taxeon/stand-in';

export function registryFile(path: string) {
  return {
    read: (): RegistrarState => (existsSync(path) ? JSON.parse(readFileSync(path, 'utf8')) : emptyRegistrar),
    /** Whole, or not at all. */
    write(state: RegistrarState): void {
      writeFileSync(`${path}.new`, `${JSON.stringify(state, null, 2)}\n`);
      renameSync(`${path}.new`, path);
    },
  };
}
