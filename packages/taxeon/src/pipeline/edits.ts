/** Messages that did not read, and may be corrected by editing them. */
import { BoundedMap } from '../base/bounded-map.js';
import type { Clock } from '../base/time.js';
import type { Input } from '../contract/input.js';
import type { Visibility } from '../contract/notice.js';
import type { Delivered } from '../contract/platform.js';
import { eventOf } from './recent.js';

/** What was said of a message, where it can be found again. */
export interface SaidOf {
  readonly delivered: Delivered;
  /** Who sees it, where the platform can hide it from others. */
  readonly visibleTo: Visibility | undefined;
}

interface Open {
  readonly until: number;
  readonly said: SaidOf | undefined;
}

/** Of more, the oldest can no longer be corrected. */
const MOST_OPEN = 10_000;

export class Edits {
  readonly #open = new BoundedMap<string, Open>(MOST_OPEN);
  readonly #taken = new WeakMap<Input, SaidOf>();

  readonly #clock: Clock;
  readonly #withinMs: number;

  constructor(clock: Clock, withinMs: number) {
    this.#clock = clock;
    this.#withinMs = withinMs;
  }

  /** Remembers a message that did not read. */
  keep(platform: string, input: Input, said: SaidOf | undefined): void {
    if (input.surface !== 'text' || input.id === undefined) return;
    const until = this.#clock.now() + this.#withinMs;
    this.#open.set(eventOf(platform, input), { until, said });
  }

  /** Whether what an edit says now is to be read: once, and only if its message is one that did not read. */
  takes(platform: string, input: Input, looks: boolean): boolean {
    const event = eventOf(platform, input);
    const open = this.#open.get(event);
    if (open === undefined || open.until < this.#clock.now()) return false;
    if (looks) return true;
    this.#open.delete(event);
    if (open.said !== undefined) this.#taken.set(input, open.said);
    return true;
  }

  /** What was said of the message before it was edited. */
  saidBefore(input: Input): SaidOf | undefined {
    return this.#taken.get(input);
  }
}
