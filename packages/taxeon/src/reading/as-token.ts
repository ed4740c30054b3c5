/** A text as one word of a line. */
import type { Kind } from '../commands/kind.js';
import { nowhere } from './by-shape.js';
import { Cursor } from './cursor.js';
import type { Slot } from './slots.js';

/**
 * Bare where it reads as itself, in quotes otherwise. What an optional argument would leave to the next one in quotes stays
 * bare.
 */
export function asToken(text: string, { kind, absent }: Pick<Slot, 'kind' | 'absent'>, quotes: boolean): string {
  const leaves = kind.leavesQuoted && absent.as !== 'problem';
  if (leaves || (!quotes && text.length > 0 && isBare(text, kind))) return text;
  return `"${text.replace(/["\\]/g, '\\$&')}"`;
}

/** A name may be so long without quotes. */
const MOST_WORDS = 12;

function isBare(text: string, { item, ...list }: Kind<unknown>): boolean {
  const { goesOn, begins } = item?.kind ?? list;
  if (item !== undefined && text.includes(',')) return false;
  if (text.includes('\\') || text.trim() !== text) return false;
  const mostWords = goesOn === undefined ? 1 : MOST_WORDS;
  const cursor = new Cursor(text, 0);
  let end = -1;
  for (let words = 0; words < mostWords && cursor.next(); words++) {
    const { start } = cursor;
    const word = text.slice(start, cursor.end);
    if (cursor.quoted || start !== end + 1 || /^[-\u2010-\u2015\u2212]/.test(word) || cursor.value() !== word)
      return false;
    if (mostWords > 1 && text !== word && begins?.(word, nowhere) === false) return false;
    end = cursor.end;
  }
  return end === text.length;
}
