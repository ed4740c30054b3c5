import { anything, type Fields } from '../../base/fields.js';
import { type Duration, durationInWords, durationMs } from '../../base/time.js';
import type { Expected } from '../../contract/expectation.js';
import { type ArgOf, type ArgOptions, type DefaultFrom, type Exactly, makeArg, type NoOptions } from '../arg.js';
import {
  Apart,
  aboveMaximum,
  belowMinimum,
  isApart,
  isMisread,
  type Kind,
  type Misread,
  notOfShape,
  ReadAs,
  type ReadingContext,
} from '../kind.js';
import { ranging } from './expected.js';
import { beginsLength, goesOnLength, looksLikeLength, readLength } from './lengths.js';
import { beginsMoment, goesOnMoment, looksLikeMoment } from './moment-words.js';
import { inDigits, momentAfter, readMoment } from './moments.js';
import { dateOf, exampleWithin, type MomentRange, momentsOffered, momentText, withExample } from './moments-told.js';

export interface UntilOptions extends ArgOptions<Duration | DefaultFrom<Date>> {
  /** From now. */
  readonly min?: Duration;
  /** From now. */
  readonly max?: Duration;
}

const fields: Fields<Omit<UntilOptions, keyof ArgOptions<unknown>>> = { min: anything, max: anything };

/**
 * Until when: a moment or a length of time from now, `till monday 17:00`, `for 2 days`, `friday 9:00`, `3d`. The handler
 * gets a `Date`. What is read is that of `arg.datetime` and `arg.duration`; a day without a time is its first moment, and the caller
 * is told so. Bounds, and a default, are lengths of time from now.
 *
 * @example
 * arg.until({ description: 'Until when', min: '1h', max: '12d', default: '3d' })
 */
export function until<const Options extends UntilOptions = NoOptions>(
  options?: Exactly<Options, UntilOptions>,
): ArgOf<Date, 'until', Options> {
  const { min, max, default: declared } = (options ?? {}) as UntilOptions;
  const problems: string[] = [];
  const lengthOf = (name: string, length: unknown) => {
    const ms = length === undefined ? undefined : durationMs(length as Duration);
    if (length !== undefined && ms === undefined)
      problems.push(`has \`${name}: ${JSON.stringify(length)}\`; give a duration from now such as '3d'`);
    return ms;
  };
  const [least = 0, most] = [lengthOf('min', min), lengthOf('max', max)];
  if (most !== undefined && least > most) problems.push('has `min` above `max`; swap them');
  const length = typeof declared === 'function' ? undefined : lengthOf('default', declared);
  if (length !== undefined && (length < least || length > (most ?? length)))
    problems.push(`has a default of ${JSON.stringify(declared)}; give one within its bounds`);
  const own = length === undefined ? {} : { default: ({ now }: { now: number }) => new Date(now + length) };
  return makeArg('until', untilKind(least, most), { ...options, ...own } as unknown as Options, problems, fields);
}

/** As many as a moment or a length of time may have, and the word in front. */
const MOST_WORDS = 13;

function untilKind(min: number, max: number | undefined): Kind<Date> {
  const rangeAt = (now: number): MomentRange => ({ least: now + min, most: now + (max ?? Number.POSITIVE_INFINITY) });
  const fit = (moment: number, now: number): Date | Misread => {
    const { least, most } = rangeAt(now);
    return moment < least ? belowMinimum : moment > most ? aboveMaximum : new Date(moment);
  };
  const isValue = (value: unknown) => value instanceof Date && !Number.isNaN(value.getTime());
  return {
    name: 'until',
    expected: expectedUntil(min, max, undefined),
    expectedNow: (context) => expectedUntil(min, max, exampleWithin(rangeAt(context.now), context)),
    traits: { boundsMove: true },
    example: 'tomorrow 17:00',
    measure: 'moment',
    tokens: MOST_WORDS,
    leavesQuoted: true,
    shape: (typed, context) => looksLikeMoment(typed, context) || looksLikeLength(typed, context),
    begins: (word, context) => beginsMoment(word, context) || beginsLength(word, context),
    goesOn: (word, typed, context) => goesOnMoment(word, typed, context) || goesOnLength(word, typed, context),
    read: (typed, context) => readUntil(typed, context, rangeAt(context.now), (moment) => fit(moment, context.now)),
    take: (value, { now }) => (isValue(value) ? fit((value as Date).getTime(), now) : notOfShape),
    write: (value) => value.toISOString(),
    shown: momentText,
    suggest: (typed, context) => momentsOffered(typed, rangeAt(context.now), context),
    isValue,
  };
}

function readUntil(
  typed: string,
  context: ReadingContext,
  range: MomentRange,
  fit: (moment: number) => Date | Misread,
): ReturnType<typeof dateOf> {
  const moment = readMoment(typed, context);
  if (moment === notOfShape) {
    const length = readLength(typed, context);
    const fitLength = (ms: number) => {
      const after = momentAfter(ms, context.now);
      return isMisread(after) ? withExample(after, range, context) : fit(after);
    };
    if (isApart(length)) return new Apart(fitLength(length.value), length.matches, length.isUsual);
    return isMisread(length) ? length : fitLength(length);
  }
  const read = dateOf(moment, range, context, fit);
  // Who says a day may mean the end of it.
  if (!(read instanceof Date)) return read;
  const text = inDigits(read.getTime(), context.timeZone);
  return text.endsWith(' 00:00') && !/\b0?0:00|midnight/i.test(typed) ? new ReadAs(read, text) : read;
}

function expectedUntil(min: number, max: number | undefined, example = 'tomorrow 17:00'): Expected {
  const bounds = { min: min === 0 ? undefined : min, max };
  const { key, parameters, english } = ranging('until', '', bounds, durationInWords, (ms) => ({ ms }));
  return {
    key,
    parameters: { ...parameters, example },
    english: `a time or a length of time such as ${example} or 2h${english === '' ? '' : `,${english} from now`}`,
  };
}
