/** Counting what is used: by command, outcome, guild and day, gathered in memory and added to the store now and then. */
import { patiently, TooLate } from '../base/thenable.js';
import { after, type Clock } from '../base/time.js';
import type { Input } from '../contract/input.js';
import type { Log } from '../contract/log.js';
import type { Status } from '../contract/outcome.js';
import { guildOf } from '../contract/platform.js';
import type { Store } from '../contract/store.js';
import { sparseLog } from './sparse-log.js';

/** How often a command ended in one way, in one guild, on one day. */
export interface UsageCount {
  /** In UTC: `2026-05-09`. */
  readonly day: string;
  readonly platform: string;
  /** Empty where it was in none. */
  readonly guild: string;
  /** The command's `id`, which stays the same through a rename; empty for names that no command has. */
  readonly command: string;
  readonly status: Exclude<Status, 'ignored'>;
  readonly count: number;
}

/** What counting needs of the layer it is for. */
export interface UsageServices {
  readonly store: Store;
  readonly clock: Clock;
  readonly log: Log;
  /** How long the store may take, in milliseconds. */
  readonly storePatienceMs: number;
}

const FLUSH_EVERY_MS = 10_000;
/** In front of the keys under which counts are kept. */
export const USAGE_PREFIX = 'usage/';
const DAY_MS = 86_400_000;
/** Counts that wait for the store. What is beyond them is not counted, and the log says so. */
const MOST_PENDING = 20_000;

/** What a layer counts with. */
export interface UsageCounter {
  count(input: Input, platform: string, command: string, status: UsageCount['status']): void;
  /**
   * Adds to the store what was counted since. What it refuses is kept for the next time; what it does not answer in
   * time may have been added, and is not added again.
   */
  flush(): Promise<void>;
  stop(): void;
}

/**
 * Counts uses in the layer's store, by command, outcome, guild and day; `usageOf` reads them.
 *
 * @example
 * createCommandLayer({ commands, usage: countUsage });
 */
export function countUsage({ store, clock, log, storePatienceMs }: UsageServices): UsageCounter {
  const pending = new Map<string, number>();
  const uncounted = sparseLog(log, clock, 'Usage was not counted');
  let cancel: (() => void) | undefined;
  let day = '';
  let dayEndsAt = Number.NEGATIVE_INFINITY;
  let dayBeginsAt = 0;

  function today(): string {
    const now = clock.now();
    if (now >= dayEndsAt || now < dayBeginsAt) {
      dayBeginsAt = Math.floor(now / DAY_MS) * DAY_MS;
      dayEndsAt = dayBeginsAt + DAY_MS;
      day = new Date(now).toISOString().slice(0, 10);
    }
    return day;
  }

  function add(key: string, count: number): void {
    const before = pending.get(key);
    if (before === undefined && pending.size >= MOST_PENDING) {
      uncounted.tell({ key, count });
      return;
    }
    pending.set(key, (before ?? 0) + count);
    cancel ??= after(clock, FLUSH_EVERY_MS, () => void counter.flush());
  }

  const counter: UsageCounter = {
    count(input, platform, command, status) {
      const guild = guildOf(input.place)?.id ?? '';
      add(`${today()}/${[platform, guild, command, status].map(encoded).join('/')}`, 1);
    },
    async flush() {
      cancel?.();
      cancel = undefined;
      const counts = [...pending];
      pending.clear();
      let isLate = false;
      for (const [key, count] of counts) {
        try {
          if (isLate) add(key, count);
          else await patiently(clock, Promise.resolve(store.increment(USAGE_PREFIX + key, count)), storePatienceMs);
        } catch (error) {
          isLate = error instanceof TooLate;
          if (isLate) uncounted.tell({ key, count, error });
          else {
            add(key, count);
            log.warn({ error }, 'Usage was not counted yet');
          }
        }
      }
    },
    stop: () => cancel?.(),
  };
  return counter;
}

/** Half a pair of surrogates has no encoding. */
function encoded(text: string): string {
  return encodeURIComponent(text.replace(/\p{Cs}/gu, '\uFFFD'));
}
