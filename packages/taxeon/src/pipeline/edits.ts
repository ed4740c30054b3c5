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

export interface Edits {
  /** Remembers a message that did not read. */
  keep(platform: string, input: Input, said: SaidOf | undefined): void;
  /** Whether what an edit says now is to be read: once, and only if its message is one that did not read. */
  takes(platform: string, input: Input, looks: boolean): boolean;
  /** What was said of the message before it was edited. */
  saidBefore(input: Input): SaidOf | undefined;
}

export function editsWithin(withinMs: number, clock: Clock): Edits {
  const all = new BoundedMap<string, Open>(MOST_OPEN);
  const taken = new WeakMap<Input, SaidOf>();
  return {
    keep(platform, input, said) {
      if (input.surface !== 'text' || input.id === undefined) return;
      all.set(eventOf(platform, input), { until: clock.now() + withinMs, said });
    },
    takes(platform, input, looks) {
      const event = eventOf(platform, input);
      const open = all.get(event);
      if (open === undefined || open.until < clock.now()) return false;
      if (looks) return true;
      all.delete(event);
      if (open.said !== undefined) taken.set(input, open.said);
      return true;
    },
    saidBefore: (input) => taken.get(input),
  };
}
