import { type Clock, type Duration, givenMs } from '../base/time.js';

/** A clock that moves only when it is told to. */
export interface VirtualClock extends Clock {
  /** Goes on where the clock is set back, as a machine's does. */
  elapsed(): number;
  after(ms: number, then: () => void): () => void;
  /** Moves on by `'10m'` or so many milliseconds, and does on the way what was to be done by then; less than none steps back. */
  advance(length: Duration | number): void;
  /** How long until something is to be done, in milliseconds; `undefined` where nothing is. */
  untilNext(): number | undefined;
}

interface Timer {
  readonly at: number;
  readonly then: () => void;
}

/**
 * @param start milliseconds since 1970-01-01 UTC
 *
 * @example
 * const clock = virtualClock(Date.parse('2026-05-09T13:00:00Z'));
 * clock.advance('1m');
 */
export function virtualClock(start = 0): VirtualClock {
  let now = start;
  let setBackMs = 0;
  const timers = new Set<Timer>();

  function next(): Timer | undefined {
    let soonest: Timer | undefined;
    for (const timer of timers) if (soonest === undefined || timer.at < soonest.at) soonest = timer;
    return soonest;
  }

  return {
    now: () => now,
    elapsed: () => now - start + setBackMs,
    after(ms, then) {
      const timer = { at: now + ms, then };
      timers.add(timer);
      return () => void timers.delete(timer);
    },
    advance(length) {
      const ms = typeof length === 'number' ? length : givenMs(length, 'advance');
      const until = now + ms;
      if (ms < 0) setBackMs -= ms;
      for (let timer = next(); timer !== undefined && timer.at <= until; timer = next()) {
        timers.delete(timer);
        now = Math.max(now, timer.at);
        timer.then();
      }
      now = until;
    },
    untilNext() {
      const timer = next();
      return timer === undefined ? undefined : Math.max(0, timer.at - now);
    },
  };
}

/** Rounds of the event loop in which nothing came, before time is moved on to what is waited for. */
const IDLE_ROUNDS = 3;

/**
 * Lets the clock run until a promise settles: whenever nothing else happens, it moves on to the next thing
 * that is to be done.
 *
 * @throws whatever the promise rejects with
 */
export async function runUntil<T>(clock: VirtualClock, promise: Promise<T>): Promise<T> {
  let isSettled = false;
  const end = () => {
    isSettled = true;
  };
  promise.then(end, end);
  for (let idle = 0; !isSettled; idle++) {
    await new Promise((resolve) => setTimeout(resolve, 0));
    const wait = clock.untilNext();
    if (isSettled || wait === undefined || idle < IDLE_ROUNDS) continue;
    clock.advance(wait);
    idle = 0;
  }
  return promise;
}

/**
 * Lets the clock run for so long, from one thing that is to be done to the next, each of which has its time
 * to end.
 */
export async function runFor(clock: VirtualClock, length: Duration | number): Promise<void> {
  const ms = typeof length === 'number' ? length : givenMs(length, 'runFor');
  const until = clock.now() + ms;
  for (let left = ms; left >= 0; left = until - clock.now()) {
    const next = clock.untilNext() ?? Number.POSITIVE_INFINITY;
    clock.advance(Math.min(next, left));
    await new Promise((resolve) => setTimeout(resolve, 0));
    if (next > left) return;
  }
}
