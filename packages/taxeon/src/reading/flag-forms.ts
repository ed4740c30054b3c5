/** What a word is as a flag, as people and their phones type it. */
import { foldName, isDigit, isWordAt, withoutPutIn } from '../base/text.js';
import type { MaybePromise } from '../base/thenable.js';
import type { Cursor } from './cursor.js';
import type { Piece, Reading } from './reading.js';
import type { Flag, Flags } from './slots.js';

/** The flags found in a line so far, with their values as they were typed. */
export interface GivenFlags {
  /** `--` was there, or the tail has begun. */
  ended: boolean;
  readonly pieces: Map<Flag, Piece[]>;
  /** Takes all flags that stand next in the line. */
  collect(cursor: Cursor, reading: Reading, given: GivenFlags): MaybePromise<void>;
}

const HYPHEN = 0x2d;
const EN_DASH = '\u2013';
/** Hyphens and minus signs of all kinds. */
const SHORT_DASHES = '-\u2010\u2011\u2012\u2212\ufe63\uff0d';
/** A phone makes one of these of two hyphens. */
const LONG_DASHES = `${EN_DASH}\u2014\u2015\ufe58`;
export const EQUALS = 0x3d;
const FIRST_DASH_BEYOND_ASCII = 0x2010;

/** How many hyphens a character stands for. */
export function hyphensOf(unit: number): 0 | 1 | 2 {
  if (unit === HYPHEN) return 1;
  if (!(unit >= FIRST_DASH_BEYOND_ASCII)) return 0;
  const sign = String.fromCharCode(unit);
  return SHORT_DASHES.includes(sign) ? 1 : LONG_DASHES.includes(sign) ? 2 : 0;
}

/** More of them are a line that a person drew. */
const MOST_HYPHENS = 6;
/** No name of a flag is longer, so that a megabyte behind a dash is not looked at. */
const LONGEST = 40;
const dashes = new RegExp(`[${SHORT_DASHES}${LONG_DASHES}]`, 'gu');

export interface SeenToken {
  /** Two hyphens, or one and more than a letter. */
  readonly isLong: boolean;
  readonly name: string;
  /** Where the value begins, behind `=`; -1 where there is none. */
  readonly valueAt: number;
}

/** What the token at hand is as a flag; a quoted token is none. Hot path: bench/rows/reading. */
export function seeFlag(cursor: Cursor, { byName, byLetter }: Flags): SeenToken | undefined {
  const { quoted, start, end, text } = cursor;
  if (quoted) return undefined;
  let hyphens = 0;
  let nameAt = start;
  for (; nameAt < end && hyphens <= MOST_HYPHENS; nameAt++) {
    const count = hyphensOf(text.charCodeAt(nameAt));
    if (count === 0) break;
    hyphens += count;
  }
  if (hyphens === 0 || hyphens > MOST_HYPHENS || nameAt === end || !isWordAt(text, nameAt)) return undefined;
  let nameEnd = nameAt;
  while (nameEnd < end && nameEnd - nameAt <= LONGEST && text.charCodeAt(nameEnd) !== EQUALS) nameEnd++;
  const valueAt = text.charCodeAt(nameEnd) === EQUALS && nameEnd < end ? nameEnd + 1 : -1;
  const name = flagNameIn(text.slice(nameAt, nameEnd));
  // A number is a flag only where one is called so: `-5` is text.
  if (isDigit(name.charCodeAt(0)))
    return hyphens > 1 && byName.has(foldName(name)) ? { isLong: true, name, valueAt } : undefined;
  if (hyphens === 1 && /^.\d/.test(name) && byLetter.get(name.slice(0, 1))?.isSwitch === false) {
    return { isLong: false, name: name.slice(0, 1), valueAt: nameAt + 1 };
  }
  return { isLong: hyphens > 1 || name.length > 1, name, valueAt };
}

/** With plain hyphens, and without what nobody sees and the punctuation of a sentence. */
function flagNameIn(typed: string): string {
  if (/^[\w-]+$/.test(typed)) return typed;
  return withoutPutIn(typed)
    .replace(dashes, '-')
    .replace(/[,.;:!?]+$/, '');
}

/** Whether the token at hand would be taken as a flag, so that no run of tokens goes beyond it. */
export function isFlagAhead(cursor: Cursor, { slots }: Reading, given: GivenFlags | undefined): boolean {
  if (given === undefined || given.ended || slots.flags === undefined) return false;
  if (hyphensOf(cursor.text.charCodeAt(cursor.start)) === 0) return false;
  return isEnd(cursor) || seeFlag(cursor, slots.flags) !== undefined;
}

/** Whether the token at hand ends the flags. */
export function isEnd({ quoted, text, start, end }: Cursor): boolean {
  if (quoted || end - start > 2) return false;
  const [first = '', second = ''] = text.slice(start, end);
  return second === ''
    ? first !== EN_DASH && LONG_DASHES.includes(first)
    : SHORT_DASHES.includes(first) && SHORT_DASHES.includes(second);
}

export interface FoundFlag {
  readonly flag: Flag;
  readonly isNo: boolean;
}

export function findFlag({ isLong, name }: SeenToken, { byName, byLetter }: Flags): FoundFlag | undefined {
  const folded = foldName(name);
  const flag = isLong ? byName.get(folded) : (byLetter.get(name) ?? byLetter.get(folded));
  if (flag !== undefined) return { flag, isNo: false };
  const opposite = folded.startsWith('no-') ? byName.get(folded.slice(3)) : undefined;
  return opposite?.isSwitch === true ? { flag: opposite, isNo: true } : undefined;
}
