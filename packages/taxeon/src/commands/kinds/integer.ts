import { isDigit } from '../../base/text.js';
import { type ArgOf, type ArgOptions, type DefaultOf, type Exactly, makeArg, type NoOptions } from '../arg.js';
import { type Kind, notOfShape } from '../kind.js';
import { type Bounds, bounded, boundFields, boundProblems } from './bounds.js';
import { beginsGroups, goesOnGroups, inAscii, MOST_GROUPS, readDigits } from './digits.js';
import { ranging } from './expected.js';
import { present } from './schema.js';

export interface IntegerOptions extends ArgOptions<DefaultOf<number>>, Bounds {}

/**
 * A whole number, read strictly: `10abc`, `1e3`, `0x10` and anything beyond 2^53 − 1 are refused.
 *
 * @example
 * arg.integer({ description: 'How much, in pence', min: 1, max: 500 })
 */
export function integer<const Options extends IntegerOptions = NoOptions>(
  options?: Exactly<Options, IntegerOptions>,
): ArgOf<number, 'integer', Options> {
  return makeArg(
    'integer',
    integerKind(options),
    options as Options,
    [...boundProblems(options, Number.isSafeInteger, 'a whole number')],
    boundFields,
  );
}

function integerKind(bounds: Bounds = {}): Kind<number> {
  const fit = bounded(bounds);
  const isValue = (value: unknown) => Number.isSafeInteger(value) && fit(value as number) === value;
  return {
    name: 'integer',
    expected: ranging('integer', 'a whole number', { min: bounds.min, max: bounds.max }),
    schema: { type: 'integer', ...present({ minimum: bounds.min, maximum: bounds.max }) },
    traits: { readsAlone: true },
    example: String(bounds.min ?? Math.min(10, bounds.max ?? 10)),
    tokens: MOST_GROUPS,
    begins: beginsGroups,
    goesOnWith: isDigit,
    goesOn: goesOnGroups,
    leavesQuoted: true,
    shape: looksLikeInteger,
    read: (typed, { locale }) => {
      const value = parseInteger(typed);
      if (value !== undefined) return fit(value);
      return readDigits(typed, locale, (plain) => {
        const other = parseInteger(plain);
        return other === undefined ? notOfShape : fit(other);
      });
    },
    take: (value) => (Number.isSafeInteger(value) ? fit(value as number) : notOfShape),
    write: String,
    isValue,
  };
}

/** A digit, or a sign and a digit. */
export function looksLikeInteger(typed: string): boolean {
  const first = typed.charCodeAt(0);
  if (first >= 0x80) return /^-?\d/.test(inAscii(typed.slice(0, 2)));
  return isDigit(first) || ((first === 0x2d || first === 0x2b) && isDigit(typed.charCodeAt(1)));
}

/** Hot path: bench/rows/calls. */
function parseInteger(typed: string): number | undefined {
  const first = typed.charCodeAt(0);
  const start = first === 0x2d || first === 0x2b ? 1 : 0;
  if (typed.length === start) return undefined;
  let value = 0;
  for (let position = start; position < typed.length; position++) {
    const unit = typed.charCodeAt(position);
    if (!isDigit(unit)) return undefined;
    value = value * 10 + (unit - 0x30);
  }
  if (value > Number.MAX_SAFE_INTEGER) return undefined;
  return first === 0x2d && value !== 0 ? -value : value;
}
