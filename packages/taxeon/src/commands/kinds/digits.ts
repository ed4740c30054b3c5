/** Numbers as phones and people of several countries type them. */
import { Misread } from '../kind.js';

/** The longest that is looked at. */
const LONGEST = 40;
const grouped = /^([+-]?\d{1,3})((?:,\d{3})+)$/;

/** With ASCII digits and signs: `５` is 5, `−5` is -5. */
export function inAscii(typed: string): string {
  return typed.length > LONGEST ? typed : typed.normalize('NFKC').replace(/^\u2212/, '-');
}

/**
 * With a point in front of the decimals. `1,234,567` has none; `3,50` can have nothing but two; `1,000` may be a thousand or
 * one, as who writes is used to, and is refused with both.
 */
export function withPoint(typed: string): string | Misread {
  const groups = grouped.exec(typed);
  if (groups === null) return typed.replace(/^([+-]?\d+),(\d+)$/, '$1.$2');
  const whole = typed.replaceAll(',', '');
  if ((groups[2] as string).length > 4) return whole;
  return new Misread('argument.ambiguous', { matches: [whole, String(Number(typed.replace(',', '.')))] });
}
