/** A text as one word of a line. */
import { Cursor } from './cursor.js';
import type { Slot } from './slots.js';

/** Bare where it reads as itself, in quotes otherwise. What an optional argument would leave to the next one in quotes stays bare. */
export function asToken(text: string, { kind, absent }: Pick<Slot, 'kind' | 'absent'>, quotes: boolean): string {
  const leaves = kind.leavesQuoted && absent.as !== 'problem';
  if (leaves || (!quotes && text.length > 0 && isBare(text, kind.item !== undefined))) return text;
  return `"${text.replace(/["\\]/g, '\\$&')}"`;
}

function isBare(text: string, partsAtCommas: boolean): boolean {
  if (partsAtCommas && text.includes(',')) return false;
  if (/^[-\u2010-\u2015\u2212]/.test(text) || text.includes('\\')) return false;
  const cursor = new Cursor(text, 0);
  return cursor.next() && !cursor.quoted && cursor.start === 0 && cursor.end === text.length && cursor.value() === text;
}
