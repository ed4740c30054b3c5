/** Durations as people and developers write them, and the clock everything reads time from. */

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

/** `clock.after`, whichever clock it is. */
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

const SECOND = 1000;
const MINUTE = 60 * SECOND;
const HOUR = 60 * MINUTE;
const DAY = 24 * HOUR;
const WEEK = 7 * DAY;

export const unitMs: ReadonlyMap<string, number> = new Map([
  ...['ms', 'millisecond', 'milliseconds'].map((unit) => [unit, 1] as const),
  ...['s', 'sec', 'secs', 'second', 'seconds'].map((unit) => [unit, SECOND] as const),
  ...['m', 'min', 'mins', 'minute', 'minutes'].map((unit) => [unit, MINUTE] as const),
  ...['h', 'hr', 'hrs', 'hour', 'hours'].map((unit) => [unit, HOUR] as const),
  ...['d', 'day', 'days'].map((unit) => [unit, DAY] as const),
  ...['w', 'week', 'weeks'].map((unit) => [unit, WEEK] as const),
]);

/** No sensible duration is longer to write; a longer text is refused before it is looked at. */
const LONGEST_TEXT = 64;

const iso = /^P(?:(\d{1,9})W)?(?:(\d{1,9})D)?(?:T(?:(\d{1,9})H)?(?:(\d{1,9})M)?(?:(\d{1,9}(?:\.\d{1,3})?)S)?)?$/i;
const isoUnits = [WEEK, DAY, HOUR, MINUTE, SECOND] as const;

/**
 * Reads a length of time: `90s`, `1h30m`, `1.5h`, `2 days`, `PT1H30M`.
 *
 * Units must descend and not repeat. Months and years have no fixed length and are not read.
 *
 * @returns whole milliseconds, or `undefined` where the text is no duration.
 *
 * @example
 * parseDuration('1h30m'); // 5400000
 * parseDuration('soon'); // undefined
 */
export function parseDuration(text: string): number | undefined {
  if (text.length > LONGEST_TEXT) return undefined;
  const first = text.charCodeAt(0);
  if (first === 0x50 || first === 0x70) return parseIso(text);
  return parseShort(text) ?? parseParts(text);
}

/** `3d`: the form that people type most, without a regular expression. Hot path: bench/rows/reading. */
function parseShort(text: string): number | undefined {
  let count = 0;
  let position = 0;
  for (; position < text.length; position++) {
    const unit = text.charCodeAt(position);
    if (unit < 0x30 || unit > 0x39) break;
    count = count * 10 + (unit - 0x30);
  }
  if (position === 0 || position > 12 || text.length - position > 2) return undefined;
  const size = unitMs.get(text.slice(position));
  return size === undefined ? undefined : wholeMs(count * size);
}

const part = /\s*(\d{1,12}(?:\.\d{1,3})?)\s*([a-z]+)/iy;

function parseParts(text: string): number | undefined {
  let total = 0;
  let previous = Number.POSITIVE_INFINITY;
  let position = 0;
  while (position < text.length) {
    part.lastIndex = position;
    const match = part.exec(text);
    const unit = match === null ? undefined : unitMs.get((match[2] as string).toLowerCase());
    if (match === null || unit === undefined || unit >= previous) return undefined;
    total += Number(match[1]) * unit;
    previous = unit;
    position = part.lastIndex;
  }
  return previous === Number.POSITIVE_INFINITY ? undefined : wholeMs(total);
}

function parseIso(text: string): number | undefined {
  const match = iso.exec(text);
  if (match === null || /[PT]$/i.test(text)) return undefined;
  let total = 0;
  for (const [index, unit] of isoUnits.entries()) total += Number(match[index + 1] ?? 0) * unit;
  return wholeMs(total);
}

function wholeMs(total: number): number | undefined {
  const ms = Math.round(total);
  return Number.isSafeInteger(ms) ? ms : undefined;
}

/** Milliseconds of a declared duration, or `undefined` where it does not read. */
export function durationMs(duration: unknown): number | undefined {
  if (typeof duration === 'string') return parseDuration(duration);
  if (typeof duration !== 'object' || duration === null || !('ms' in duration)) return undefined;
  const { ms } = duration;
  return typeof ms === 'number' && Number.isSafeInteger(ms) && ms >= 0 ? ms : undefined;
}

const words = [
  [DAY, 'day'],
  [HOUR, 'hour'],
  [MINUTE, 'minute'],
  [SECOND, 'second'],
] as const;

/**
 * A length of time in English, to at most two units: `3 days`, `1 hour 30 minutes`.
 * Rounded up to the second from one second on, so that a wait is never told too short.
 *
 * @example
 * durationInWords(5_400_000); // '1 hour 30 minutes'
 */
export function durationInWords(ms: number): string {
  if (ms < SECOND) return plural(Math.ceil(ms), 'millisecond');
  let left = Math.ceil(ms / SECOND) * SECOND;
  const largest = words.findIndex(([unit]) => left >= unit);
  const smallest = words[Math.min(largest + 1, words.length - 1)]?.[0] ?? SECOND;
  left = Math.ceil(left / smallest) * smallest;
  const parts: string[] = [];
  for (const [unit, name] of words) {
    const count = Math.floor(left / unit);
    if (count === 0) continue;
    parts.push(plural(count, name));
    left -= count * unit;
  }
  return parts.slice(0, 2).join(' ');
}

/** A shorter wait is over before it is read: what is told must still be true then. */
const SHORTEST_WAIT_MS = 3 * SECOND;

/** How long people are told to wait, in whole seconds. */
export function toldWaitMs(ms: number): number {
  return Math.max(SHORTEST_WAIT_MS, Math.ceil(ms / SECOND) * SECOND);
}

function plural(count: number, word: string): string {
  return `${count} ${word}${count === 1 ? '' : 's'}`;
}

/**
 * What a developer gave as a length of time, in milliseconds.
 *
 * @throws TypeError, as types do not hold in JavaScript
 */
export function givenMs(duration: unknown, what: string): number {
  const ms = durationMs(duration);
  if (ms === undefined) throw new TypeError(`${what}: give a duration such as '30s'`);
  return ms;
}
