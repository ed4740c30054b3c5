/** The simulated platform's commands, kept in a file so that they are there the next time. */
import { existsSync, mkdirSync, readFileSync, renameSync, writeFileSync } from 'node:fs';
import { dirname } from 'node:path';
import { emptyRegistrar, type RegistrarState } from '@taxeon/testing';

export function registryFile(path: string) {
  return {
    read: (): RegistrarState => (existsSync(path) ? JSON.parse(readFileSync(path, 'utf8')) : emptyRegistrar),
    /** Whole, or not at all. */
    write(state: RegistrarState): void {
      mkdirSync(dirname(path), { recursive: true });
      writeFileSync(`${path}.new`, `${JSON.stringify(state, null, 2)}\n`);
      renameSync(`${path}.new`, path);
    },
  };
}
