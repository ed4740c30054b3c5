import { aFlag, type Fields } from '../../base/fields.js';
import { inDigitsAlone, isDigit } from '../../base/text.js';
import { type ArgOf, type ArgOptions, type DefaultOf, type Exactly, makeArg, type NoOptions } from '../arg.js';
import { type Kind, notOfShape } from '../kind.js';
import { type Bounds, bounded, boundFields, boundProblems } from './bounds.js';
import { beginsGroups, goesOnGroups, inAscii, MOST_GROUPS, readDigits } from './digits.js';
import { ranging } from './expected.js';
import { present } from './schema.js';

export interface NumberOptions extends ArgOptions<DefaultOf<number>>, Bounds {
  /** Takes `50%`, `50 percent` and `50`, and gives 50. */
  readonly percent?: boolean;
}

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
    fields,
  );
}

const fields: Fields<Omit<NumberOptions, keyof ArgOptions<unknown>>> = { ...boundFields, percent: aFlag };

const form = /^[+-]?(?:\d+(?:\.\d+)?|\.\d+)$/;
const MOST_DIGITS = 15;
const ofPercent = /^(?:%|percent)[.,;:!?]*$/i;

function numberKind({ percent = false, ...bounds }: NumberOptions = {}): Kind<number> {
  const fit = bounded(bounds);
  const { min, max } = bounds;
  return {
    name: 'number',
    expected: percent
      ? ranging('percent', 'a number of percent, such as 50%,', { min, max })
      : ranging('number', 'a number', { min, max }),
    schema: { type: 'number', ...present({ minimum: min, maximum: max }) },
    traits: { readsAlone: true },
    example: String(min ?? Math.min(1.5, max ?? 1.5)),
    tokens: percent ? MOST_GROUPS + 1 : MOST_GROUPS,
    begins: percent ? (word) => /\d$/.test(inAscii(word)) : beginsGroups,
    ...(percent ? {} : { goesOnWith: isDigit }),
    goesOn: (word, typed) => goesOnGroups(word, typed) || (percent && /\d$/.test(typed) && ofPercent.test(word)),
    leavesQuoted: true,
    shape: (typed) => /^[+-]?\.?\d/.test(inAscii(typed.slice(0, 3))),
    read: (typed, { locale }) =>
      readDigits(percent ? inAscii(typed).replace(/\s*(?:%|percent)$/i, '') : typed, locale, (plain) => {
        if (plain.length > MOST_DIGITS * 2 || !form.test(plain)) return notOfShape;
        if (plain.replace(/^[+-]?[0.]*|\./g, '').length > MOST_DIGITS) return notOfShape;
        // Adding zero makes -0 a plain 0.
        return fit(Number(plain) + 0);
      }),
    take: (value) => (Number.isFinite(value) ? fit(value as number) : notOfShape),
    write: inDigitsAlone,
    isValue: (value) => Number.isFinite(value) && fit(value as number) === value,
  };
}
