import { anything, type Fields } from '../../base/fields.js';
import { type Duration, durationInWords, durationMs, goesOnDuration, parseDuration } from '../../base/time.js';
import { instantOf, type WallTime, wallTimeAt } from '../../base/zone.js';
import type { Expected, ExpectedValue } from '../../contract/expectation.js';
import { type ArgOf, type ArgOptions, type DefaultOf, type Exactly, makeArg, type NoOptions } from '../arg.js';
import {
  aboveMaximum,
  belowMinimum,
  isMisread,
  type Kind,
  type Misread,
  misread,
  notOfShape,
  type ReadingContext,
} from '../kind.js';

/** `'now'`, so far from now, or a fixed moment in ISO 8601 with its offset. */
export type DatetimeBound = 'now' | { readonly fromNow: Duration } | `${number}-${string}`;

export interface DatetimeOptions extends ArgOptions<DefaultOf<Date>> {
  readonly min?: DatetimeBound;
  readonly max?: DatetimeBound;
}

const fields: Fields<Omit<DatetimeOptions, keyof ArgOptions<unknown>>> = { min: anything, max: anything };

/**
 * A date and time, in the time zone of the place: `2026-05-09`, `2026-05-09 14:30`, `2026-05-09T14:30+02:00`,
 * `17:00` (the next one), `today 17:00`, `tomorrow`, `friday 9:00` (the next one, today left out), `in 2 hours`, `now`.
 * A date alone is its first moment. Dates that do not exist and times that clocks skip are refused;
 * of a time that clocks show twice, the first is meant.
 *
 * @example
 * arg.datetime({ description: 'From when', min: 'now', max: { fromNow: '60d' } })
 */
export function datetime<const Options extends DatetimeOptions = NoOptions>(
  options?: Exactly<Options, DatetimeOptions>,
): ArgOf<Date, 'datetime', Options> {
  const problems: string[] = [];
  for (const name of ['min', 'max'] as const) {
    const bound = options?.[name];
    if (bound !== undefined && boundAt(bound, 0) === undefined) {
      problems.push(`has \`${name}: ${JSON.stringify(bound)}\`; give 'now', { fromNow: '3d' } or an ISO 8601 moment`);
    }
  }
  return makeArg('datetime', datetimeKind(options), options as Options, problems, fields);
}

function datetimeKind({ min, max }: DatetimeOptions = {}): Kind<Date> {
  const fit = (value: Date, now: number) => {
    const moment = value.getTime();
    if (min !== undefined && moment < (boundAt(min, now) ?? moment)) return belowMinimum;
    if (max !== undefined && moment > (boundAt(max, now) ?? moment)) return aboveMaximum;
    return value;
  };
  const isValue = (value: unknown) => value instanceof Date && !Number.isNaN(value.getTime());
  return {
    name: 'datetime',
    expected: expectedMoment(min, max),
    traits: { boundsMove: true },
    example: 'tomorrow 17:00',
    measure: 'moment',
    tokens: 4,
    leavesQuoted: true,
    shape: (typed) => /^\d/.test(typed) || firstWords.has(typed.toLowerCase()),
    goesOn: (word) => goesOnDuration(word) || furtherWords.has(word.toLowerCase()),
    read: (typed, context) => {
      const read = parseDatetime(typed, context);
      return typeof read === 'number' ? fit(new Date(read), context.now) : read;
    },
    take: (value, { now }) => (isValue(value) ? fit(value as Date, now) : notOfShape),
    write: (value) => value.toISOString(),
    isValue,
  };
}

const weekdays = ['sunday', 'monday', 'tuesday', 'wednesday', 'thursday', 'friday', 'saturday'];
const furtherWords = new Set(['at', 'z']);
const firstWords = new Set(['now', 'in', 'today', 'tomorrow', ...weekdays]);

const LONGEST_TEXT = 64;
const clockForm = /^(\d{1,2}):(\d{2})(?::(\d{2})(?:\.(\d{1,3}))?)?$/;
const isoForm = /^(\d{4})-(\d{2})-(\d{2})(?:[t ]+(\d{1,2}:\d{2}(?::\d{2}(?:\.\d{1,3})?)?)\s*(z|[+-]\d{2}:?\d{2})?)?$/;
const dayForm = new RegExp(`^(today|tomorrow|${weekdays.join('|')})(?:\\s+(?:at\\s+)?(\\S+))?$`);

type Clock = Pick<WallTime, 'hour' | 'minute' | 'second' | 'ms'>;

const midnight: Clock = { hour: 0, minute: 0, second: 0, ms: 0 };

function parseDatetime(text: string, context: ReadingContext): number | Misread {
  if (text.length > LONGEST_TEXT) return notOfShape;
  const typed = text.toLowerCase().replace(/\s+/g, ' ');
  if (typed === 'now') return context.now;
  if (typed.startsWith('in ')) {
    const ms = parseDuration(typed.slice(3));
    return ms === undefined ? notOfShape : context.now + ms;
  }
  const iso = isoForm.exec(typed);
  if (iso !== null) return fromIso(iso, context);
  const day = dayForm.exec(typed);
  if (day !== null) return fromDay(day[1] as string, day[2], context);
  const clock = parseClock(typed);
  return isMisread(clock) ? clock : nextClock(clock, context);
}

function parseClock(text: string | undefined): Clock | Misread {
  if (text === undefined) return midnight;
  const match = clockForm.exec(text);
  if (match === null) return notOfShape;
  const [hour, minute, second] = [Number(match[1]), Number(match[2]), Number(match[3] ?? 0)];
  if (hour > 23 || minute > 59 || second > 59) return noSuchTime;
  return { hour, minute, second, ms: Number((match[4] ?? '').padEnd(3, '0')) };
}

const noSuchDay = misread('a date that exists');
const noSuchTime = misread('a time from 0:00 to 23:59');
const skipped = misread('a time that exists; clocks skip that one on that day');

function fromIso([, year, month, day, time, offset]: RegExpExecArray, { timeZone }: ReadingContext): number | Misread {
  const clock = parseClock(time);
  if (isMisread(clock)) return clock;
  const date = { year: Number(year), month: Number(month), day: Number(day) };
  if (instantOf({ ...date, ...midnight, hour: 12 }, 'UTC') === undefined) return noSuchDay;
  if (offset === undefined) return instantOf({ ...date, ...clock }, timeZone) ?? skipped;
  const utc = instantOf({ ...date, ...clock }, 'UTC');
  const ahead = offsetMs(offset);
  return utc === undefined || ahead === undefined ? notOfShape : utc - ahead;
}

function offsetMs(offset: string): number | undefined {
  if (offset === 'z') return 0;
  const [hours, minutes] = [Number(offset.slice(1, 3)), Number(offset.slice(-2))];
  if (hours > 23 || minutes > 59) return undefined;
  return (offset.startsWith('-') ? -1 : 1) * (hours * 60 + minutes) * 60_000;
}

function fromDay(word: string, time: string | undefined, { now, timeZone }: ReadingContext): number | Misread {
  const clock = parseClock(time);
  if (isMisread(clock)) return clock;
  const today = wallTimeAt(now, timeZone);
  return onDay(today, daysAhead(word, today), clock, timeZone) ?? skipped;
}

function daysAhead(word: string, { year, month, day }: WallTime): number {
  if (word === 'today') return 0;
  if (word === 'tomorrow') return 1;
  const current = new Date(Date.UTC(year, month - 1, day)).getUTCDay();
  return ((weekdays.indexOf(word) - current + 6) % 7) + 1;
}

/** The next time that a clock shows it: today where that is still to come. */
function nextClock(clock: Clock, { now, timeZone }: ReadingContext): number | Misread {
  const today = wallTimeAt(now, timeZone);
  const first = onDay(today, 0, clock, timeZone);
  return (first !== undefined && first > now ? first : onDay(today, 1, clock, timeZone)) ?? skipped;
}

function onDay({ year, month, day }: WallTime, ahead: number, clock: Clock, timeZone: string): number | undefined {
  const date = new Date(Date.UTC(year, month - 1, day + ahead));
  const wall = { year: date.getUTCFullYear(), month: date.getUTCMonth() + 1, day: date.getUTCDate(), ...clock };
  return instantOf(wall, timeZone);
}

function boundAt(bound: DatetimeBound, now: number): number | undefined {
  if (bound === 'now') return now;
  if (typeof bound === 'string') {
    const moment = Date.parse(bound);
    return Number.isNaN(moment) ? undefined : moment;
  }
  const ms = durationMs(bound.fromNow);
  return ms === undefined ? undefined : now + ms;
}

function expectedMoment(min: DatetimeBound | undefined, max: DatetimeBound | undefined): Expected {
  const words: string[] = [];
  if (min !== undefined) words.push(min === 'now' ? 'in the future' : momentInWords(min, 'not before', 'at least'));
  if (max !== undefined) words.push(max === 'now' ? 'in the past' : momentInWords(max, 'not after', 'at most'));
  const bounds = words.length === 0 ? '' : `, ${words.join(' and ')}`;
  const [lower, from] = momentAsValue(min);
  const [upper, to] = momentAsValue(max);
  return {
    key: 'datetime',
    parameters: { lower, min: from, upper, max: to },
    english: `a date and time such as 2026-05-09 14:30 or tomorrow 17:00${bounds}`,
  };
}

function momentInWords(bound: DatetimeBound, fixed: string, relative: string): string {
  if (typeof bound === 'string') return `${fixed} ${bound}`;
  return `${relative} ${durationInWords(durationMs(bound.fromNow) ?? 0)} from now`;
}

function momentAsValue(bound: DatetimeBound | undefined): [how: string, value: ExpectedValue] {
  if (bound === undefined) return ['none', ''];
  if (bound === 'now') return ['now', ''];
  return typeof bound === 'string' ? ['fixed', bound] : ['relative', { ms: durationMs(bound.fromNow) ?? 0 }];
}
