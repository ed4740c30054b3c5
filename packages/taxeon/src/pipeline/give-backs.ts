/** Giving uses back to a store that may fail meanwhile: tried again until they would have run out by themselves. */
import { isThenable, patiently } from '../base/thenable.js';
import { after, type Clock } from '../base/time.js';
import type { Store, Use } from '../contract/store.js';
import type { SparseLog } from '../observe/sparse-log.js';

const FIRST_PAUSE_MS = 1000;
const LONGEST_PAUSE_MS = 60_000;
/** What is beyond these runs out by itself, with its window. */
const MOST_WAITING = 10_000;

/** A use that is to be given back, until it has run out. */
interface Owed {
  readonly use: Use;
  readonly until: number;
}

export interface GiveBackServices {
  readonly store: Store;
  /** It must not go back. */
  readonly clock: Clock;
  readonly storePatienceMs: number;
  readonly outages: SparseLog;
}

export interface GiveBacks {
  /** Never throws. */
  give(uses: readonly Use[]): void;
  /** Once more for all that is owed, and no more after that: what still fails runs out by itself. */
  flush(): Promise<void>;
}

export function giveBacksOf({ store, clock, storePatienceMs, outages }: GiveBackServices): GiveBacks {
  let owed: readonly Owed[] = [];
  const underWay = new Set<Promise<unknown>>();
  let pauseMs = FIRST_PAUSE_MS;
  let cancel: (() => void) | undefined;
  let isOver = false;

  function owe(uses: readonly Use[], error: unknown): void {
    const now = clock.now();
    const all = [...owed, ...uses.map((use) => ({ use, until: now + use.limit.windowMs }))];
    outages.tell({ error, notGivenBack: Math.max(0, all.length - MOST_WAITING) });
    owed = all.slice(-MOST_WAITING);
    later();
  }

  function later(): void {
    if (isOver || cancel !== undefined || owed.length === 0) return;
    cancel = after(clock, pauseMs, () => void again());
    pauseMs = Math.min(pauseMs * 2, LONGEST_PAUSE_MS);
  }

  async function again(): Promise<void> {
    const now = clock.now();
    const trying = owed.filter(({ until }) => until > now);
    owed = [];
    cancel = undefined;
    try {
      const uses = trying.map(({ use }) => use);
      const given = uses.length === 0 ? undefined : store.giveBack(uses);
      if (isThenable(given)) await patiently(clock, given, storePatienceMs);
      pauseMs = FIRST_PAUSE_MS;
    } catch (error) {
      owed = [...trying, ...owed].slice(-MOST_WAITING);
      outages.tell({ error });
    }
    later();
  }

  return {
    /** Hot path: bench/rows/calls. */
    give(uses) {
      try {
        const given = store.giveBack(uses);
        if (!isThenable(given)) return;
        const giving = patiently(clock, given, storePatienceMs).catch((error) => owe(uses, error));
        underWay.add(giving);
        void giving.then(() => underWay.delete(giving));
      } catch (error) {
        owe(uses, error);
      }
    },
    async flush() {
      isOver = true;
      cancel?.();
      await Promise.all(underWay);
      await again();
    },
  };
}
