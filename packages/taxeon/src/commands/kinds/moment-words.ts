/** Of which words a date and time is made, and in which orders they stand. */

import { BoundedMap, foundOrMade } from '../../base/bounded-map.js';
import type { ReadingContext } from '../kind.js';
import { inAscii } from './digits.js';
import { bare, goesOnLength, type InEnglish, isBareUnit, isOfLength, numberWords } from './lengths.js';
import { dayWords, months } from './typed-words.js';

export const LONGEST_TEXT = 80;
export const clockForm = /^(\d{1,2}):(\d{2})(?::(\d{2})(?:\.(\d{1,3}))?)?([ap]m)?$/;
export const hourForm = /^(\d{1,2})([ap])\.?m$/;
/** `17h`, `17h30`. */
export const lettered = /^(\d{1,2})h(?:our)?(\d{2})?$/;
export const isoForm = /^(\d{4})-(\d{1,2})-(\d{1,2})$/;
export const slashForm = /^(\d{1,2})\/(\d{1,2})(?:\/(\d{4}|\d{2}))?$/;
export const dottedForm = /^(\d{1,2})\.(\d{1,2})(?:\.(\d{4}))?$/;
const zoneForm = /^[a-z]+(?:\/[a-z0-9_+-]+)+$/;
export const offsetForm = /^(?:utc|gmt)?([+\-\u2212])(\d{1,2})(?::?(\d{2}))?$/;
const dash = '[-\u2010-\u2015\u2212]';
const rangeForm = new RegExp(`^\\d{1,2}(?:[:.]\\d{2})?([ap]m)?${dash}\\d{1,2}(?:[:.]\\d{2})?([ap]m)?$`);

/** What a word is in a moment, as a letter, so that the order of words is a pattern of letters. */
const lettersByWord: ReadonlyMap<string, string> = new Map(
  Object.entries({
    N: 'now',
    I: 'in',
    A: 'at around about',
    O: 'on of over',
    U: 'until till til by',
    B: 'from between',
    J: 'to - \u2013 \u2014',
    X: 'next this coming',
    T: 'the',
    G: 'day',
    F: 'after',
    K: 'week weekend month year',
    V: 'while',
    a: 'a',
    Q: 'half quarter',
    E: 'past',
    P: 'morning afternoon evening night',
    D: `${dayWords.join(' ')} sun mon tue tues wed thu thur thurs fri sat`,
    M: `${months.join(' ')} jan feb mar apr jun jul aug sep sept oct nov dec`,
    C: 'noon midnight',
    n: numberWords.slice(1).join(' '),
    H: 'am pm a.m p.m',
    c: "o'clock oclock",
    Z: 'z utc gmt cet cest eet eest wet west bst ist jst msk est edt cst cdt mst mdt pst pdt',
  }).flatMap(([letter, words]) => words.split(' ').map((word) => [word, letter] as const)),
);
const lettersByForm: readonly (readonly [letter: string, form: RegExp])[] = [
  ['C', clockForm],
  ['C', hourForm],
  ['h', lettered],
  ['S', isoForm],
  ['s', slashForm],
  ['s', dottedForm],
  ['n', /^\d{1,2}$/],
  ['o', /^\d{1,2}(?:st|nd|rd|th)$/],
  ['Y', /^\d{4}$/],
  ['z', offsetForm],
];

function letterOf(word: string): string | undefined {
  const letter = lettersByWord.get(word);
  if (letter !== undefined) return letter;
  if (/^[\d+\-\u2212]/.test(word)) {
    const range = rangeForm.exec(word);
    // Of digits alone, only behind a day.
    if (range !== null) return range[1] !== undefined || range[2] !== undefined || word.includes(':') ? 'R' : 'r';
    return lettersByForm.find(([, form]) => form.test(word))?.[0];
  }
  return offsetForm.test(word) || zoneForm.test(word) ? 'Z' : undefined;
}

const DATE = 'S|s|T?[no]O?MY?|MT?[no]Y?|T?o';
const DAY = `X?D(?:T?o|DATE)?|T?GFD|XP|DATE`.replaceAll('DATE', `(?:${DATE})`);
const PART = 'P|ITP|AP';
const ZONE = 'Zz?|z';
/** What is a time by itself, and what is one behind a day or an `at`. */
const CLOCK = 'CH?|nH|Q[EJ]n';
const HOUR = `${CLOCK}|nc?|Y|h|Qn|(?<=A)s`;
const TIME = `(?<time>${HOUR}|R|r)(?<zone>${ZONE})?(?<partBehind>${PART})?(?<range>[JU](?:${HOUR})(?:${ZONE})?`;
const layouts = [
  `^[UOBJ]?(?:(?<now>N)|(?<ahead>IL+)|(?<day>${DAY}))(?<part>${PART})?(?:[AB]?${TIME}|(?<=D.*)CH?)?)?$`,
  `^[UBJ]?(?:[AB]|(?=${CLOCK}|R))${TIME})?(?:O?(?<day>${DAY})(?<part>${PART})?)?$`,
  // What is no day yet: `next month`, `a while`.
  `^[UOI]?(?<vague>[aL]V|[TX]X?K)$`,
].map((layout) => new RegExp(layout, 'd'));
/** One of these ends whatever was begun. */
const endings = ['', ...'C D H M n L o K V P X FD GFD TP En'.split(' ')];

type MomentPart = 'now' | 'ahead' | 'day' | 'time' | 'zone' | 'part' | 'partBehind' | 'range' | 'vague';

/** Where the parts of a moment stand among its words. */
export type Layout = Readonly<Partial<Record<MomentPart, readonly [from: number, to: number]>>>;

function layoutOf(letters: string): Layout | undefined {
  for (const layout of layouts) {
    const found = layout.exec(letters);
    if (found !== null) return found.indices?.groups as Layout;
  }
  return undefined;
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
  const plain = inAscii(text);
  const lower = (inEnglish?.(plain) ?? plain).toLowerCase();
  if (/^[a-z]+$/.test(lower)) return [lower];
  return lower
    .replace(/^(\d{4}-\d{1,2}-\d{1,2})t(\d{1,2}(?::\d{2}){1,2}(?:\.\d{1,3})?)(?=$|[z+\-\u2212\s])/, '$1 $2 ')
    .trim()
    .split(/\s+/)
    .map(bare);
}

/** A letter for each word; `undefined` where one is of no moment. */
export function lettersOf(words: readonly string[]): string | undefined {
  let found = '';
  let length = 'for';
  for (const word of words) {
    const isTime = found.length > 1 && /[CRrYS]/.test(letterOf(word) ?? '');
    const isLength =
      !isTime && /^IL*$/.test(found) && (goesOnLength(word, length, {}) || (found === 'I' && isBareUnit(word)));
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
  // Most words that follow a moment are of none.
  const isOfMoment = (next: string) => isOfLength(next) || /^\d{4}-/.test(next) || letterOf(next) !== undefined;
  if (!momentWords(word, context).every(isOfMoment)) return false;
  const found = lettersOf(momentWords(`${typed} ${word}`, context));
  return found !== undefined && knownOf(found).isBegun;
}

/** Whether a moment could begin with a word. */
export function beginsMoment(word: string, context: InEnglish): boolean {
  if (/^\d/.test(word)) return true;
  if (word.length > LONGEST_TEXT) return false;
  const [first = ''] = momentWords(word, context);
  return lettersByWord.has(first) || /^\d/.test(first);
}

/** Whether a text has the form of a moment: it begins with a digit, or its words are those of one. */
export function looksLikeMoment(typed: string, context?: ReadingContext): boolean {
  if (/^\d/.test(typed)) return true;
  const found = typed === '' || typed.length > LONGEST_TEXT ? undefined : lettersOf(momentWords(typed, context));
  if (found === undefined) return false;
  // Of words that could have gone on, `tomorrow in the`, those in front may be a moment.
  for (let count = found.length; count > 0; count--)
    if (knownOf(found.slice(0, count)).layout !== undefined) return true;
  return false;
}
