/** A text as one word of a line. */
import { Cursor } from './cursor.js';
import type { Slot } from './slots.js';

/**
 * Bare where it reads as itself, in quotes otherwise. What an optional argument would leave to the next one in quotes stays
 * bare.
 */
export function asToken(text: string, { kind, absent }: Pick<Slot, 'kind' | 'absent'>, quotes: boolean): string {
  const leaves = kind.leavesQuoted && absent.as !== 'problem';
  const { goesOn } = kind.item?.kind ?? kind;
  const most = goesOn === undefined ? 1 : MOST_WORDS;
  if (leaves || (!quotes && text.length > 0 && isBare(text, most, kind.item !== undefined))) return text;
  return `"${text.replace(/["\\]/g, '\\$&')}"`;
}

/** A name may be so long without quotes. */
const MOST_WORDS = 12;

function isBare(text: string, mostWords: number, partsAtCommas: boolean): boolean {
  if (partsAtCommas && text.includes(',')) return false;
  if (text.includes('\\') || text.trim() !== text) return false;
  const cursor = new Cursor(text, 0);
  let words = 0;
  let end = -1;
  while (cursor.next() && words < mostWords) {
    const { start } = cursor;
    if (cursor.quoted || start !== end + 1 || /^[-\u2010-\u2015\u2212]/.test(text.slice(start, start + 1)))
      return false;
    if (cursor.value() !== text.slice(start, cursor.end)) return false;
    words++;
    end = cursor.end;
  }
  return end === text.length;
}
