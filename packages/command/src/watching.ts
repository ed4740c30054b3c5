/** Running the same command again whenever a file in this folder changes. */
import { spawn } from 'node:child_process';
import { watch } from 'node:fs';
import { print } from './print.js';

/** An editor writes a file in several steps. */
const QUIET_MS = 100;
const isOurs = /(?:^|[\\/])(?:node_modules|\.git)(?:[\\/]|$)/;

/** Until it is told to stop; in a process of its own each time, since Node.js never reads a module twice. */
export function watching(): Promise<number> {
  const args = process.argv.slice(1).filter((arg) => arg !== '--watch');
  let timer: ReturnType<typeof setTimeout> | undefined;
  let isRunning = false;
  let isStale = false;
  const run = () => {
    if (isRunning) {
      isStale = true;
      return;
    }
    isRunning = true;
    isStale = false;
    const child = spawn(process.execPath, args, { stdio: 'inherit' });
    child.on('exit', () => {
      isRunning = false;
      if (isStale) run();
      else print('  Waiting for a change.\n');
    });
  };
  const watcher = watch('.', { recursive: true }, (_, name) => {
    if (name === null || isOurs.test(name)) return;
    clearTimeout(timer);
    timer = setTimeout(run, QUIET_MS);
  });
  run();
  return new Promise((resolve) => {
    for (const signal of ['SIGINT', 'SIGTERM'] as const) {
      process.once(signal, () => {
        watcher.close();
        clearTimeout(timer);
        resolve(0);
      });
    }
  });
}
