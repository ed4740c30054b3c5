import { anything, type Fields } from '../../base/fields.js';
import { type Duration, durationInWords, durationMs } from '../../base/time.js';
import type { Expected, ExpectedValue } from '../../contract/expectation.js';
import { type ArgOf, type ArgOptions, type DefaultOf, type Exactly, makeArg, type NoOptions } from '../arg.js';
import { aboveMaximum, belowMinimum, type Kind, type Misread, notOfShape } from '../kind.js';
import { beginsMoment, goesOnMoment, looksLikeMoment } from './moment-words.js';
import { readMoment } from './moments.js';
import { dateOf, exampleWithin, type MomentRange, momentsOffered, momentText } from './moments-told.js';

/** `'now'`, so far from now, or a fixed moment in ISO 8601 with its offset. */
export type DatetimeBound = 'now' | { readonly fromNow: Duration } | `${number}-${string}`;

export interface DatetimeOptions extends ArgOptions<DefaultOf<Date>> {
  readonly min?: DatetimeBound;
  readonly max?: DatetimeBound;
}

const fields: Fields<Omit<DatetimeOptions, keyof ArgOptions<unknown>>> = { min: anything, max: anything };

/**
 * A date and time, in the time zone of the place: `2026-05-09`, `2026-05-09 14:30`, `2026-05-09T14:30+02:00`,
 * `17:00` (the next one), `5pm`, `today 17:00`, `tomorrow`, `friday 9:00` (the next one, today left out), `25 dec`,
 * `31/12`, `in 2 hours`, `in 2 days at 17:00`, `17:00 Europe/Warsaw`, `now`.
 * Words of the caller's language are read, too, if the bot has it: `jutro 17:00`, `5 maja`. A date alone is its first moment. Dates that do not exist and times that clocks skip are refused; what may be two
 * moments (`next friday`, `at 5`, `05/06`) is refused with both of them; of a time that clocks show twice,
 * the first is meant. Where the locale tells which stands first, day or month, `05/06` is read, and the caller is told how.
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

/** `in 1 day 2 hours and 30 minutes at 17:00 UTC` has ten. */
const MOST_WORDS = 12;

function datetimeKind({ min, max }: DatetimeOptions = {}): Kind<Date> {
  const fit = (value: Date, now: number): Date | Misread => {
    const moment = value.getTime();
    if (min !== undefined && moment < (boundAt(min, now) ?? moment)) return belowMinimum;
    if (max !== undefined && moment > (boundAt(max, now) ?? moment)) return aboveMaximum;
    return value;
  };
  const isValue = (value: unknown) => value instanceof Date && !Number.isNaN(value.getTime());
  const range = (now: number): MomentRange => ({
    least: min === undefined ? Number.NEGATIVE_INFINITY : (boundAt(min, now) ?? now),
    most: max === undefined ? Number.POSITIVE_INFINITY : (boundAt(max, now) ?? now),
  });
  return {
    name: 'datetime',
    expected: expectedMoment(min, max, undefined),
    expectedNow: (context) => expectedMoment(min, max, exampleWithin(range(context.now), context)),
    traits: { boundsMove: true },
    example: 'tomorrow 17:00',
    measure: 'moment',
    tokens: MOST_WORDS,
    leavesQuoted: true,
    shape: looksLikeMoment,
    begins: beginsMoment,
    goesOn: goesOnMoment,
    read: (typed, context) =>
      dateOf(readMoment(typed, context), range(context.now), context, (at) => fit(new Date(at), context.now)),
    take: (value, { now }) => (isValue(value) ? fit(value as Date, now) : notOfShape),
    write: (value) => value.toISOString(),
    shown: momentText,
    suggest: (typed, context) => momentsOffered(typed, range(context.now), context),
    isValue,
  };
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

function expectedMoment(
  min: DatetimeBound | undefined,
  max: DatetimeBound | undefined,
  example: string | undefined,
): Expected {
  const words: string[] = [];
  if (min !== undefined) words.push(min === 'now' ? 'in the future' : momentInWords(min, 'not before', 'at least'));
  if (max !== undefined) words.push(max === 'now' ? 'in the past' : momentInWords(max, 'not after', 'at most'));
  const bounds = words.length === 0 ? '' : `, ${words.join(' and ')}`;
  const [lower, from] = momentAsValue(min);
  const [upper, to] = momentAsValue(max);
  return {
    key: 'datetime',
    parameters: { lower, min: from, upper, max: to, example: example ?? 'tomorrow 17:00' },
    english: `a date and time such as ${example ?? 'tomorrow 17:00'}${bounds}`,
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
