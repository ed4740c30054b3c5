/** What a trial of a store is made of: a fresh store, perhaps another on the same data, and a clock that both read. */

import type { Store } from 'taxeon';
import type { Limit, Use, Verdict } from 'taxeon/platform';
import { type VirtualClock, virtualClock } from '../clock.js';
import type { Trial } from '../trial.js';

/** What a suite needs of a store. */
export interface StoreProbe {
  /** A fresh and empty one that reads time from a clock. */
  open(clock: VirtualClock): Store | Promise<Store>;
  /**
   * One more on the data of the latest that was opened, as another process has it. Left out where a store is one
   * process's alone; the trials of what is shared are then skipped.
   */
  openAnother?(clock: VirtualClock): Store | Promise<Store>;
}

export const START = 1_700_000_000_000;
export const MINUTE = 60_000;
export const YEAR = 365 * 24 * 60 * MINUTE;

export const once: Limit = { id: 'trial/once', uses: 1, windowMs: 1000 };
export const thrice: Limit = { id: 'trial/thrice', uses: 3, windowMs: 1000 };
export const often: Limit = { id: 'trial/often', uses: 10, windowMs: 1000 };
export const long: Limit = { id: 'trial/long', uses: 1, windowMs: 2 * 60 * MINUTE };

export function storeTrial(name: string, run: (store: Store, clock: VirtualClock) => Promise<void>): Trial<StoreProbe> {
  return {
    name,
    async run({ open }) {
      const clock = virtualClock(START);
      const store = await open(clock);
      try {
        await run(store, clock);
      } finally {
        await store.close();
      }
      return undefined;
    },
  };
}

export function sharingTrial(
  name: string,
  run: (store: Store, another: Store, clock: VirtualClock) => Promise<void>,
): Trial<StoreProbe> {
  return {
    name,
    async run({ open, openAnother }) {
      if (openAnother === undefined) return 'it is one process’s alone';
      const clock = virtualClock(START);
      const store = await open(clock);
      const another = await openAnother(clock);
      try {
        await run(store, another, clock);
      } finally {
        await another.close();
        await store.close();
      }
      return undefined;
    },
  };
}

export function trialUse(limit: Limit, key: string, at: number, cost = 1): Use {
  return { limit, key, at, cost };
}

/** The time of a use that must have been granted; of which limit, where each has its own. */
export function grantedAt(verdict: Verdict, index = 0): number {
  if (!verdict.granted) throw new Error('a use was refused that there is room for');
  return verdict.each?.[index] ?? verdict.at;
}

export function expectSame(actual: unknown, expected: unknown, what: string): void {
  const [is, should] = [JSON.stringify(actual), JSON.stringify(expected)];
  if (is !== should) throw new Error(`${what}: ${is}, expected ${should}`);
}

export async function expectRefusal(what: () => unknown, told: string): Promise<void> {
  try {
    await what();
  } catch {
    return;
  }
  throw new Error(`${told} is taken`);
}

/** What comes from elsewhere comes a little later, by the machine's time. */
export async function becomesTrue(condition: () => boolean | Promise<boolean>, what: string): Promise<void> {
  const until = Date.now() + 5000;
  while (!(await condition())) {
    if (Date.now() > until) throw new Error(`not within five seconds: ${what}`);
    await new Promise((resolve) => setTimeout(resolve, 10));
  }
}
