import type { Clock, Duration } from 'taxeon';
import { millisecondsOf } from 'taxeon/platform';

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
      const ms = typeof length === 'number' ? length : millisecondsOf(length, 'advance');
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
 * that is to be done. On Node.js, files that are being read and the like have their time to end.
 *
 * @throws whatever the promise rejects with
 *
 * @example
 * const { posts } = await runUntil(clock, platform.send(input));
 */
export async function runUntil<T>(clock: VirtualClock, promise: Promise<T>): Promise<T> {
  let isSettled = false;
  const end = () => {
    isSettled = true;
  };
  promise.then(end, end);
  const work = new RealWork();
  for (let idle = 0; !isSettled; idle++) {
    await aRound();
    const wait = clock.untilNext();
    if (isSettled || wait === undefined || idle < IDLE_ROUNDS) continue;
    idle = 0;
    if (work.isUnderWay()) continue;
    clock.advance(wait);
    work.begin();
  }
  return promise;
}

/**
 * Lets the clock run for so long, from one thing that is to be done to the next, each of which has its time to end.
 *
 * @example
 * await runFor(clock, '10m');
 */
export async function runFor(clock: VirtualClock, length: Duration | number): Promise<void> {
  const ms = typeof length === 'number' ? length : millisecondsOf(length, 'runFor');
  const until = clock.now() + ms;
  const work = new RealWork();
  for (let left = ms; left >= 0; left = until - clock.now()) {
    const next = clock.untilNext() ?? Number.POSITIVE_INFINITY;
    clock.advance(Math.min(next, left));
    work.begin();
    do await aRound();
    while (work.isUnderWay());
    if (next > left) return;
  }
}

function aRound(): Promise<void> {
  return new Promise((resolve) => void setTimeout(resolve, 0));
}

/** So long is waited in real time for what is read or written; and for connections, of which some stay open. */
const REQUEST_MS = 2000;
const HANDLE_MS = 100;
const isRequest = /Req|Connect|Write|Promise/;
const isTimer = /^(Timeout|Immediate)$/;

/** What a process waits for that no clock knows: on Node.js, which tells of it. */
class RealWork {
  private readonly handles = activeHandles();
  private since = performance.now();

  begin(): void {
    this.since = performance.now();
  }

  isUnderWay(): boolean {
    const took = performance.now() - this.since;
    if (took > REQUEST_MS) return false;
    return activeResources().some((one) => isRequest.test(one)) || (took < HANDLE_MS && activeHandles() > this.handles);
  }
}

/** Sockets, and ports of threads. */
function activeHandles(): number {
  return activeResources().filter((one) => !isRequest.test(one) && !isTimer.test(one)).length;
}

function activeResources(): readonly string[] {
  const { process } = globalThis as { readonly process?: { getActiveResourcesInfo?(): readonly string[] } };
  return process?.getActiveResourcesInfo?.() ?? [];
}
