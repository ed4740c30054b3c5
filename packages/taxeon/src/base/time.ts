/** The clock everything reads time from, one that never goes back, and lengths of time as developers write them. */

/** Where time comes from. `now()` is in milliseconds since 1970-01-01 UTC. */
export interface Clock {
  now(): number;
  /** Milliseconds, with fractions, from any fixed moment; for measuring. `now` serves where it is absent. */
  elapsed?(): number;
  /** Calls back once after so many milliseconds, unless the function it gives is called before. The machine's own timer where it is absent. */
  after?(ms: number, then: () => void): () => void;
}

/** The machine's own clock. */
export const systemClock: Clock = { now: () => Date.now(), elapsed: () => performance.now(), after: machineTimer };

/**
 * `clock.after`, whichever clock it is. Gives what ends the wait.
 *
 * @example
 * const cancel = after(systemClock, 5000, () => console.log('Nothing has come.'));
 */
export function after(clock: Clock, ms: number, then: () => void): () => void {
  return clock.after === undefined ? machineTimer(ms, then) : clock.after(ms, then);
}

/** The same for what nobody waits for: it does not keep a process alive. */
export function inBackground(clock: Clock, ms: number, then: () => void): () => void {
  if (clock.after !== undefined && clock !== systemClock) return clock.after(ms, then);
  const timer: unknown = setTimeout(then, Math.min(ms, LONGEST_TIMER_MS));
  // A browser's is a number.
  (timer as { unref?(): void }).unref?.();
  return () => clearTimeout(timer as ReturnType<typeof setTimeout>);
}

/** Longer waits than the machine's timer knows end early, which is sooner than anybody will see. */
const LONGEST_TIMER_MS = 2 ** 31 - 1;

function machineTimer(ms: number, then: () => void): () => void {
  const timer = setTimeout(then, Math.min(ms, LONGEST_TIMER_MS));
  return () => clearTimeout(timer);
}

type Unit = 'ms' | 's' | 'm' | 'h' | 'd' | 'w';
type Part = `${number}${Unit}`;

/** A length of time as text: `'90s'`, `'1h30m'`, `'180d'`. */
export type DurationText = Part | `${Part}${Part}` | `${Part}${Part}${Part}`;

/** A length of time in a declaration. A bare number has no unit and is refused by the type. */
export type Duration = DurationText | { readonly ms: number };

export const SECOND = 1000;
export const MINUTE = 60 * SECOND;
export const HOUR = 60 * MINUTE;
export const DAY = 24 * HOUR;
export const WEEK = 7 * DAY;

/** As they must follow each other. */
const units = { w: WEEK, d: DAY, h: HOUR, m: MINUTE, s: SECOND, ms: 1 } as const;

/** Milliseconds of a declared duration, or `undefined` where it does not read. */
export function durationMs(duration: unknown): number | undefined {
  if (typeof duration === 'string') return declaredMs(duration);
  if (typeof duration !== 'object' || duration === null || !('ms' in duration)) return undefined;
  const { ms } = duration;
  return typeof ms === 'number' && Number.isSafeInteger(ms) && ms >= 0 ? ms : undefined;
}

/** Units must descend and not repeat. */
function declaredMs(text: string): number | undefined {
  if (!/^(?:\d{1,12}(?:\.\d{1,3})?(?:ms|[smhdw])){1,6}$/.test(text)) return undefined;
  let total = 0;
  let previous = Number.POSITIVE_INFINITY;
  for (const [, count, unit] of text.matchAll(/([\d.]+)([a-z]+)/g)) {
    const size = units[unit as Unit];
    if (size >= previous) return undefined;
    total += Number(count) * size;
    previous = size;
  }
  return wholeMs(total);
}

export function wholeMs(total: number): number | undefined {
  const ms = Math.round(total);
  return Number.isSafeInteger(ms) ? ms : undefined;
}

const told = [
  ['day', DAY],
  ['hour', HOUR],
  ['minute', MINUTE],
  ['second', SECOND],
] as const;

/**
 * How many of which units a length of time is told as: at most two of them, rounded up to the second from one second on,
 * so that a wait is never told too short.
 */
export function unitsOf(ms: number): (readonly [count: number, unit: (typeof told)[number][0] | 'millisecond'])[] {
  if (ms < SECOND) return [[Math.ceil(ms), 'millisecond']];
  let left = Math.ceil(ms / SECOND) * SECOND;
  const largest = told.findIndex(([, size]) => left >= size);
  const smallest = told[Math.min(largest + 1, told.length - 1)]?.[1] ?? SECOND;
  left = Math.ceil(left / smallest) * smallest;
  const counts = told.map(([unit, size]) => {
    const count = Math.floor(left / size);
    left -= count * size;
    return [count, unit] as const;
  });
  return counts.filter(([count]) => count > 0).slice(0, 2);
}

/**
 * A length of time in English, to at most two units: `3 days`, `1 hour 30 minutes`.
 * Rounded up to the second from one second on, so that a wait is never told too short.
 *
 * @example
 * durationInWords(5_400_000); // '1 hour 30 minutes'
 */
export function durationInWords(ms: number): string {
  return unitsOf(ms)
    .map(([count, unit]) => `${count} ${unit}${count === 1 ? '' : 's'}`)
    .join(' ');
}

/** A shorter wait is over before it is read: what is told must still be true then. */
const SHORTEST_WAIT_MS = 3 * SECOND;

/** How long people are told to wait, in whole seconds. */
export function toldWaitMs(ms: number): number {
  return Math.max(SHORTEST_WAIT_MS, Math.ceil(ms / SECOND) * SECOND);
}

/**
 * What a developer gave as a length of time, in milliseconds.
 *
 * @param what the option, for the error
 * @throws TypeError, as types do not hold in JavaScript
 *
 * @example
 * millisecondsOf('1h30m', 'deskChat, patience'); // 5_400_000
 */
export function millisecondsOf(duration: unknown, what: string): number {
  const ms = durationMs(duration);
  if (ms === undefined) throw new TypeError(`${what}: give a duration such as '30s'`);
  return ms;
}

/** A clock that never goes back. */
export interface SteadyClock extends Clock {
  /** In whole milliseconds: hot path, bench/rows/limits. */
  now(): number;
  /** How far `now` is ahead of the clock that it is made of, in milliseconds. */
  aheadMs(): number;
}

/** Between two looks at the elapsed time, which costs more than the time of day. */
const ANCHOR_EVERY_MS = 1000;

/**
 * A clock that never goes back. Where the one that it is made of does, time goes on from where it was, by what has elapsed meanwhile where the clock knows that. A
 * step ahead cannot be told from a sleep of the machine, and counts.
 *
 * @example
 * const clock = steadyClock(systemClock);
 */
export function steadyClock(clock: Clock): SteadyClock {
  let aheadMs = 0;
  let lastWall = Math.floor(clock.now());
  let lastNow = lastWall;
  /** A moment at which all of the times were looked at. */
  let anchorWall = lastWall;
  let anchorNow = lastWall;
  let anchorElapsed = clock.elapsed?.() ?? 0;

  function anchorAt(wall: number): void {
    anchorWall = wall;
    anchorNow = wall + aheadMs;
    anchorElapsed = clock.elapsed?.() ?? 0;
  }

  function move(wall: number): void {
    // A clock of the developer's that does not know the time is not believed.
    if (Number.isNaN(wall)) return;
    if (wall < lastWall) {
      const since = Math.round((clock.elapsed?.() ?? 0) - anchorElapsed) || 0;
      aheadMs = Math.max(lastNow, anchorNow + since) - wall;
      anchorAt(wall);
    } else if (wall - anchorWall >= ANCHOR_EVERY_MS) anchorAt(wall);
    lastWall = wall;
    lastNow = wall + aheadMs;
  }

  return {
    ...clock,
    aheadMs: () => aheadMs,
    now() {
      const wall = Math.floor(clock.now());
      if (wall !== lastWall) move(wall);
      return lastNow;
    },
  };
}
