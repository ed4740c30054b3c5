/** Wall-clock times in a time zone, and the moments they are. */

import { BoundedMap } from './bounded-map.js';

/** A date and time as a clock on the wall shows it; the month counts from 1. */
export interface WallTime {
  readonly year: number;
  readonly month: number;
  readonly day: number;
  readonly hour: number;
  readonly minute: number;
  readonly second: number;
  readonly ms: number;
}

const HOUR_MS = 3_600_000;
/** Guilds choose zones, in whatever letters. */
const formats = new BoundedMap<string, Intl.DateTimeFormat>(500);

/** Whether the platform knows a time zone by this IANA name. */
export function isTimeZone(name: string): boolean {
  try {
    formatOf(name);
    return true;
  } catch {
    return false;
  }
}

/** What a clock in the zone shows at a moment. */
export function wallTimeAt(instant: number, timeZone: string): WallTime {
  const shown = new Date(instant + offsetAt(instant, timeZone));
  return {
    year: shown.getUTCFullYear(),
    month: shown.getUTCMonth() + 1,
    day: shown.getUTCDate(),
    hour: shown.getUTCHours(),
    minute: shown.getUTCMinutes(),
    second: shown.getUTCSeconds(),
    ms: shown.getUTCMilliseconds(),
  };
}

/**
 * The moment at which a clock in the zone shows a time.
 * A time that is shown twice, when clocks go back, is the first of the two.
 *
 * @returns milliseconds since 1970-01-01 UTC, or `undefined` where no clock ever shows it: the date
 * does not exist, or clocks skip the time that day.
 */
export function instantOf(wall: WallTime, timeZone: string): number | undefined {
  const date = new Date(0);
  // Date.UTC would take the years up to 99 for those of the last century.
  date.setUTCFullYear(wall.year, wall.month - 1, wall.day);
  const asUtc = date.setUTCHours(wall.hour, wall.minute, wall.second, wall.ms);
  if (date.getUTCMonth() + 1 !== wall.month || date.getUTCDate() !== wall.day) return undefined;
  if (date.getUTCHours() !== wall.hour || date.getUTCMinutes() !== wall.minute) return undefined;
  // No zone changes its offset twice within two days, so the offsets around hold all candidates.
  const offsets = [offsetAt(asUtc - 24 * HOUR_MS, timeZone), offsetAt(asUtc + 24 * HOUR_MS, timeZone)];
  const candidates = offsets.map((offset) => asUtc - offset).sort((a, b) => a - b);
  return candidates.find((instant) => instant + offsetAt(instant, timeZone) === asUtc);
}

/** How far the zone is ahead of UTC at a moment, in milliseconds. */
function offsetAt(instant: number, timeZone: string): number {
  if (timeZone === 'UTC') return 0;
  const parts: Record<string, number> = {};
  for (const { type, value } of formatOf(timeZone).formatToParts(instant)) parts[type] = Number(value);
  const { year = 0, month = 1, day = 1, hour = 0, minute = 0, second = 0 } = parts;
  const shown = Date.UTC(year, month - 1, day, hour, minute, second);
  return shown - (instant - (((instant % 1000) + 1000) % 1000));
}

function formatOf(timeZone: string): Intl.DateTimeFormat {
  let format = formats.get(timeZone);
  if (format === undefined) {
    const numeric = {
      year: 'numeric',
      month: 'numeric',
      day: 'numeric',
      hour: 'numeric',
      minute: 'numeric',
      second: 'numeric',
    } as const;
    format = new Intl.DateTimeFormat('en-US', { timeZone, hourCycle: 'h23', calendar: 'iso8601', ...numeric });
    formats.set(timeZone, format);
  }
  return format;
}
