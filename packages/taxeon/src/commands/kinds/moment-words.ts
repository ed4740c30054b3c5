/** Of which words a date and time is made, and in which orders they stand. */

import { BoundedMap, foundOrMade } from '../../base/bounded-map.js';
import type { ReadingContext } from '../kind.js';
import { bare, goesOnLength, type InEnglish, isOfLength } from './lengths.js';

export const weekdays = ['sunday', 'monday', 'tuesday', 'wednesday', 'thursday', 'friday', 'saturday'];
export const months = 'january february march april may june july august september october november december'.split(
  ' ',
);
export const dayWords = ['today', 'tonight', 'tomorrow', ...weekdays];
export const LONGEST_TEXT = 80;
export const clockForm = /^(\d{1,2}):(\d{2})(?::(\d{2})(?:\.(\d{1,3}))?)?([ap]m)?$/;
export const hourForm = /^(\d{1,2})([ap])\.?m$/;
export const isoForm = /^(\d{4})-(\d{1,2})-(\d{1,2})$/;
export const slashForm = /^(\d{1,2})\/(\d{1,2})(?:\/(\d{4}))?$/;
export const dottedForm = /^(\d{1,2})\.(\d{1,2})(?:\.(\d{4}))?$/;
const zoneForm = /^[a-z]+(?:\/[a-z0-9_+-]+)+$/;
export const offsetForm = /^([+\-\u2212])(\d{1,2})(?::?(\d{2}))?$/;

/** What a word is in a moment, as a letter, so that the order of words is a pattern of letters. */
const lettersByWord: ReadonlyMap<string, string> = new Map(
  Object.entries({
    N: 'now',
    I: 'in',
    A: 'at',
    O: 'on of',
    X: 'next this',
    D: `${dayWords.join(' ')} sun mon tue tues wed thu thur thurs fri sat`,
    M: `${months.join(' ')} jan feb mar apr jun jul aug sep sept oct nov dec`,
    C: 'noon midnight',
    H: 'am pm a.m p.m',
    Z: 'z utc gmt cet cest eet eest wet west bst ist jst msk est edt cst cdt mst mdt pst pdt',
  }).flatMap(([letter, words]) => words.split(' ').map((word) => [word, letter] as const)),
);
const lettersByForm: readonly (readonly [letter: string, form: RegExp])[] = [
  ['C', clockForm],
  ['C', hourForm],
  ['S', isoForm],
  ['S', slashForm],
  ['S', dottedForm],
  ['n', /^\d{1,2}$/],
  ['o', /^\d{1,2}(?:st|nd|rd|th)$/],
  ['Y', /^\d{4}$/],
  ['Z', offsetForm],
];

function letterOf(word: string): string | undefined {
  const letter = lettersByWord.get(word);
  if (letter !== undefined) return letter;
  if (/^[\d+\-\u2212]/.test(word)) return lettersByForm.find(([, form]) => form.test(word))?.[0];
  return zoneForm.test(word) ? 'Z' : undefined;
}

const DAY = '(X?D|S|[no]O?MY?|M[no]Y?)';
const TIME = '(CH?|nH|(?<=A)n)(Z?)';
const dayFirst = new RegExp(`^(N|IL+|O?${DAY})?(?:A?${TIME})?$`);
const timeFirst = new RegExp(`^A?${TIME}O?${DAY}$`);
/** One of these ends whatever was begun. */
const endings = ['', 'C', 'D', 'H', 'M', 'n', 'L'];

/** Where the parts of a moment stand among its words. */
export interface Layout {
  /** `now`, or `in` and a length of time. */
  readonly beginning: number;
  readonly day: readonly [from: number, to: number];
  readonly time: readonly [from: number, to: number];
  readonly zone: number;
}

function layoutOf(letters: string): Layout | undefined {
  const count = letters.length;
  const first = dayFirst.exec(letters);
  if (first !== null) {
    const [, begun = '', day = '', time = '', zone = ''] = first;
    const zoneAt = count - zone.length;
    const dayFrom = begun.length - day.length;
    return {
      beginning: day === '' ? begun.length : 0,
      day: [dayFrom, begun.length],
      time: [zoneAt - time.length, zoneAt],
      zone: zoneAt,
    };
  }
  const [, time = '', zone = '', day = ''] = timeFirst.exec(letters) ?? [];
  if (time === '') return undefined;
  const from = letters.startsWith('A') ? 1 : 0;
  const zoneAt = from + time.length;
  return { beginning: 0, day: [count - day.length, count], time: [from, zoneAt], zone: zone === '' ? count : zoneAt };
}

interface Known {
  readonly layout: Layout | undefined;
  /** Whether it is a moment, or may become one. */
  readonly isBegun: boolean;
}

/** People write the same orders of words again and again. */
const known = new BoundedMap<string, Known>(500);

export function knownOf(letters: string): Known {
  return foundOrMade(known, letters, () => ({
    layout: layoutOf(letters),
    isBegun: endings.some((ending) => layoutOf(letters + ending) !== undefined),
  }));
}

export function momentWords(text: string, { inEnglish }: InEnglish = {}): readonly string[] {
  const lower = (inEnglish?.(text) ?? text).toLowerCase();
  if (/^[a-z]+$/.test(lower)) return [lower];
  return lower
    .replace(/(?<=\d-\d{1,2})t(?=\d)/, ' ')
    .replace(/(?<=:\d{2}(?:\.\d{1,3})?)(?:z|[+\-\u2212]\d{2}:?\d{2})$/, ' $&')
    .split(/\s+/)
    .map(bare);
}

/** A letter for each word; `undefined` where one is of no moment. */
export function lettersOf(words: readonly string[]): string | undefined {
  let found = '';
  let length = 'for';
  for (const word of words) {
    const isLength = /^IL*$/.test(found) && goesOnLength(word, length, {});
    const letter = isLength ? 'L' : letterOf(word);
    if (letter === undefined) return undefined;
    if (isLength) length = found === 'I' ? word : `${length} ${word}`;
    found += letter;
  }
  return found;
}

/** Whether a word goes on the moment that `typed` begins. */
export function goesOnMoment(word: string, typed: string, context: InEnglish): boolean {
  if (typed.length > LONGEST_TEXT || word.length > LONGEST_TEXT) return false;
  const next = bare(context.inEnglish?.(word) ?? word);
  // Most words that follow a moment are of none.
  if (!isOfLength(next) && !/^\d{4}-/.test(next) && letterOf(next) === undefined) return false;
  const found = lettersOf(momentWords(`${typed} ${word}`, context));
  return found !== undefined && knownOf(found).isBegun;
}

/** Whether a moment could begin with a word. */
export function beginsMoment(word: string, { inEnglish }: InEnglish): boolean {
  if (/^\d/.test(word)) return true;
  return word.length <= LONGEST_TEXT && lettersByWord.has(bare(inEnglish?.(word) ?? word));
}

/** Whether a text has the form of a moment: it begins with a digit, or its words are those of one. */
export function looksLikeMoment(typed: string, context?: ReadingContext): boolean {
  if (/^\d/.test(typed)) return true;
  const found = typed === '' || typed.length > LONGEST_TEXT ? undefined : lettersOf(momentWords(typed, context));
  return found !== undefined && knownOf(found).layout !== undefined;
}
