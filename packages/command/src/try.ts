/** `taxeon try`: plays tryouts side by side, each on a clock of its own, and tells what is not as expected. */

import { spawn } from 'node:child_process';
import { existsSync, readdirSync, statSync, watch } from 'node:fs';
import { join } from 'node:path';
import { virtualClock } from '@taxeon/testing';
import { keptLog, type Played, playTryout } from '@taxeon/testing/tryouts';
import { coverage, type Untried } from 'taxeon/queries';
import { findConfig } from './config.js';
import { errorMessage, UsageError } from './errors.js';
import { openFrom } from './open.js';
import { print } from './print.js';
import { printTried } from './print-tried.js';
import { isWrong, mismatchesOf, type Tried, type TryOptions } from './tried.js';
import { readTryout, updateTryout } from './tryout-file.js';

/** So many are under way at once: each waits for the event loop now and then. */
const SIDE_BY_SIDE = 50;

/** @returns the exit status: 1 where something is not as expected, 2 where a file does not read */
export async function tryTryouts(paths: readonly string[], options: TryOptions): Promise<number> {
  if (options.watch) return watching();
  const files = findTryouts(paths);
  const found = await findConfig(options.config);
  const covered = options.uncovered ? coverage() : undefined;
  let untried: Untried | undefined;

  async function tryOne(path: string): Promise<Tried> {
    const file = readTryout(path);
    if (!('tryout' in file)) return { path, problems: file };
    const clock = virtualClock(Date.parse(file.tryout.begins));
    const log = keptLog();
    const rehearsal = await openFrom(found, { clock, log });
    const { layer, platform } = rehearsal;
    const played: Played[] = [];
    try {
      for await (const step of playTryout(file.tryout, rehearsal, clock, log)) {
        played.push(step);
        if (step.kind === 'exchange') await covered?.note(step.exchange, layer, platform);
      }
    } catch (error) {
      const problem = `does not play: ${errorMessage(error)}`;
      return { path, problems: [{ path, line: undefined, column: undefined, problem }] };
    }
    untried = covered?.untried(layer);
    await layer.close();
    const updated = options.update ? updateTryout(file, mismatchesByLine(played)) : 0;
    return { path, file, platform, played, updated };
  }

  const tried = await sideBySide(files, tryOne);
  printTried({ tried, untried }, options);
  if (tried.some((one) => 'problems' in one)) return 2;
  return tried.some(isWrong) ? 1 : 0;
}

function mismatchesByLine(played: readonly Played[]) {
  return new Map(played.map((step, line) => [line, mismatchesOf(step)] as const));
}

/** In the order of what is given, whichever is ready first. */
async function sideBySide<From, To>(all: readonly From[], make: (one: From) => Promise<To>): Promise<readonly To[]> {
  const made: To[] = [];
  let next = 0;
  const work = async () => {
    for (let at = next++; at < all.length; at = next++) made[at] = await make(all[at] as From);
  };
  await Promise.all(Array.from({ length: Math.min(SIDE_BY_SIDE, all.length) }, work));
  return made;
}

// Finding the files of tryouts.
const isTryout = /\.tryout\.ya?ml$/;
const isElsewhere = /(?:^|[\\/])(?:node_modules|dist|\.[^\\/.][^\\/]*)[\\/]/;

/**
 * Those that are named, those in folders that are named, or all in this folder, in order of the alphabet.
 *
 * @throws UsageError where there are none
 */
function findTryouts(paths: readonly string[]): readonly string[] {
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

// Running the same command again whenever a file in this folder changes.
/** An editor writes a file in several steps. */
const QUIET_MS = 100;
const isOurs = /(?:^|[\\/])(?:node_modules|\.git)(?:[\\/]|$)/;

/** Until it is told to stop; in a process of its own each time, since Node.js never reads a module twice. */
function watching(): Promise<number> {
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
