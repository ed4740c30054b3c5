/** Dates and times as people type them: `friday 5pm`, `25 dec`, `in 2 days at 17:00`, `2026-05-10 14:30 +02:00`. */

import { byLocale } from '../../base/by-locale.js';
import { nearNames } from '../../base/near.js';
import { instantOf, isTimeZone, type WallTime, wallTimeAt } from '../../base/zone.js';
import { isApart, isMisread, Misread, mistaken, notOfShape, ReadAs, type ReadingContext } from '../kind.js';
import { plainly } from './expected.js';
import { readLength } from './lengths.js';
import {
  clockForm,
  dayWords,
  dottedForm,
  hourForm,
  isoForm,
  knownOf,
  LONGEST_TEXT,
  lettersOf,
  momentWords,
  months,
  offsetForm,
  slashForm,
  weekdays,
} from './moment-words.js';

type ClockTime = Pick<WallTime, 'hour' | 'minute' | 'second' | 'ms'>;
type Day = Pick<WallTime, 'year' | 'month' | 'day'>;

const texts = {
  day: 'a date that exists',
  time: 'a time from 0:00 to 23:59',
  skipped: 'a time that exists; clocks skip that one on that day',
  zone: 'a time with an offset such as +02:00 or a zone such as Europe/London',
  evening: 'a time too, as in today 20:00',
} as const;

/** Says what is expected in place of a mistake in a moment. */
export type MomentKey = keyof typeof texts;

const noSuchDay = mistake('day');
const noSuchTime = mistake('time');
const skipped = mistake('skipped');
const noSuchZone = mistake('zone');
const withoutTime = mistake('evening');

function mistake(key: MomentKey): Misread {
  return mistaken(plainly(key, texts[key]));
}

/** @returns milliseconds since 1970-01-01 UTC */
export function readMoment(text: string, context: ReadingContext): number | Misread | ReadAs<number> {
  if (text === '' || text.length > LONGEST_TEXT) return notOfShape;
  const words = momentWords(text, context);
  const found = lettersOf(words);
  const layout = found === undefined ? undefined : knownOf(found).layout;
  if (layout === undefined) return words.length === 1 ? nearDay(words[0] as string) : notOfShape;
  const { beginning, day, time, zone } = layout;
  return momentOf(words.slice(0, beginning), words.slice(...day), words.slice(...time), words[zone], context);
}

function nearDay(word: string): Misread {
  const near = nearNames(word, [...dayWords, 'now']);
  return near.length === 0 ? notOfShape : new Misread('argument.invalid', { misfit: 'shape', near });
}

function momentOf(
  beginning: readonly string[],
  day: readonly string[],
  time: readonly string[],
  zoneWord: string | undefined,
  context: ReadingContext,
): number | Misread | ReadAs<number> {
  const { now } = context;
  const zone = zoneWord === undefined ? context.timeZone : zoneOf(zoneWord);
  if (zone === undefined) return noSuchZone;
  const clocks = clocksOf(time);
  if (isMisread(clocks)) return clocks;
  if (beginning[0] === 'now') return time.length === 0 ? now : notOfShape;
  const today = dayAt(now, zone);
  if (beginning[0] === 'in') {
    const read = readLength(beginning.slice(1).join(' '));
    const ms = isApart(read) ? read.value : read;
    if (typeof ms !== 'number' || time.length === 0) return typeof ms === 'number' ? now + ms : ms;
    return oneMoment(
      clocks.map((clock) => at(dayAt(now + ms, zone), clock, zone)),
      zone,
    );
  }
  if (day.length === 0)
    return oneMoment(
      clocks.map((clock) => nextAt(today, clock, zone, now)),
      zone,
    );
  const dotted = dottedForm.exec(day[0] ?? '');
  if (dotted !== null) return dottedMoment(dotted, clocks, time.length > 0, today, zone, context);
  if (day[0] === 'tonight' && time.length === 0) return withoutTime;
  const days = daysOf(day, today);
  if (isMisread(days)) return days;
  const dayComesFirst =
    days.length > 1 && slashForm.test(day[0] as string) ? dayOrderIn(context.locale)?.isDayFirst : undefined;
  if (dayComesFirst !== undefined) {
    const [one] = days.slice(dayComesFirst ? 0 : 1) as [Day];
    const moment = oneMoment(
      clocks.map((clock) => at(one, clock, zone)),
      zone,
    );
    return typeof moment === 'number' ? new ReadAs(moment, inDigits(moment, zone)) : moment;
  }
  // Midnight on Friday may be its beginning or its end.
  const isMidnight = time[0] === 'midnight';
  const moments = days.flatMap((one) => [
    ...clocks.map((clock) => at(one, clock, zone)),
    ...(isMidnight ? [at(later(one, 1), midnight, zone)] : []),
  ]);
  return oneMoment(moments, zone);
}

/** `05.06.2026` is a day. Without a year it may be a time as well: a day where people write them so, and asked about elsewhere. */
function dottedMoment(
  [, first = '', second = '', year]: readonly string[],
  clocks: readonly ClockTime[],
  hasTime: boolean,
  today: Day,
  zone: Zone,
  { now, locale }: ReadingContext,
): number | Misread | ReadAs<number> {
  // `1.5` is more often a number.
  if (year === undefined && second.length < 2 && dayOrderIn(locale)?.isDotted !== true) return notOfShape;
  const day = dated(today, Number(second), Number(first), year === undefined ? undefined : Number(year));
  const onDay = day === undefined ? [] : clocks.map((clock) => at(day, clock, zone));
  const isClock = year === undefined && !hasTime && second.length === 2 && Number(first) < 24 && Number(second) < 60;
  if (!isClock) return day === undefined ? noSuchDay : oneMoment(onDay, zone);
  const asTime = nextAt(today, { ...midnight, hour: Number(first), minute: Number(second) }, zone, now);
  const [moment] = onDay;
  if (moment === undefined || dayOrderIn(locale)?.isDotted !== true) return oneMoment([...onDay, asTime], zone);
  return typeof moment === 'number' ? new ReadAs(moment, inDigits(moment, zone)) : moment;
}

const midnight: ClockTime = { hour: 0, minute: 0, second: 0, ms: 0 };

/** What a clock shows; of an hour alone, such as `at 5`, both that it may be. */
function clocksOf([word, half]: readonly string[]): readonly ClockTime[] | Misread {
  if (word === undefined || word === 'midnight') return [midnight];
  if (word === 'noon') return [{ ...midnight, hour: 12 }];
  const [, hours = '', minutes = '0', seconds = '0', ms = '', attached] = clockForm.exec(word) ?? [];
  const hour = Number(hours || Number.parseInt(word, 10));
  const clock = { hour, minute: Number(minutes), second: Number(seconds), ms: Number(ms.padEnd(3, '0')) };
  const part = attached ?? hourForm.exec(word)?.[2] ?? half;
  if (clock.minute > 59 || clock.second > 59 || hour > 23) return noSuchTime;
  if (part !== undefined)
    return hour < 1 || hour > 12 ? noSuchTime : [{ ...clock, hour: (hour % 12) + (part.startsWith('p') ? 12 : 0) }];
  const isHourAlone = hours === '' && hour >= 1 && hour <= 12;
  return isHourAlone
    ? [
        { ...clock, hour: hour % 12 },
        { ...clock, hour: (hour % 12) + 12 },
      ]
    : [clock];
}

/** An IANA name, or an offset in minutes as a number. */
type Zone = string | number;

function zoneOf(word: string): Zone | undefined {
  if (/^(?:z|utc|gmt)$/.test(word)) return 'UTC';
  const [, sign, hours, minutes = '0'] = offsetForm.exec(word) ?? [];
  if (hours === undefined) return word.includes('/') && isTimeZone(word) ? word : undefined;
  if (Number(hours) > 23 || Number(minutes) > 59) return undefined;
  return (sign === '+' ? 1 : -1) * (Number(hours) * 60 + Number(minutes));
}

function dayAt(moment: number, zone: Zone): Day {
  return typeof zone === 'number' ? wallTimeAt(moment + zone * 60_000, 'UTC') : wallTimeAt(moment, zone);
}

function at({ year, month, day }: Day, clock: ClockTime, zone: Zone): number | Misread {
  const wall = { year, month, day, ...clock };
  if (typeof zone === 'string') return instantOf(wall, zone) ?? skipped;
  return (instantOf(wall, 'UTC') ?? 0) - zone * 60_000;
}

/** The next time that a clock shows it: today where that is still to come. */
function nextAt(today: Day, clock: ClockTime, zone: Zone, now: number): number | Misread {
  const first = at(today, clock, zone);
  return typeof first === 'number' && first > now ? first : at(later(today, 1), clock, zone);
}

function later({ year, month, day }: Day, days: number): Day {
  return dayAt(Date.UTC(year, month - 1, day + days), 'UTC');
}

/** The days that are meant: two where `next friday` may be the coming one or the one after. */
function daysOf(words: readonly string[], today: Day): readonly Day[] | Misread {
  const [first = '', second = ''] = words;
  if (first === 'next')
    return [daysUntil(second, today), daysUntil(second, today) + 7].map((days) => later(today, days));
  const word = first === 'this' ? second : first;
  if (dayWords.some((name) => name.startsWith(word)) && !/^\d/.test(word))
    return [later(today, daysUntil(word, today))];
  const iso = isoForm.exec(word);
  if (iso !== null) return existing(dayOf(Number(iso[1]), Number(iso[2]), Number(iso[3])));
  const slash = slashForm.exec(word);
  if (slash === null) return namedDay(words, today);
  const [, one, other, year] = slash.map(Number);
  // The day stands first, or the month does, as who writes is used to; where only one can be, it is that.
  const days = [
    [other, one],
    [one, other],
  ].flatMap(([month, day]) => dated(today, Number(month), Number(day), year || undefined) ?? []);
  return days.length === 0 ? noSuchDay : one === other ? days.slice(0, 1) : days;
}

/** How many days until the next of a name, today left out. */
function daysUntil(word: string, { year, month, day }: Day): number {
  if (word === 'tomorrow') return 1;
  const wanted = weekdays.findIndex((name) => name.startsWith(word));
  if (wanted < 0 || word.startsWith('to')) return 0;
  return ((wanted - new Date(Date.UTC(year, month - 1, day)).getUTCDay() + 6) % 7) + 1;
}

/** `25 dec`, `25th of december 2026`, `dec 25`. */
function namedDay(words: readonly string[], today: Day): readonly Day[] | Misread {
  const numbers = words.filter((word) => /^\d/.test(word)).map((word) => Number.parseInt(word, 10));
  const name = words.find((word) => /^[a-z]/.test(word) && word !== 'of') ?? '';
  const month = months.findIndex((one) => one.startsWith(name.slice(0, 3))) + 1;
  return existing(dated(today, month, numbers[0] as number, numbers[1]));
}

/** Without a year, the next such day. */
function dated(today: Day, month: number, day: number, year: number | undefined): Day | undefined {
  if (year !== undefined) return dayOf(year, month, day);
  const isPast = month < today.month || (month === today.month && day < today.day);
  return dayOf(today.year + (isPast ? 1 : 0), month, day);
}

function dayOf(year: number, month: number, day: number): Day | undefined {
  const exists = month >= 1 && instantOf({ year, month, day, ...midnight }, 'UTC') !== undefined;
  return exists ? { year, month, day } : undefined;
}

function existing(day: Day | undefined): readonly Day[] | Misread {
  return day === undefined ? noSuchDay : [day];
}

/** The moment, where there is only one; otherwise all that it may be, as they can be typed. */
function oneMoment(moments: readonly (number | Misread)[], zone: Zone): number | Misread {
  const known = moments.filter((one) => typeof one === 'number');
  if (known.length < 2) return known[0] ?? moments[0] ?? notOfShape;
  return new Misread('argument.ambiguous', { matches: known.map((one) => inDigits(one, zone)) });
}

function inDigits(moment: number, zone: Zone): string {
  const shift = typeof zone === 'number' ? zone * 60_000 : 0;
  const { year, month, day, hour, minute } = wallTimeAt(
    moment + shift,
    shift === 0 && typeof zone === 'string' ? zone : 'UTC',
  );
  const two = (value: number) => String(value).padStart(2, '0');
  return `${year}-${two(month)}-${two(day)} ${two(hour)}:${two(minute)}`;
}

// How days are written in numbers where a person is.
interface DayOrder {
  readonly isDayFirst: boolean;
  /** Whether a dot parts the day from the month, so that `05.06` is no time. */
  readonly isDotted: boolean;
}

const orderIn = byLocale((locale): DayOrder => {
  const parts = new Intl.DateTimeFormat(locale, { month: 'numeric', day: 'numeric' }).formatToParts(0);
  return {
    isDayFirst: parts.find(({ type }) => type === 'month' || type === 'day')?.type === 'day',
    isDotted: parts.some(({ type, value }) => type === 'literal' && value.startsWith('.')),
  };
});

/** `undefined` where the locale does not tell: some countries write it one way in English, and some the other. */
function dayOrderIn(locale: string | undefined): DayOrder | undefined {
  return locale === 'en' ? undefined : orderIn(locale);
}
