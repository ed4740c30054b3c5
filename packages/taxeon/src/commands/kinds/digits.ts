/** Numbers as phones and people of several countries type them. */

import { byLocale } from '../../base/by-locale.js';
import { isDigit } from '../../base/text.js';
import { Apart, isMisread, Misread, notOfShape, ReadAs } from '../kind.js';

/** The longest that is looked at. */
const LONGEST = 40;
const LONGEST_MOMENT = 80;
/** How many words may be one number: `1 000 000 000` is as long as there is use for. */
export const MOST_GROUPS = 4;
const spaced = /^([+-]?\d{1,3}(?:[\s’']\d{3})+)(?:[.,](\d+))?$/;
const pointed = /^([+-]?\d{1,3}(?:\.\d{3})+)(?:,(\d+))?$/;
const parted = /^([+-]?\d{1,3}(?:,\d{3})+)(?:\.(\d+))?$/;

/** Signs as wide as those beside them, and spaces of other widths. */
const wide = /[\uff01-\uff5e\u00a0\u2000-\u200a\u202f\u3000]/g;
const fractions: Readonly<Record<string, string>> = { '\u00bc': '.25', '\u00bd': '.5', '\u00be': '.75' };

/** With ASCII digits and signs: `５` is 5, `−5` is -5, `2½` is 2.5. What is raised or lowered is no digit. */
export function inAscii(typed: string): string {
  if (typed.length > LONGEST_MOMENT || /^[\0-\x7f]*$/.test(typed)) return typed;
  return typed
    .replace(wide, (sign) => sign.normalize('NFKC'))
    .replace(/(\d?)([\u00bc-\u00be])/g, (_, digit: string, sign: string) => `${digit || '0'}${fractions[sign]}`)
    .replace(/^\u2212/, '-');
}

/**
 * As a number is written in a program. `1,234,567` and `1 234,50` can be read in one way; `1,000` may be a thousand or
 * one: it is what the locale makes of it, of which the caller is told, and refused with both where none holds.
 */
export function inPlainDigits(
  typed: string,
  locale: string | undefined,
): string | Misread | ReadAs<string> | Apart<string> {
  const ascii = inAscii(typed);
  if (!/[\s.,’']/.test(ascii) || /^[+-]?\d*\.\d{1,2}$/.test(ascii) || ascii.length > LONGEST) return ascii;
  const bySpace = spaced.exec(ascii);
  if (bySpace !== null && ascii.split(/\s/).length <= MOST_GROUPS) {
    const whole = joinedDigits(bySpace);
    // Nobody begins a number with a zero, or has decimals of the second one alone.
    if (!ascii.includes(' ') || bySpace[2] !== undefined || /\s0\d\d/.test(ascii)) return whole;
    return new Apart(whole, [whole, ascii.slice(0, ascii.indexOf(' '))], /\s/.test(signsOf(locale)?.group ?? ''));
  }
  for (const [form, group] of [
    [parted, ','],
    [pointed, '.'],
  ] as const) {
    const match = form.exec(ascii);
    if (match === null) continue;
    const [, groups = '', decimals] = match;
    // One sign may part thousands or decimals.
    return decimals !== undefined || groups.split(group).length > 2
      ? joinedDigits(match)
      : undecided(groups, group, locale);
  }
  return ascii.replace(/^([+-]?\d+),(\d+)$/, '$1.$2');
}

function joinedDigits([, groups = '', decimals]: readonly string[]): string {
  const whole = groups.replace(/[\s’',.]/g, '');
  return decimals === undefined ? whole : `${whole}.${decimals}`;
}

function undecided(typed: string, sign: ',' | '.', locale: string | undefined): string | Misread | ReadAs<string> {
  const whole = typed.replace(sign, '');
  const decimal = typed.replace(',', '.');
  const signs = signsOf(locale);
  if (signs?.group === sign) return new ReadAs(whole, whole);
  if (signs === undefined && sign === '.') return decimal;
  if (signs?.decimal === sign) return sign === '.' ? decimal : new ReadAs(decimal, String(Number(decimal)));
  return new Misread('argument.ambiguous', { matches: [whole, String(Number(decimal))] });
}

/** What the number is, with what is told of how its digits were read. */
export function readDigits<T>(
  typed: string,
  locale: string | undefined,
  read: (plain: string) => T | Misread,
): T | Misread | ReadAs<T> | Apart<T | Misread> {
  const plain = inPlainDigits(typed, locale);
  if (typeof plain === 'string') return read(plain);
  if (isMisread(plain)) return plain;
  const value = read(plain.value);
  if (value === notOfShape) return value;
  if (plain instanceof Apart) return new Apart(value, plain.matches, plain.isUsual);
  return isMisread(value) ? value : new ReadAs(value, plain.as);
}

/** Whether digits in groups of three could begin with a word. */
export function beginsGroups(word: string): boolean {
  return word.length <= 4 && isDigit(word.charCodeAt(word.length - 1));
}

/** Whether a word is the next three digits. */
export function goesOnGroups(word: string, typed: string): boolean {
  return word.length <= LONGEST && /^\d{3}(?:[.,]\d*)?$/.test(word) && /^[+-]?\d{1,3}(?:\s+\d{3})*$/.test(typed);
}

interface Signs {
  readonly group: string | undefined;
  readonly decimal: string | undefined;
}

/** What parts thousands and decimals. */
const signsOf = byLocale((locale): Signs => {
  const parts = new Intl.NumberFormat(locale).formatToParts(1_234_567.5);
  const of = (type: string) => parts.find((part) => part.type === type)?.value;
  return { group: of('group'), decimal: of('decimal') };
});

/** What parts thousands; a comma where the locale does not tell. */
export function groupSign(locale: string | undefined): string | undefined {
  return (signsOf(locale) ?? { group: ',' }).group;
}
