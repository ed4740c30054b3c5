/** Dates and times as people type them: `friday 5pm`, `25 dec`, `in 2 days at 17:00`, `2026-05-10 14:30 +02:00`. */

import { byLocale } from '../../base/by-locale.js';
import { nearNames } from '../../base/near.js';
import { instantOf, isTimeZone, type WallTime, wallTimeAt } from '../../base/zone.js';
import { Apart, isApart, isMisread, Misread, notOfShape, ReadAs, type ReadingContext } from '../kind.js';
import { type ClockTime, clocksOf, midnight, partsOfDay, type TimeWords } from './clock-times.js';
import { countOfWord, isBareUnit, readLength } from './lengths.js';
import {
  noSuchDay,
  noSuchTime,
  noSuchZone,
  notOneDay,
  notOneTime,
  notThatDay,
  skipped,
  withoutTime,
} from './moment-mistakes.js';
import {
  dottedForm,
  isoForm,
  knownOf,
  type Layout,
  LONGEST_TEXT,
  lettersOf,
  momentWords,
  offsetForm,
  slashForm,
} from './moment-words.js';
import { dayWords, months, weekdays } from './typed-words.js';

type Day = Pick<WallTime, 'year' | 'month' | 'day'>;

type OneMoment = number | Misread | ReadAs<number>;
/** Milliseconds since 1970-01-01 UTC; apart where the last number may be one of something else. */
export type ReadMoment = OneMoment | Apart<OneMoment>;

export function readMoment(text: string, context: ReadingContext): ReadMoment {
  if (text === '' || text.length > LONGEST_TEXT) return notOfShape;
  const words = momentWords(text, context);
  const letters = lettersOf(words);
  const layout = letters === undefined ? undefined : knownOf(letters).layout;
  if (letters === undefined || layout === undefined)
    return words.length === 1 ? nearDay(words[0] as string) : notOfShape;
  if (layout.vague !== undefined) return notOneDay;
  const said = (part: keyof Layout): TimeWords => {
    const [from, to] = layout[part] ?? [0, 0];
    return { words: words.slice(from, to), letters: letters.slice(from, to) };
  };
  const [time, day] = [said('time'), said('day')];
  if (layout.range !== undefined || /r/i.test(time.letters)) return notOneTime;
  const zone = zoneOf(said('zone'), day, context);
  if (zone === undefined) return noSuchZone;
  const part = [...said('part').words, ...said('partBehind').words, ...day.words].find((word) => partsOfDay.has(word));
  // An hour alone could be a number of something else.
  const isBare = time.letters === 'n' && part === undefined && !/[AB]/.test(letters[(layout.time?.[0] ?? 0) - 1] ?? '');
  const whole = (moment: OneMoment) => (isBare ? new Apart(moment, [], true, true) : moment);
  const clocks = clocksOf(time, part);
  if (isMisread(clocks)) return whole(clocks);
  const moment =
    layout.now === undefined && layout.ahead === undefined
      ? momentOn(day, clocks, time, zone, context)
      : fromNow(said('ahead').words, clocks, time, zone, context.now);
  if (part !== undefined && time.letters === '')
    return typeof moment === 'number' ? withoutTime(inDigits(moment, zone)) : moment;
  return whole(isBare && typeof moment === 'number' ? new ReadAs(moment, inDigits(moment, zone)) : moment);
}

function nearDay(word: string): Misread {
  const near = nearNames(word, [...dayWords, 'now']);
  return near.length === 0 ? notOfShape : new Misread('argument.invalid', { misfit: 'shape', near });
}

/** `now`, or a length of time from now, perhaps at an hour of that day. */
function fromNow(
  [, ...length]: readonly string[],
  clocks: readonly ClockTime[],
  time: TimeWords,
  zone: Zone,
  now: number,
): number | Misread {
  if (length.length === 0) return time.letters === '' ? now : notOfShape;
  const read = readLength(length.length === 1 && isBareUnit(length[0] as string) ? `1 ${length[0]}` : length.join(' '));
  if (isMisread(read) && read.code === 'argument.ambiguous')
    return new Misread('argument.ambiguous', {
      matches: (read as Misread<'argument.ambiguous'>).parameters.matches.map((one) => `in ${one}`),
    });
  // `in 2 days 5`: an hour of that day is meant, or another length.
  if (read === notOfShape && /^\d{1,2}$/.test(length.at(-1) ?? '')) return noSuchTime;
  const ms = isApart(read) ? read.value : read;
  if (typeof ms !== 'number') return ms;
  const moment = momentAfter(ms, now);
  if (isMisread(moment) || time.letters === '') return moment;
  return oneMoment(
    clocks.map((clock) => at(dayAt(moment, zone), clock, zone)),
    zone,
  );
}

/** The last moment of the year 9999, which calendars and stores can write. */
const LAST_MOMENT = 253_402_300_799_999;

/** A length of time from now, where calendars go so far. */
export function momentAfter(ms: number, now: number): number | Misread {
  return now + ms > LAST_MOMENT ? noSuchDay : now + ms;
}

function momentOn(
  day: TimeWords,
  clocks: readonly ClockTime[],
  time: TimeWords,
  zone: Zone,
  context: ReadingContext,
): number | Misread | ReadAs<number> {
  const { now, locale } = context;
  const today = dayAt(now, zone);
  const [first = '', second = ''] = day.words;
  if (
    day.letters === '' ||
    (day.letters === 'D' && weekdayOf(first) >= 0) ||
    (day.letters === 'XD' && first !== 'next' && weekdayOf(second) >= 0)
  ) {
    const soonest = daysUntil(day.letters === 'XD' ? second : first, today);
    const every = day.letters === '' ? 1 : 7;
    return oneMoment(
      clocks.flatMap((clock) => {
        const moment = soonestAt(today, soonest, every, clock, zone, now);
        // Midnight on Friday may be its beginning or its end.
        const isEither = every === 7 && time.words[0] === 'midnight' && typeof moment === 'number';
        return isEither ? [moment, at(later(dayAt(moment, zone), 1), midnight, zone)] : [moment];
      }),
      zone,
    );
  }
  const dotted = day.words.length === 1 ? dottedForm.exec(first) : null;
  if (dotted !== null) return dottedMoment(dotted, clocks, time.letters !== '', today, zone, context);
  const days = daysOf(day, today);
  if (isMisread(days)) return days;
  const dayComesFirst = days.length > 1 && first !== 'next' ? dayOrderIn(locale)?.isDayFirst : undefined;
  if (dayComesFirst !== undefined) {
    const [one] = days.slice(dayComesFirst ? 0 : 1) as [Day];
    const moment = oneMoment(
      clocks.map((clock) => at(one, clock, zone)),
      zone,
    );
    return typeof moment === 'number' ? new ReadAs(moment, inDigits(moment, zone)) : moment;
  }
  const isMidnight = time.words[0] === 'midnight';
  const moments = days.flatMap((one) => [
    ...(first === 'tonight' && isMidnight ? [] : clocks.map((clock) => at(one, clock, zone))),
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
  const clock = { ...midnight, hour: Number(first), minute: Number(second) };
  const asTime = soonestAt(today, 0, 1, clock, zone, now);
  const [moment] = onDay;
  if (moment === undefined || dayOrderIn(locale)?.isDotted !== true) return oneMoment([...onDay, asTime], zone);
  return typeof moment === 'number' ? new ReadAs(moment, inDigits(moment, zone)) : moment;
}

/** An IANA name, or an offset in minutes as a number. */
type Zone = string | number;

/** From the westernmost to the easternmost place on earth. */
const offsets = { min: -12 * 60, max: 14 * 60 } as const;

function zoneOf({ words, letters }: TimeWords, day: TimeWords, { timeZone }: ReadingContext): Zone | undefined {
  const word = words.join('');
  if (letters === '') return timeZone;
  if (/^(?:z|utc|gmt)$/.test(word)) return 'UTC';
  const [, sign, hours, minutes = '0'] = offsetForm.exec(word) ?? [];
  if (hours === undefined) return word.includes('/') && isTimeZone(word) ? word : undefined;
  // Behind a time that is not of ISO form, it may be the end of a time between two.
  if (letters === 'z' && !day.letters.includes('S')) return undefined;
  const offset = (sign === '+' ? 1 : -1) * (Number(hours) * 60 + Number(minutes));
  return Number(minutes) < 60 && offset >= offsets.min && offset <= offsets.max ? offset : undefined;
}

function dayAt(moment: number, zone: Zone): Day {
  return typeof zone === 'number' ? wallTimeAt(moment + zone * 60_000, 'UTC') : wallTimeAt(moment, zone);
}

function at({ year, month, day }: Day, clock: ClockTime, zone: Zone): number | Misread {
  const wall = { year, month, day, ...clock };
  if (typeof zone === 'string') return instantOf(wall, zone) ?? skipped;
  return (instantOf(wall, 'UTC') ?? 0) - zone * 60_000;
}

/** The next time that a clock shows it, on one of the days that come again: today where that is still to come. */
function soonestAt(
  today: Day,
  days: number,
  every: number,
  clock: ClockTime,
  zone: Zone,
  now: number,
): number | Misread {
  const first = at(later(today, days), clock, zone);
  return typeof first === 'number' && first > now ? first : at(later(today, days === 0 ? every : days), clock, zone);
}

function later({ year, month, day }: Day, days: number): Day {
  return dayAt(Date.UTC(year, month - 1, day + days), 'UTC');
}

const weekdayIn = ({ year, month, day }: Day) => new Date(Date.UTC(year, month - 1, day)).getUTCDay();

/** From Sunday; -1 for what is no day of the week. */
function weekdayOf(word: string): number {
  return word.length < 3 || /^to/.test(word) ? -1 : weekdays.findIndex((name) => name.startsWith(word));
}

/** How many days until the next of a name, from today on. */
function daysUntil(word: string, today: Day): number {
  const named = ['today', 'tomorrow', 'overmorrow'].indexOf(word);
  if (named >= 0) return named;
  if (word === 'yesterday') return -1;
  const wanted = weekdayOf(word);
  return wanted < 0 ? 0 : (wanted - weekdayIn(today) + 7) % 7;
}

/** The days that are meant: two where `next friday` may be the coming one or the one after, or no one knows the order. */
function daysOf({ words, letters }: TimeWords, today: Day): readonly Day[] | Misread {
  const [first = '', second = ''] = words;
  if (letters === 'XP') return first === 'this' ? [today] : notOneDay;
  if (letters === 'XD') {
    if (weekdayOf(second) < 0) return notOneDay;
    const days = daysUntil(second, today) || 7;
    return [days, days + 7].map((one) => later(today, one));
  }
  if (letters.endsWith('GFD')) return words.at(-1) === 'tomorrow' ? [later(today, 2)] : notOneDay;
  if (letters === 'D') return [later(today, daysUntil(first, today))];
  if (!letters.startsWith('D')) return datesOf(words, letters, today);
  // A day of the week, and the date that it is.
  const dates = datesOf(words.slice(1), letters.slice(1), today);
  if (isMisread(dates)) return dates;
  const wanted = weekdayOf(first) < 0 ? undefined : weekdayOf(first);
  const isDay = (day: Day) =>
    wanted === undefined ? later(day, 0).day === later(today, daysUntil(first, today)).day : weekdayIn(day) === wanted;
  const fitting = dates.filter(isDay);
  return fitting.length === 0 ? notThatDay : fitting;
}

function datesOf(words: readonly string[], letters: string, today: Day): readonly Day[] | Misread {
  const [word = ''] = words;
  const iso = isoForm.exec(word);
  if (iso !== null) return existing(dayOf(Number(iso[1]), Number(iso[2]), Number(iso[3])));
  const [, day, month, dottedYear] = dottedForm.exec(word)?.map(Number) ?? [];
  if (day !== undefined) return existing(dated(today, month as number, day, dottedYear || undefined));
  const slash = slashForm.exec(word);
  if (slash === null)
    return letters.includes('M') ? namedDay(words, today) : existing(dayOfMonth(words.at(-1) ?? '', today));
  const [, one, other, year] = slash.map(Number);
  const inFull = year === undefined || Number.isNaN(year) ? undefined : year < 100 ? 2000 + year : year;
  // The day stands first, or the month does, as who writes is used to; where only one can be, it is that.
  const days = [
    [other, one],
    [one, other],
  ].flatMap(([month, day]) => dated(today, Number(month), Number(day), inFull) ?? []);
  return days.length === 0 ? noSuchDay : one === other ? days.slice(0, 1) : days;
}

/** `the 15th`: the next one. */
function dayOfMonth(word: string, { year, month, day }: Day): Day | undefined {
  const wanted = Number.parseInt(word, 10);
  for (let ahead = wanted < day ? 1 : 0; ahead < 12; ahead++) {
    const found = dayOf(year + Math.floor((month - 1 + ahead) / 12), ((month - 1 + ahead) % 12) + 1, wanted);
    if (found !== undefined) return found;
  }
  return undefined;
}

/** `25 dec`, `25th of december 2026`, `dec 25`. */
function namedDay(words: readonly string[], today: Day): readonly Day[] | Misread {
  const numbers = words.flatMap((word) => countOfWord(word) ?? (/^\d/.test(word) ? Number.parseInt(word, 10) : []));
  const name =
    words.find((word) => months.some((month) => month.startsWith(word.slice(0, 3)) && word.length > 2)) ?? '';
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

/** `2026-05-10 17:00`, as a clock in the zone shows it. */
export function inDigits(moment: number, zone: Zone): string {
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
