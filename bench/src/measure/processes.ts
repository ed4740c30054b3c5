/** Whole processes, in a folder that has the library. */
import { spawnSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, rmSync, symlinkSync, writeFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';

export const library = dirname(createRequire(import.meta.url).resolve('taxeon/package.json'));

export interface Run {
  readonly tookMs: number;
  readonly out: string;
}

/** @throws what the process has said, where it failed */
export function run(args: readonly string[], cwd: string): Run {
  const start = process.hrtime.bigint();
  const { status, stdout, stderr } = spawnSync(process.execPath, args, {
    cwd,
    encoding: 'utf8',
    maxBuffer: 100_000_000,
  });
  if (status !== 0) throw new Error(stderr);
  return { tookMs: Number(process.hrtime.bigint() - start) / 1e6, out: stdout };
}

/** The folder is gone afterwards. */
export function inFolder<T>(measure: (folder: string) => T): T {
  const folder = mkdtempSync(join(tmpdir(), 'oddmere-start-'));
  try {
    mkdirSync(join(folder, 'node_modules'));
    symlinkSync(library, join(folder, 'node_modules', 'taxeon'));
    writeFileSync(join(folder, 'package.json'), '{ "type": "module" }');
    return measure(folder);
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
}
