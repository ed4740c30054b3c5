/** Counting what is used: by command, outcome, guild and day, gathered in memory and added to the store now and then. */
import { patiently, TooLate } from '../base/thenable.js';
import { after, type Clock } from '../base/time.js';
import type { Input } from '../contract/input.js';
import type { Log } from '../contract/log.js';
import type { Status } from '../contract/outcome.js';
import { guildOf } from '../contract/platform.js';
import type { Store } from '../contract/store.js';
import { type SparseLog, sparseLog } from './sparse-log.js';

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

/**
 * Counts uses in the layer's store, by command, outcome, guild and day; `usageCounts` reads them.
 *
 * @example
 * createCommandLayer({ commands, usage: countUsage });
 */
export function countUsage(services: UsageServices): UsageCounter {
  return new UsageCounter(services);
}

const FLUSH_EVERY_MS = 10_000;
/** In front of the keys under which counts are kept. */
export const USAGE_PREFIX = 'usage/';
const DAY_MS = 86_400_000;
/** Counts that wait for the store. What is beyond them is not counted, and the log says so. */
const MOST_PENDING = 20_000;

export class UsageCounter {
  readonly #pending = new Map<string, number>();
  readonly #uncounted: SparseLog;
  #cancel: (() => void) | undefined = undefined;
  #day = '';
  #dayEndsAt = Number.NEGATIVE_INFINITY;
  #dayBeginsAt = 0;

  readonly #services: UsageServices;

  constructor(services: UsageServices) {
    this.#services = services;

    this.#uncounted = sparseLog(services.log, services.clock, 'Usage was not counted');
  }

  count(input: Input, platform: string, command: string, status: UsageCount['status']): void {
    const guild = guildOf(input.place)?.id ?? '';
    const key = `${this.#today()}/${[platform, guild, command, status].map(encoded).join('/')}`;
    this.#add(key, 1);
  }

  #add(key: string, count: number): void {
    const before = this.#pending.get(key);
    if (before === undefined && this.#pending.size >= MOST_PENDING) {
      this.#uncounted.tell({ key, count });
      return;
    }
    this.#pending.set(key, (before ?? 0) + count);
    this.#cancel ??= after(this.#services.clock, FLUSH_EVERY_MS, () => void this.flush());
  }

  /**
   * Adds to the store what was counted since. What it refuses is kept for the next time; what it does not answer in
   * time may have been added, and is not added again.
   */
  async flush(): Promise<void> {
    this.#cancel?.();
    this.#cancel = undefined;
    const { store, clock, storePatienceMs, log } = this.#services;
    const counts = [...this.#pending];
    this.#pending.clear();
    let isLate = false;
    for (const [key, count] of counts) {
      try {
        if (isLate) this.#add(key, count);
        else await patiently(clock, Promise.resolve(store.increment(USAGE_PREFIX + key, count)), storePatienceMs);
      } catch (error) {
        isLate = error instanceof TooLate;
        if (isLate) this.#uncounted.tell({ key, count, error });
        else {
          this.#add(key, count);
          log.warn({ error }, 'Usage was not counted yet');
        }
      }
    }
  }

  stop(): void {
    this.#cancel?.();
  }

  #today(): string {
    const now = this.#services.clock.now();
    if (now >= this.#dayEndsAt || now < this.#dayBeginsAt) {
      this.#dayBeginsAt = Math.floor(now / DAY_MS) * DAY_MS;
      this.#dayEndsAt = this.#dayBeginsAt + DAY_MS;
      this.#day = new Date(now).toISOString().slice(0, 10);
    }
    return this.#day;
  }
}

/** Half a pair of surrogates has no encoding. */
function encoded(text: string): string {
  return encodeURIComponent(text.replace(/\p{Cs}/gu, '\uFFFD'));
}
