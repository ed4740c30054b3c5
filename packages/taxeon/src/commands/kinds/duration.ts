import { parseDuration } from '../../base/duration.js';
import { aFlag, anything, type Fields } from '../../base/fields.js';
import { type Duration, durationInWords, durationMs } from '../../base/time.js';
import { type ArgOf, type ArgOptions, type DefaultFrom, type Exactly, makeArg, type NoOptions } from '../arg.js';
import { Apart, isApart, type Kind, notOfShape } from '../kind.js';
import { bounded } from './bounds.js';
import { ranging } from './expected.js';
import { beginsLength, goesOnLength, goesOnLengthWith, looksLikeLength, readLength } from './lengths.js';

export interface DurationOptions extends ArgOptions<Duration | DefaultFrom<number>> {
  readonly min?: Duration;
  readonly max?: Duration;
  /** Lowers what is above `max` to it and tells the caller, where otherwise it would be refused. */
  readonly cap?: boolean;
}

const fields: Fields<Omit<DurationOptions, keyof ArgOptions<unknown>>> = { min: anything, max: anything, cap: aFlag };

/**
 * A length of time: `90s`, `1h30m`, `2 days`, `PT1H30M`, or the words for it of a language that the bot has, such as `2 dni`. The handler gets milliseconds.
 * A computed default gives milliseconds too.
 *
 * @example
 * arg.duration({ description: 'For how long', min: '30d', max: '365d', default: '180d' })
 */
export function duration<const Options extends DurationOptions = NoOptions>(
  options?: Exactly<Options, DurationOptions>,
): ArgOf<number, 'duration', Options> {
  const problems: string[] = [];
  const min = bound('min', options?.min, problems);
  const max = bound('max', options?.max, problems);
  if (min !== undefined && max !== undefined && min > max) problems.push('has `min` above `max`; swap them');
  if (options?.cap === true && max === undefined) problems.push('has `cap` and no `max`; say what to lower to');
  return makeArg('duration', durationKind(min, max, options?.cap === true), options as Options, problems, fields);
}

/** `1 w 2 d 3 h 4 m 5 s` has ten. */
const MOST_WORDS = 12;

function durationKind(min: number | undefined, max: number | undefined, cap: boolean): Kind<number> {
  // Nothing is no length, unless it is said to be one.
  const fit = bounded({ min: min ?? 1, max: max ?? Number.MAX_SAFE_INTEGER, cap }, (ms) => ({ ms }));
  return {
    name: 'duration',
    expected: ranging('duration', 'a length of time', { min, max }, durationInWords, (ms) => ({ ms })),
    traits: { readsAlone: true },
    example: shortText(min || Math.min(7_200_000, max ?? 7_200_000)),
    measure: 'length',
    tokens: MOST_WORDS,
    leavesQuoted: true,
    shape: looksLikeLength,
    begins: beginsLength,
    goesOnWith: goesOnLengthWith,
    goesOn: goesOnLength,
    read: (typed, context) => {
      const read = readLength(typed, context);
      if (typeof read === 'number') return fit(read);
      return isApart(read) ? new Apart(fit(read.value), read.matches, read.isUsual) : read;
    },
    take: (value) => (Number.isSafeInteger(value) ? fit(value as number) : notOfShape),
    write: shortText,
    shown(value) {
      const words = durationInWords(value);
      return parseDuration(words) === value ? words : shortText(value);
    },
    isValue: (value) => Number.isSafeInteger(value) && fit(value as number) === value,
    fromDeclared: durationMs,
  };
}

const units = [
  ['d', 86_400_000],
  ['h', 3_600_000],
  ['m', 60_000],
  ['s', 1000],
  ['ms', 1],
] as const;

/** `1d12h`, `90s`; never more than needed. */
function shortText(ms: number): string {
  let left = ms;
  let text = '';
  for (const [unit, size] of units) {
    const count = Math.floor(left / size);
    if (count > 0) text += `${count}${unit}`;
    left -= count * size;
  }
  return text === '' ? '0s' : text;
}

function bound(name: string, declared: Duration | undefined, problems: string[]): number | undefined {
  if (declared === undefined) return undefined;
  const ms = durationMs(declared);
  if (ms === undefined) problems.push(`has \`${name}: ${JSON.stringify(declared)}\`; give a duration such as '30d'`);
  return ms;
}
