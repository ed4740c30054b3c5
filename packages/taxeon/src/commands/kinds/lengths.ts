/** Lengths of time as people type them: `1h30m`, `1 hour and 30 minutes`, `half an hour`. */

import { parseDuration, unitMs } from '../../base/duration.js';
import { isDigit } from '../../base/text.js';
import {
  Apart,
  belowMinimum,
  isMisread,
  Misread,
  mistaken,
  notOfShape,
  type ReadingContext,
  withoutUnit,
} from '../kind.js';
import { inAscii } from './digits.js';
import { plainly } from './expected.js';
import { dayWords, months } from './typed-words.js';

const HOUR = 3_600_000;
const MINUTE = 60_000;

export const numberWords = [
  '',
  'one',
  'two',
  'three',
  'four',
  'five',
  'six',
  'seven',
  'eight',
  'nine',
  'ten',
  'eleven',
  'twelve',
];
const articles = ['a', 'an'];
const joining = ['and', '&'];
/** Between two counts, of which one is meant. */
const between = ['-', '\u2010', '\u2011', '\u2013', '\u2014', 'to', 'or'];
const uncounted = ['few', 'couple', 'several', 'some'];
const untilWords = ['until', 'till', 'til'];
const upcoming = ['next', 'this'];
/** Their lengths differ from one to the next. */
const calendarUnits = ['mo', 'month', 'months', 'y', 'yr', 'yrs', 'year', 'years'];

const texts = {
  'length-order': 'a length of time from the largest unit to the smallest, as in 1d 2h',
  'length-calendar': 'a length of time without months and years, which are not all of one length',
  'length-counted': 'a length of time with a number, as in 3 days',
} as const;

/** Says what is expected in place of a mistake in a length of time. */
export type LengthKey = keyof typeof texts;

const outOfOrder = mistaken(plainly('length-order', texts['length-order']), true);
const ofCalendar = mistaken(plainly('length-calendar', texts['length-calendar']));
const notCounted = mistaken(plainly('length-counted', texts['length-counted']));

const LONGEST_TEXT = 64;
const number = /^(\d{1,12})(?:[.,](\d{1,3}))?/;
const clockLike = /^(\d{1,4}):([0-5]\d) ?h(?:ours?|rs?)?$/;

/** What of a reading context the words of a length of time take. */
export type InEnglish = Partial<Pick<ReadingContext, 'inEnglish'>>;

/** @returns milliseconds */
export function readLength(text: string, { inEnglish }: InEnglish = {}): number | Misread | Apart<number> {
  const exact = parseDuration(text);
  if (exact !== undefined) return exact;
  if (text.length > LONGEST_TEXT) return notOfShape;
  const ascii = inAscii(text);
  const typed = (inEnglish?.(ascii) ?? ascii).toLowerCase().replace(/^for\s+/, '');
  const clock = clockLike.exec(typed.replace(/\s+/g, ' '));
  if (clock !== null) return Number(clock[1]) * HOUR + Number(clock[2]) * MINUTE;
  if (/^-\d/.test(typed)) return isMisread(readLength(typed.slice(1))) ? notOfShape : belowMinimum;
  const pieces = lengthPieces(typed);
  return isUncounted(pieces) ? notCounted : lengthFrom(pieces, typed);
}

/** `1h30 m` is 1, h, 30, m. */
function lengthPieces(typed: string): readonly string[] {
  return typed.match(/\d[\d.,]*\d|\d|[^\s\d,]+|,/g) ?? [];
}

/** `a few days`, `a while`, `next week`, `until monday`, `days`: a length is meant, and how long is not said. */
function isUncounted(pieces: readonly string[]): boolean {
  const [first = '', second = ''] = pieces;
  if (untilWords.includes(first)) return isOfDate(second === 'the' ? (pieces[2] ?? '') : second);
  if (upcoming.includes(first)) return pieces.length === 2 && isUnit(second);
  const rest = pieces.slice(articles.includes(first) ? 1 : 0);
  if (rest.length === 1) return rest.length === pieces.length ? isBareUnit(first) : rest[0] === 'while';
  return uncounted.includes(rest[0] ?? '') && rest.slice(1, 3).some(isUnit);
}

/** With what a day or a time begins, behind `until`. */
function isOfDate(word: string): boolean {
  return (
    /^\d/.test(word) || upcoming.includes(word) || dateWords.some((one) => one.startsWith(word) && word.length > 2)
  );
}

const dateWords = [...dayWords, ...months, 'noon', 'midnight', 'morning', 'evening', 'weekend'];

/** A unit in full, which may stand without a number; `second` is a word of its own. */
export function isBareUnit(word: string): boolean {
  return word === 'day' || (word.length > 3 && !word.startsWith('second') && isUnit(word));
}

function lengthFrom(pieces: readonly string[], typed: string): number | Misread | Apart<number> {
  let total = 0;
  let previous = Number.POSITIVE_INFINITY;
  let at = 0;
  while (at < pieces.length) {
    const isFirst = at === 0;
    const isJoined = !isFirst && (pieces[at] === ',' || joining.includes(pieces[at] as string));
    if (isJoined) at++;
    if (isJoined && pieces.slice(at).join(' ') === 'a half') return total + previous / 2;
    // Without a word in between, only digits go on.
    if (!isFirst && !isJoined && !/^\d/.test(pieces[at] as string)) return notOfShape;
    const isHalf = pieces[at] === 'half';
    if (isHalf) at++;
    let count = isHalf && !articles.includes(pieces[at] ?? '') ? 1 : countIn(pieces[at++]);
    if (count === undefined) return notOfShape;
    if (between.includes(pieces[at] ?? '')) return isFirst ? eitherLength(pieces) : notOfShape;
    const halves = halvesBehind(pieces, at);
    if (halves > 0) count += 0.5;
    at += halves;
    const name = pieces[at++];
    if (name === undefined) return withoutNamedUnit(total, previous, count, typed);
    if (calendarUnits.includes(name)) return ofCalendar;
    const unit = unitMs.get(name.replace(/\.$/, ''));
    if (unit === undefined) return notOfShape;
    if (unit >= previous) return outOfOrder;
    total += (isHalf ? count / 2 : count) * unit;
    previous = unit;
  }
  const ms = Math.round(total);
  return at === 0 || !Number.isSafeInteger(ms) ? notOfShape : ms;
}

/** How many pieces say `and a half`, of `2 and a half days`. */
function halvesBehind(pieces: readonly string[], at: number): number {
  if (!joining.includes(pieces[at] ?? '')) return 0;
  const isArticle = articles.includes(pieces[at + 1] ?? '');
  const half = at + (isArticle ? 2 : 1);
  return pieces[half] === 'half' && isUnit(pieces[half + 1] ?? '') ? half - at + 1 : 0;
}

/** `2-3 days`, `2 or 3 days`. */
function eitherLength([one = '', , other = '', unit = '']: readonly string[]): Misread {
  if (countIn(one) === undefined || countIn(other) === undefined || !isUnit(unit)) return notOfShape;
  return new Misread('argument.ambiguous', { matches: [`${one} ${unit}`, `${other} ${unit}`] });
}

/** `1h30` is an hour and thirty minutes. With a space between them, the 30 may be of something else. */
function withoutNamedUnit(
  total: number,
  previous: number,
  count: number,
  typed: string,
): number | Misread | Apart<number> {
  if (previous === Number.POSITIVE_INFINITY) return withoutUnit;
  if (previous !== HOUR || !/(?<!\d)[0-5]\d$/.test(typed)) return notOfShape;
  const ms = total + count * MINUTE;
  if (!/\s\d+$/.test(typed)) return ms;
  const [hours = '', minutes = ''] = typed.split(/\s+(?=\d+$)/).map((part) => part.replace(/\s+/g, ''));
  return new Apart(ms, [`${hours}${minutes}m`, hours], false);
}

function countIn(piece: string | undefined): number | undefined {
  if (piece === undefined) return undefined;
  const match = number.exec(piece);
  if (match !== null) return match[0] === piece ? Number(`${match[1]}.${match[2] ?? 0}`) : undefined;
  return articles.includes(piece) ? 1 : countOfWord(piece);
}

/** Of digits, or a word from one to twelve. */
export function countOfWord(word: string): number | undefined {
  if (/^\d{1,4}$/.test(word)) return Number(word);
  const named = numberWords.indexOf(word);
  return named > 0 ? named : undefined;
}

/** Whether a text has the form of a length: it begins with a digit, or its words read. */
export function looksLikeLength(typed: string, context?: ReadingContext): boolean {
  const first = typed.charCodeAt(0);
  if (isDigit(first)) return true;
  if (isP(first) && /^p(?:\d|t\d)/i.test(typed)) return true;
  if (/^[-\u2212]\d[\d.,]*\s*\p{L}/u.test(typed)) return true;
  const isOneWord = needsNoEnglish(typed, context?.inEnglish) && !typed.includes(' ');
  if (isOneWord) return isAloneLength(typed);
  // Of words that could have gone on, `an hour and`, those in front may be a length.
  for (let end = typed.length; end > 0; end = typed.lastIndexOf(' ', end - 1)) {
    const words = typed.slice(0, end);
    if (readLength(words, context) !== notOfShape && (words.includes(' ') || isAloneLength(words, context)))
      return true;
  }
  return false;
}

/** Words of which a length is made that is not said in full: `three`, `days`. */
function isAloneLength(word: string, { inEnglish }: InEnglish = {}): boolean {
  if (word.length > LONGEST_WORD) return false;
  const english = inWords(word, inEnglish);
  return isBareUnit(english) || numberWords.indexOf(english) > 1 || /^\d|\s/.test(english);
}

/** Whether a length could begin with a word. */
export function beginsLength(word: string, { inEnglish }: InEnglish = {}): boolean {
  const first = word.charCodeAt(0);
  if (isDigit(first) || isP(first)) return true;
  if (inEnglish === undefined && first < 0x80) return word.length <= LONGEST_WORD && firstWords.has(word.toLowerCase());
  const [piece = ''] = lengthPieces(inWords(word, inEnglish));
  return word.length <= LONGEST_TEXT && (isDigit(piece.charCodeAt(0)) || firstWords.has(piece));
}

/** Whether there is nothing to put into English or ASCII; signs in the middle aside, which no value has. */
function needsNoEnglish(typed: string, inEnglish: InEnglish['inEnglish']): boolean {
  return inEnglish === undefined && typed.charCodeAt(0) < 0x80 && typed.charCodeAt(typed.length - 1) < 0x80;
}

function inWords(typed: string, inEnglish: InEnglish['inEnglish']): string {
  const ascii = inAscii(typed);
  return (inEnglish?.(ascii) ?? ascii).toLowerCase();
}

function isP(unit: number): boolean {
  return unit === 0x50 || unit === 0x70;
}

const LONGEST_WORD = 12;

const firstWords = new Set([
  ...numberWords.slice(1),
  ...articles,
  ...uncounted,
  ...untilWords,
  ...upcoming,
  'half',
  'for',
]);
const furtherWords = new Set([
  ...unitMs.keys(),
  ...numberWords.slice(1),
  ...articles,
  ...joining,
  ...calendarUnits,
  ...between,
  ...uncounted,
  'half',
  'of',
  'while',
  ',',
]);

/** Whether a word, in small letters, can stand in a length at all. */
export function isOfLength(word: string): boolean {
  return isDigit(word.charCodeAt(0)) || furtherWords.has(word);
}

/** Whether a word goes on the length that `typed` begins. Hot path: bench/rows/reading. */
export function goesOnLength(word: string, typed: string, { inEnglish }: InEnglish): boolean {
  if (word.length > LONGEST_WORD) return false;
  const english = needsNoEnglish(word, inEnglish) ? word : inWords(word, inEnglish);
  if (isWholeLength(typed, english.charCodeAt(0))) return false;
  let last = lastPiece(needsNoEnglish(typed, inEnglish) ? typed : inWords(typed, inEnglish)).toLowerCase();
  if (!english.includes(' ')) return goesOnPiece(bare(english), last);
  // One word of a language that has no spaces.
  for (const piece of lengthPieces(english)) {
    if (!goesOnPiece(piece, last)) return false;
    last = piece;
  }
  return true;
}

function goesOnPiece(next: string, last: string): boolean {
  if (untilWords.includes(last) || last === 'the') return isOfDate(next) || next === 'the';
  if (!isOfLength(next)) return false;
  const isCount = isCounting(next);
  switch (last) {
    case 'for':
      return isCount || next === 'half' || uncounted.includes(next);
    case 'half':
      return articles.includes(next) || isUnit(next);
    case 'of':
    case 'few':
    case 'several':
    case 'some':
    case 'couple':
      return isUnit(next) || (last === 'couple' && next === 'of');
    case 'next':
    case 'this':
      return isUnit(next);
  }
  if (articles.includes(last) && (next === 'half' || next === 'while' || uncounted.includes(next))) return true;
  if (isCounting(last)) return isUnit(next) || joining.includes(next) || between.includes(next);
  if (joining.includes(last) || between.includes(last) || last === ',') return isCount || next === 'half';
  return isUnit(last) && (isDigit(next.charCodeAt(0)) || next === ',' || joining.includes(next));
}

/** Whether a word that goes on the length could begin with a sign of ASCII. Hot path: bench/rows/reading. */
export function goesOnLengthWith(unit: number, typed: string, { inEnglish }: InEnglish): boolean {
  return inEnglish !== undefined || !isWholeLength(typed, unit);
}

/** Most lengths are one word such as `3d`, behind which only a digit, a comma or an `and` goes on. */
function isWholeLength(typed: string, next: number): boolean {
  const last = typed.charCodeAt(typed.length - 1);
  const isOneWord = isDigit(typed.charCodeAt(0)) && last > LAST_SIGN && last < 0x80 && !typed.includes(' ');
  return isOneWord && next > LAST_SIGN && (next | 0x20) !== LETTER_A;
}

/** Behind it, letters begin. */
const LAST_SIGN = 0x40;
const LETTER_A = 0x61;

function isUnit(word: string): boolean {
  return unitMs.has(word) || calendarUnits.includes(word);
}

function isCounting(word: string): boolean {
  return isDigit(word.charCodeAt(0)) || articles.includes(word) || numberWords.indexOf(word) > 0;
}

/** `days` of `2 days`, `h` of `1h`, `30` of `1h30`, a comma. */
function lastPiece(typed: string): string {
  const end = typed.length;
  if (typed.charCodeAt(end - 1) === COMMA) return ',';
  const isNumber = isDigit(typed.charCodeAt(end - 1));
  let from = end - 1;
  for (; from > 0; from--) {
    const unit = typed.charCodeAt(from - 1);
    if (unit <= SPACE || unit === COMMA || isDigit(unit) !== isNumber) break;
  }
  const piece = typed.slice(from);
  return piece.length > 1 && piece.endsWith('.') ? piece.slice(0, -1) : piece;
}

const SPACE = 0x20;
const COMMA = 0x2c;

/** In small letters, without the punctuation of a sentence. */
export function bare(word: string): string {
  if (word.charCodeAt(word.length - 1) > 0x3f) return word.toLowerCase();
  return word.toLowerCase().replace(/(?<=.)[.,;:!?]+$/, '');
}
