import { type Duration, durationInWords, durationMs, parseDuration } from '../../base/time.js';
import { type ArgOf, type ArgOptions, type DefaultFrom, type Exactly, makeArg, type NoOptions } from '../arg.js';
import { aboveMaximum, belowMinimum, type Kind, notOfShape } from '../kind.js';

export interface DurationOptions extends ArgOptions<Duration | DefaultFrom<number>> {
  readonly min?: Duration;
  readonly max?: Duration;
}

/**
 * A length of time: `90s`, `1h30m`, `2 days`, `PT1H30M`. The handler gets milliseconds.
 * A computed default gives milliseconds too.
 *
 * @example
 * arg.duration({ description: 'For how long', min: '30d', max: '365d', default: '180d' })
 */
export function duration<const Options extends DurationOptions = NoOptions>(
  options?: Exactly<Options, DurationOptions>,
): ArgOf<number, 'duration', Options> {
  const problems: string[] = [];
  const least = bound('min', options?.min, 0, problems);
  const most = bound('max', options?.max, Number.MAX_SAFE_INTEGER, problems);
  if (least > most) problems.push('has `min` above `max`; swap them');
  return makeArg('duration', durationKind(least, most, options), options as Options, problems);
}

function durationKind(least: number, most: number, { min, max }: DurationOptions = {}): Kind<number> {
  const bounded = (ms: number) => (ms < least ? belowMinimum : ms > most ? aboveMaximum : ms);
  return {
    name: 'duration',
    expected: `a length of time${range(min, max, least, most)}`,
    example: min === undefined ? '2h' : (shortText(least) ?? '2h'),
    tokens: 4,
    leavesQuoted: true,
    shape: (typed) => /^(?:\d|p(?:\d|t\d))/i.test(typed),
    read: (typed) => {
      const ms = parseDuration(typed);
      return ms === undefined ? notOfShape : bounded(ms);
    },
    accepts: (value) => typeof value === 'number' && Number.isSafeInteger(value) && bounded(value) === value,
    fromDeclared: durationMs,
  };
}

function shortText(ms: number): string | undefined {
  const units = [
    ['d', 86_400_000],
    ['h', 3_600_000],
    ['m', 60_000],
    ['s', 1000],
    ['ms', 1],
  ] as const;
  for (const [unit, size] of units) if (ms > 0 && ms % size === 0) return `${ms / size}${unit}`;
  return undefined;
}

function range(min: Duration | undefined, max: Duration | undefined, least: number, most: number): string {
  if (min !== undefined && max !== undefined) return ` from ${durationInWords(least)} to ${durationInWords(most)}`;
  if (min !== undefined) return ` of at least ${durationInWords(least)}`;
  return max === undefined ? '' : ` of at most ${durationInWords(most)}`;
}

function bound(name: string, declared: Duration | undefined, otherwise: number, problems: string[]): number {
  if (declared === undefined) return otherwise;
  const ms = durationMs(declared);
  if (ms === undefined) problems.push(`has \`${name}: ${JSON.stringify(declared)}\`; give a duration such as '30d'`);
  return ms ?? otherwise;
}
