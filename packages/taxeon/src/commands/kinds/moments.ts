/** Dates and times as people type them: `friday 5pm`, `25 dec`, `in 2 days at 17:00`, `2026-05-10 14:30 +02:00`. */
import { nearNames } from '../../base/near.js';
import { instantOf, isTimeZone, type WallTime, wallTimeAt } from '../../base/zone.js';
import { isMisread, Misread, mistaken, notOfShape, type ReadingContext } from '../kind.js';
import { plainly } from './expected.js';
import { goesOnLength, readLength } from './lengths.js';

type Clock = Pick<WallTime, 'hour' | 'minute' | 'second' | 'ms'>;
type Day = Pick<WallTime, 'year' | 'month' | 'day'>;

const weekdays = ['sunday', 'monday', 'tuesday', 'wednesday', 'thursday', 'friday', 'saturday'];
const months = 'january february march april may june july august september october november december'.split(' ');
const dayWords = ['today', 'tonight', 'tomorrow', ...weekdays];
/** What these stand for differs from one country to the next. */
const zoneLetters = /^(?:[ce]es?t|west|wet|bst|ist|jst|msk|[ecmp][sd]t)$/;

const LONGEST_TEXT = 80;
const clockForm = /^(\d{1,2}):(\d{2})(?::(\d{2})(?:\.(\d{1,3}))?)?([ap]m)?$/;
const hourForm = /^(\d{1,2})([ap])\.?m$/;
const isoForm = /^(\d{4})-(\d{1,2})-(\d{1,2})$/;
const slashForm = /^(\d{1,2})\/(\d{1,2})(?:\/(\d{4}))?$/;
const offsetForm = /^([+\-\u2212])(\d{1,2})(?::?(\d{2}))?$/;

const noSuchDay = mistaken(plainly('day', 'a date that exists'));
const noSuchTime = mistaken(plainly('time', 'a time from 0:00 to 23:59'));
const skipped = mistaken(plainly('skipped', 'a time that exists; clocks skip that one on that day'));
const noSuchZone = mistaken(plainly('zone', 'a time with an offset such as +02:00 or a zone such as Europe/London'));
const withoutTime = mistaken(plainly('evening', 'a time too, as in today 20:00'));

/** What a word is in a moment, as a letter, so that the order of words is a pattern of letters. */
const letters: readonly (readonly [letter: string, form: RegExp])[] = [
  ['N', /^now$/],
  ['I', /^in$/],
  ['A', /^at$/],
  ['O', /^o[nf]$/],
  ['X', /^(?:next|this)$/],
  ['D', new RegExp(`^(?:${dayWords.join('|')}|sun|mon|tues?|wed|thurs?|thu|fri|sat)$`)],
  ['M', new RegExp(`^(?:${months.join('|')}|jan|feb|mar|apr|jun|jul|aug|sept?|oct|nov|dec)$`)],
  ['C', new RegExp(`${clockForm.source}|${hourForm.source}|^(?:noon|midnight)$`)],
  ['S', new RegExp(`${isoForm.source}|${slashForm.source}`)],
  ['n', /^\d{1,2}$/],
  ['o', /^\d{1,2}(?:st|nd|rd|th)$/],
  ['Y', /^\d{4}$/],
  ['H', /^[ap]\.?m$/],
  ['Z', new RegExp(`^(?:z|utc|gmt|[a-z]+(?:/[a-z0-9_+-]+)+)$|${zoneLetters.source}|${offsetForm.source}`)],
];
const DAY = '(X?D|S|[no]O?MY?|M[no]Y?)';
const TIME = '(CH?|nH|(?<=A)n)(Z?)';
const forms = [new RegExp(`^(N|IL+|O?${DAY})?(?:A?${TIME})?$`, 'd'), new RegExp(`^()A?${TIME}O?${DAY}$`, 'd')] as const;
/** One of these ends whatever was begun. */
const endings = ['', 'C', 'D', 'H', 'M', 'n', 'L'];

function wordsOf(text: string): readonly string[] {
  return text
    .toLowerCase()
    .replace(/(?<=\d-\d{1,2})t(?=\d)/, ' ')
    .replace(/(?<=:\d{2}(?:\.\d{1,3})?)(?:z|[+\-\u2212]\d{2}:?\d{2})$/, ' $&')
    .split(/\s+/)
    .map((word) => word.replace(/(?<=.)[,.;!?]+$/, ''));
}

/** A letter for each word; `undefined` where one is of no moment. */
function lettersOf(words: readonly string[]): string | undefined {
  let found = '';
  let length = 'for';
  for (const word of words) {
    const isLength = /^IL*$/.test(found) && goesOnLength(word, length);
    const letter = isLength ? 'L' : letters.find(([, form]) => form.test(word))?.[0];
    if (letter === undefined) return undefined;
    if (isLength) length = found === 'I' ? word : `${length} ${word}`;
    found += letter;
  }
  return found;
}

/** Whether a word goes on the moment that `typed` begins. */
export function goesOnMoment(word: string, typed: string): boolean {
  if (typed.length > LONGEST_TEXT || word.length > LONGEST_TEXT) return false;
  const found = lettersOf(wordsOf(`${typed} ${word}`));
  return found !== undefined && endings.some((ending) => forms.some((form) => form.test(found + ending)));
}

/** Whether a text has the form of a moment: it begins with a digit, or its words are those of one. */
export function looksLikeMoment(typed: string): boolean {
  return /^\d/.test(typed) || (typed !== '' && typed.length <= LONGEST_TEXT && isMoment(lettersOf(wordsOf(typed))));
}

function isMoment(found: string | undefined): boolean {
  return found !== undefined && forms.some((form) => form.test(found));
}

/** @returns milliseconds since 1970-01-01 UTC */
export function readMoment(text: string, context: ReadingContext): number | Misread {
  if (text === '' || text.length > LONGEST_TEXT) return notOfShape;
  const words = wordsOf(text);
  const found = lettersOf(words);
  const [dayFirst, timeFirst] = forms.map((form) => form.exec(found ?? 'none'));
  const match = dayFirst ?? timeFirst;
  if (match?.indices === undefined) return words.length === 1 ? nearDay(words[0] as string) : notOfShape;
  const part = (group: number) => words.slice(...(match.indices?.[group] ?? [0, 0]));
  const [day, time, zone] = dayFirst === null ? [part(4), part(2), part(3)] : [part(2), part(3), part(4)];
  const beginning = dayFirst === null ? [] : part(1);
  return momentOf({ beginning, day, time, zone }, context);
}

function nearDay(word: string): Misread {
  const near = nearNames(word, [...dayWords, 'now']);
  return near.length === 0 ? notOfShape : new Misread('argument.invalid', { misfit: 'shape', near });
}

interface Parts {
  /** `now`, or `in` and a length of time. */
  readonly beginning: readonly string[];
  readonly day: readonly string[];
  readonly time: readonly string[];
  readonly zone: readonly string[];
}

function momentOf({ beginning, day, time, zone: [zoneWord] }: Parts, context: ReadingContext): number | Misread {
  const { now } = context;
  const zone = zoneWord === undefined ? context.timeZone : zoneOf(zoneWord);
  if (zone === undefined) return noSuchZone;
  const clocks = clocksOf(time);
  if (isMisread(clocks)) return clocks;
  if (beginning[0] === 'now') return time.length === 0 ? now : notOfShape;
  const today = dayAt(now, zone);
  if (beginning[0] === 'in') {
    const ms = readLength(beginning.slice(1).join(' '));
    if (typeof ms !== 'number' || time.length === 0) return typeof ms === 'number' ? now + ms : ms;
    return oneOf(
      clocks.map((clock) => at(dayAt(now + ms, zone), clock, zone)),
      zone,
    );
  }
  if (day.length === 0)
    return oneOf(
      clocks.map((clock) => nextAt(today, clock, zone, now)),
      zone,
    );
  if (day[0] === 'tonight' && time.length === 0) return withoutTime;
  const days = daysOf(day, today);
  if (isMisread(days)) return days;
  // Midnight on Friday may be its beginning or its end.
  const isMidnight = time[0] === 'midnight';
  const moments = days.flatMap((one) => [
    ...clocks.map((clock) => at(one, clock, zone)),
    ...(isMidnight ? [at(later(one, 1), midnight, zone)] : []),
  ]);
  return oneOf(moments, zone);
}

const midnight: Clock = { hour: 0, minute: 0, second: 0, ms: 0 };

/** What a clock shows; of an hour alone, such as `at 5`, both that it may be. */
function clocksOf([word, half]: readonly string[]): readonly Clock[] | Misread {
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

function at({ year, month, day }: Day, clock: Clock, zone: Zone): number | Misread {
  const wall = { year, month, day, ...clock };
  if (typeof zone === 'string') return instantOf(wall, zone) ?? skipped;
  return (instantOf(wall, 'UTC') ?? 0) - zone * 60_000;
}

/** The next time that a clock shows it: today where that is still to come. */
function nextAt(today: Day, clock: Clock, zone: Zone, now: number): number | Misread {
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
  // The day or the month stands first, as who writes is used to; where only one can be, it is that.
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
function oneOf(moments: readonly (number | Misread)[], zone: Zone): number | Misread {
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
