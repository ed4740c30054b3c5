import { type ArgOf, type ArgOptions, type DefaultOf, type Exactly, makeArg, type NoOptions } from '../arg.js';
import { type Kind, notOfShape } from '../kind.js';
import { type Bounds, bounded, boundFields, boundProblems } from './bounds.js';
import { inAscii, withPoint } from './digits.js';
import { ranging } from './expected.js';
import { present } from './schema.js';

export interface NumberOptions extends ArgOptions<DefaultOf<number>>, Bounds {}

/**
 * A number with or without decimals, read strictly: `1.5`, `-3`, `.5`. Exponents, hexadecimals,
 * `Infinity` and more than 15 digits, which a double cannot hold exactly, are refused.
 *
 * @example
 * arg.number({ description: 'How long, in metres', min: 0.1, max: 12 })
 */
export function number<const Options extends NumberOptions = NoOptions>(
  options?: Exactly<Options, NumberOptions>,
): ArgOf<number, 'number', Options> {
  return makeArg(
    'number',
    numberKind(options),
    options as Options,
    [...boundProblems(options, Number.isFinite, 'a finite number')],
    boundFields,
  );
}

const form = /^[+-]?(?:\d+(?:\.\d+)?|\.\d+)$/;
const MOST_DIGITS = 15;

function numberKind(bounds: Bounds = {}): Kind<number> {
  const fit = bounded(bounds);
  return {
    name: 'number',
    expected: ranging('number', 'a number', { min: bounds.min, max: bounds.max }),
    schema: { type: 'number', ...present({ minimum: bounds.min, maximum: bounds.max }) },
    traits: { readsAlone: true },
    example: String(bounds.min ?? Math.min(1.5, bounds.max ?? 1.5)),
    tokens: 1,
    leavesQuoted: true,
    shape: (typed) => /^[+-]?\.?\d/.test(inAscii(typed.slice(0, 3))),
    read: (written) => {
      const typed = form.test(written) ? written : withPoint(inAscii(written));
      if (typeof typed !== 'string') return typed;
      if (typed.length > MOST_DIGITS * 2 || !form.test(typed)) return notOfShape;
      if (typed.replace(/^[+-]?[0.]*|\./g, '').length > MOST_DIGITS) return notOfShape;
      // Adding zero makes -0 a plain 0.
      return fit(Number(typed) + 0);
    },
    take: (value) => (Number.isFinite(value) ? fit(value as number) : notOfShape),
    write: inDecimals,
    isValue: (value) => Number.isFinite(value) && fit(value as number) === value,
  };
}

/** Without an exponent, which would not be read again. */
function inDecimals(value: number): string {
  const text = String(value);
  return text.includes('e') ? value.toFixed(20).replace(/\.?0+$/, '') : text;
}
