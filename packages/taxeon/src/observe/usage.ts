/** Counting what is used: by command, outcome, guild and day, gathered in memory and added to the store now and then. */
import { after, type Clock } from '../base/time.js';
import type { Input } from '../contract/input.js';
import type { Log } from '../contract/log.js';
import type { Status } from '../contract/outcome.js';
import { guildOf } from '../contract/platform.js';
import type { Store } from '../contract/store.js';

/** How often a command ended in one way, in one guild, on one day. */
export interface UsageCount {
  /** In UTC: `2026-05-09`. */
  readonly day: string;
  readonly platform: string;
  /** Empty where it was in none. */
  readonly guild: string;
  /** The command's `id`, which stays the same through a rename. */
  readonly command: string;
  readonly status: Exclude<Status, 'ignored'>;
  readonly count: number;
}

const FLUSH_EVERY_MS = 10_000;
/** In front of the keys under which counts are kept. */
export const USAGE_PREFIX = 'usage/';
const DAY_MS = 86_400_000;

export class UsageCounter {
  private readonly pending = new Map<string, number>();
  private cancel: (() => void) | undefined = undefined;
  private day = '';
  private dayEndsAt = Number.NEGATIVE_INFINITY;
  private dayBeginsAt = 0;

  constructor(
    private readonly store: Store,
    private readonly clock: Clock,
    private readonly log: Log,
  ) {}

  count(input: Input, platform: string, command: string, status: UsageCount['status']): void {
    const guild = guildOf(input.place)?.id ?? '';
    const key = `${this.today()}/${[platform, guild, command, status].map(encodeURIComponent).join('/')}`;
    this.pending.set(key, (this.pending.get(key) ?? 0) + 1);
    this.cancel ??= after(this.clock, FLUSH_EVERY_MS, () => void this.flush());
  }

  /** Adds to the store what was counted since. What it does not take is kept for the next time. */
  async flush(): Promise<void> {
    this.cancel?.();
    this.cancel = undefined;
    const counts = [...this.pending];
    this.pending.clear();
    for (const [key, count] of counts) {
      try {
        await this.store.increment(USAGE_PREFIX + key, count);
      } catch (error) {
        this.log.warn({ error }, 'Usage was not counted yet');
        this.pending.set(key, (this.pending.get(key) ?? 0) + count);
        this.cancel ??= after(this.clock, FLUSH_EVERY_MS, () => void this.flush());
      }
    }
  }

  stop(): void {
    this.cancel?.();
  }

  private today(): string {
    const now = this.clock.now();
    if (now >= this.dayEndsAt || now < this.dayBeginsAt) {
      this.dayBeginsAt = Math.floor(now / DAY_MS) * DAY_MS;
      this.dayEndsAt = this.dayBeginsAt + DAY_MS;
      this.day = new Date(now).toISOString().slice(0, 10);
    }
    return this.day;
  }
}
