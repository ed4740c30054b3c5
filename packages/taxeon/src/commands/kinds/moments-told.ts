/** Moments as they are told: one that would do, those that are offered, and how one is typed. */
import { wallTimeAt } from '../../base/zone.js';
import type { Expectation } from '../../contract/expectation.js';
import { Apart, isApart, isMisread, isReadAs, type Misread, mistaken, ReadAs, type ReadingContext } from '../kind.js';
import { inDigits, type ReadMoment, readMoment } from './moments.js';
import { weekdays } from './typed-words.js';

/** In milliseconds since 1970-01-01 UTC. */
export interface MomentRange {
  readonly least: number;
  readonly most: number;
}

const MINUTE_MS = 60_000;
const HOUR_MS = 60 * MINUTE_MS;
const DAY_MS = 24 * HOUR_MS;

type OneDate = Date | Misread | ReadAs<Date>;

/** What a kind gives for a moment: a date that fits its bounds, or what would have been right, with a moment that would do. */
export function dateOf(
  read: ReadMoment,
  range: MomentRange,
  context: ReadingContext,
  fit: (moment: number) => Date | Misread,
): OneDate | Apart<OneDate> {
  const oneOf = (one: Exclude<ReadMoment, Apart>): OneDate => {
    if (isMisread(one)) return withExample(one, range, context);
    const fitting = fit(isReadAs(one) ? one.value : one);
    return isMisread(fitting) || !isReadAs(one) ? fitting : new ReadAs(fitting, one.as);
  };
  return isApart(read)
    ? new Apart(oneOf(read.value as Exclude<ReadMoment, Apart>), read.matches, read.isUsual, read.isName)
    : oneOf(read);
}

/** What would have been right, with a moment that would do. */
export function withExample(misread: Misread, range: MomentRange, context: ReadingContext): Misread {
  const { expected } = misread.parameters as { readonly expected?: Expectation };
  if (typeof expected !== 'object') return misread;
  const { example = exampleWithin(range, context) } = expected.parameters;
  if (example === undefined) return misread;
  return mistaken({ ...expected, parameters: { example }, english: `${expected.english}, as in ${example}` });
}

/** A moment that would do now, in digits, which are read in every language; `undefined` where there is none. */
export function exampleWithin({ least, most }: MomentRange, context: ReadingContext): string | undefined {
  const { now, timeZone } = context;
  const middle = (Math.max(least, Math.min(now, most - DAY_MS)) + most) / 2;
  for (const moment of [readMoment('tomorrow 17:00', context), now + HOUR_MS, middle, least + MINUTE_MS, most]) {
    if (typeof moment !== 'number' || !Number.isFinite(moment)) continue;
    const text = inDigits(moment, timeZone);
    const read = readMoment(text, context);
    if (typeof read === 'number' && read >= least && read <= most) return text;
  }
  // Where it must be to the second.
  return Number.isFinite(middle) ? new Date(middle).toISOString() : undefined;
}

const usual = ['today 18:00', 'tomorrow 9:00', 'tomorrow 17:00', ...weekdays.map((day) => `${day} 9:00`)];

/** Moments to choose from, the next one first: in words where people type English, in digits where they do not. */
export function momentsOffered(typed: string, { least, most }: MomentRange, context: ReadingContext): string[] {
  const { now, timeZone, inEnglish } = context;
  const inWords = inEnglish === undefined && !/^\d/.test(typed);
  const known = new Map<number, string>();
  for (const text of usual) {
    const moment = readMoment(text, context);
    if (typeof moment === 'number' && moment > now && moment >= least && moment <= most && !known.has(moment))
      known.set(moment, inWords ? text : inDigits(moment, timeZone));
  }
  return [...known].sort(([one], [other]) => one - other).map(([, text]) => text);
}

/** `Saturday 9:00`, where that reads as the moment now; `2026-12-24 9:00`, or all of it. */
export function momentText(value: Date, context: ReadingContext): string {
  const { now, timeZone } = context;
  const { year, month, day, hour, minute } = wallTimeAt(value.getTime(), timeZone);
  const today = wallTimeAt(now, timeZone);
  const date = Date.UTC(year, month - 1, day);
  const days = (date - Date.UTC(today.year, today.month - 1, today.day)) / DAY_MS;
  const weekday = weekdays[new Date(date).getUTCDay()] ?? '';
  const near = ['today', 'tomorrow'][days] ?? weekday.charAt(0).toUpperCase() + weekday.slice(1);
  const time = `${hour}:${String(minute).padStart(2, '0')}`;
  const readable = [`${near} ${time}`, `${new Date(date).toISOString().slice(0, 10)} ${time}`];
  return readable.find((text) => readMoment(text, context) === value.getTime()) ?? value.toISOString();
}
