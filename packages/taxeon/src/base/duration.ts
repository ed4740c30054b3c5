/** Lengths of time as people write them. */
import { DAY, HOUR, MINUTE, SECOND, WEEK, wholeMs } from './time.js';

export const unitMs: ReadonlyMap<string, number> = new Map([
  ...['ms', 'millisecond', 'milliseconds'].map((unit) => [unit, 1] as const),
  ...['s', 'sec', 'secs', 'second', 'seconds'].map((unit) => [unit, SECOND] as const),
  ...['m', 'min', 'mins', 'minute', 'minutes'].map((unit) => [unit, MINUTE] as const),
  ...['h', 'hr', 'hrs', 'hour', 'hours'].map((unit) => [unit, HOUR] as const),
  ...['d', 'day', 'days'].map((unit) => [unit, DAY] as const),
  ...['w', 'week', 'weeks'].map((unit) => [unit, WEEK] as const),
  ...['fortnight', 'fortnights'].map((unit) => [unit, 2 * WEEK] as const),
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
