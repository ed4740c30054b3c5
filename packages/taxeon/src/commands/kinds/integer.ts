import { type ArgOf, type ArgOptions, type DefaultOf, type Exactly, makeArg, type NoOptions } from '../arg.js';
import { aboveMaximum, belowMinimum, type Kind, notOfShape } from '../kind.js';

export interface IntegerOptions extends ArgOptions<DefaultOf<number>> {
  readonly min?: number;
  readonly max?: number;
}

/**
 * A whole number, read strictly: `10abc`, `1e3`, `0x10` and anything beyond 2^53 − 1 are refused.
 *
 * @example
 * arg.integer({ description: 'How much, in pence', min: 1, max: 500 })
 */
export function integer<const Options extends IntegerOptions = NoOptions>(
  options?: Exactly<Options, IntegerOptions>,
): ArgOf<number, 'integer', Options> {
  return makeArg('integer', integerKind(options), options as Options, boundProblems(options));
}

function integerKind({ min, max }: IntegerOptions = {}): Kind<number> {
  const least = min ?? Number.MIN_SAFE_INTEGER;
  const most = max ?? Number.MAX_SAFE_INTEGER;
  const bounded = (value: number) => (value < least ? belowMinimum : value > most ? aboveMaximum : value);
  return {
    name: 'integer',
    expected: `a whole number${range(min, max)}`,
    example: String(min ?? Math.min(10, most)),
    tokens: 1,
    leavesQuoted: true,
    shape: looksLikeInteger,
    read: (typed) => {
      const value = parseInteger(typed);
      return value === undefined ? notOfShape : bounded(value);
    },
    accepts: (value) => typeof value === 'number' && Number.isSafeInteger(value) && bounded(value) === value,
  };
}

/** A digit, or a sign and a digit. */
function looksLikeInteger(typed: string): boolean {
  const first = typed.charCodeAt(0);
  return isDigit(first) || ((first === 0x2d || first === 0x2b) && isDigit(typed.charCodeAt(1)));
}

/** Hot path: bench/dispatch. */
function parseInteger(typed: string): number | undefined {
  const first = typed.charCodeAt(0);
  const start = first === 0x2d || first === 0x2b ? 1 : 0;
  const digits = typed.length - start;
  if (digits === 0) return undefined;
  let value = 0;
  for (let position = start; position < typed.length; position++) {
    const unit = typed.charCodeAt(position);
    if (!isDigit(unit)) return undefined;
    value = value * 10 + (unit - 0x30);
  }
  if (value > Number.MAX_SAFE_INTEGER) return undefined;
  return first === 0x2d && value !== 0 ? -value : value;
}

function isDigit(unit: number): boolean {
  return unit >= 0x30 && unit <= 0x39;
}

function range(min: number | undefined, max: number | undefined): string {
  if (min !== undefined && max !== undefined) return ` from ${min} to ${max}`;
  if (min !== undefined) return ` of at least ${min}`;
  return max === undefined ? '' : ` of at most ${max}`;
}

function boundProblems({ min, max }: IntegerOptions = {}): string[] {
  const problems: string[] = [];
  for (const [name, bound] of [
    ['min', min],
    ['max', max],
  ] as const) {
    if (bound !== undefined && !Number.isSafeInteger(bound))
      problems.push(`has \`${name}: ${bound}\`; give a whole number`);
  }
  if (min !== undefined && max !== undefined && min > max) problems.push(`has min ${min} above max ${max}; swap them`);
  return problems;
}
