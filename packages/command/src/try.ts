/** `taxeon try`: plays tryouts side by side, each on a clock of its own, and tells what is not as expected. */
import { virtualClock } from 'taxeon/testing';
import { coverage, keptLog, type Played, playTryout, type Untried } from 'taxeon/tryouts';
import { findConfig } from './config.js';
import { errorMessage } from './errors.js';
import { openFrom } from './open.js';
import { printTried } from './print-tried.js';
import { isWrong, mismatchesOf, type Tried, type TryOptions } from './tried.js';
import { readTryout, updateTryout } from './tryout-file.js';
import { findTryouts } from './tryout-files.js';
import { watching } from './watching.js';

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
