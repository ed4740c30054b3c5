/** Running the command in a folder of one's own, where the library is installed. */
import { mkdirSync, mkdtempSync, rmSync, symlinkSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { onTestFinished } from 'vitest';
import { start } from '../../../test/support/programs.js';

const installed = fileURLToPath(new URL('../../../node_modules/', import.meta.url));
const bin = fileURLToPath(new URL('../bin/taxeon.js', import.meta.url));

export interface Folder {
  readonly path: string;
  write(name: string, text: string): void;
  /** Runs it, with these words. */
  taxeon(...args: readonly string[]): ReturnType<typeof start>['finished'];
  /** Runs it with lines piped in. */
  types(lines: string, ...args: readonly string[]): ReturnType<typeof start>['finished'];
  starts(...args: readonly string[]): ReturnType<typeof start>;
  /** The same with more in its environment. */
  with(more: Readonly<Record<string, string>>): Folder;
}

export function folderOf(files: Readonly<Record<string, string>>): Folder {
  const path = mkdtempSync(join(tmpdir(), 'oddmere-command-'));
  onTestFinished(() => rmSync(path, { recursive: true, force: true }));
  const write = (name: string, text: string) => {
    mkdirSync(dirname(join(path, name)), { recursive: true });
    writeFileSync(join(path, name), text);
  };
  for (const [name, text] of Object.entries(files)) write(name, text);
  mkdirSync(join(path, 'node_modules'));
  for (const name of ['taxeon', '@taxeon']) symlinkSync(join(installed, name), join(path, 'node_modules', name));
  const inEnvironment = (more: Readonly<Record<string, string>>): Folder => {
    const env = { ...process.env, NO_COLOR: '1', FORCE_COLOR: undefined, ...more };
    const starts = (...args: readonly string[]) => start(process.execPath, [bin, ...args], { cwd: path, env });
    const types: Folder['types'] = (stdin, ...args) =>
      start(process.execPath, [bin, ...args], { cwd: path, env, stdin }).finished;
    return { path, write, starts, types, taxeon: (...args) => starts(...args).finished, with: inEnvironment };
  };
  return inEnvironment({});
}
