import type { Clock } from '../base/time.js';

/** A clock that moves only when it is told to. */
export interface VirtualClock extends Clock {
  /** Moves on by so many milliseconds; a negative number steps back. */
  advance(ms: number): void;
}

/**
 * @param start milliseconds since 1970-01-01 UTC
 *
 * @example
 * const clock = virtualClock(Date.parse('2026-05-09T13:00:00Z'));
 * clock.advance(60_000);
 */
export function virtualClock(start = 0): VirtualClock {
  let now = start;
  return {
    now: () => now,
    advance(ms) {
      now += ms;
    },
  };
}
