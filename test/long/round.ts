/** What a round of faults is: the same for the same seed. It throws where something does not hold, and tells what it did otherwise. */
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';

export type Round = (random: () => number) => Promise<string>;

export function must(holds: boolean, what: string, told: unknown = ''): void {
  if (!holds) throw new Error(`${what} ${typeof told === 'string' ? told : JSON.stringify(told)}`);
}

export const pick = <T>(random: () => number, all: readonly T[]): T => all[Math.floor(random() * all.length)] as T;
export const tick = () => new Promise((done) => setTimeout(done, 0));

export function inFolder<T>(act: (folder: string) => Promise<T>): Promise<T> {
  const folder = mkdtempSync(join(tmpdir(), 'oddmere-long-'));
  return act(folder).finally(() => rmSync(folder, { recursive: true, force: true }));
}
