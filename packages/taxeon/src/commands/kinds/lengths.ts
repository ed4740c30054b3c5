/** Lengths of time as people type them: `1h30m`, `1 hour and 30 minutes`, `half an hour`. */

import { parseDuration, unitMs } from '../../base/duration.js';
import { isDigit } from '../../base/text.js';
import { Apart, type Misread, mistaken, notOfShape, type ReadingContext, withoutUnit } from '../kind.js';
import { plainly } from './expected.js';

const HOUR = 3_600_000;
const MINUTE = 60_000;

const numberWords = [
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
/** Their lengths differ from one to the next. */
const calendarUnits = ['mo', 'month', 'months', 'y', 'yr', 'yrs', 'year', 'years'];

const texts = {
  'length-order': 'a length of time from the largest unit to the smallest, as in 1d 2h',
  'length-calendar': 'a length of time without months and years, which are not all of one length',
} as const;

/** Says what is expected in place of a mistake in a length of time. */
export type LengthKey = keyof typeof texts;

const outOfOrder = mistaken(plainly('length-order', texts['length-order']), true);
const ofCalendar = mistaken(plainly('length-calendar', texts['length-calendar']));

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
  const typed = (inEnglish?.(text) ?? text).toLowerCase().replace(/^for\s+/, '');
  const clock = clockLike.exec(typed.replace(/\s+/g, ' '));
  if (clock !== null) return Number(clock[1]) * HOUR + Number(clock[2]) * MINUTE;
  return lengthFrom(typed);
}

/** `1h30 m` is 1, h, 30, m. */
function lengthPieces(typed: string): readonly string[] {
  return typed.match(/\d[\d.,]*\d|\d|[^\s\d,]+|,/g) ?? [];
}

function lengthFrom(typed: string): number | Misread | Apart<number> {
  const pieces = lengthPieces(typed);
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
    const count = isHalf && !articles.includes(pieces[at] ?? '') ? 1 : countIn(pieces[at++]);
    const name = pieces[at++];
    if (count === undefined) return notOfShape;
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
  if (articles.includes(piece)) return 1;
  const named = numberWords.indexOf(piece);
  return named > 0 ? named : undefined;
}

/** Whether a text has the form of a length: it begins with a digit, or its words read. */
export function looksLikeLength(typed: string, context?: ReadingContext): boolean {
  const first = typed.charCodeAt(0);
  if (isDigit(first)) return true;
  if (isP(first) && /^p(?:\d|t\d)/i.test(typed)) return true;
  return typed.includes(' ') && readLength(typed, context) !== notOfShape;
}

/** Whether a length could begin with a word. */
export function beginsLength(word: string): boolean {
  const first = word.charCodeAt(0);
  return isDigit(first) || isP(first) || (word.length <= LONGEST_WORD && firstWords.has(word.toLowerCase()));
}

function isP(unit: number): boolean {
  return unit === 0x50 || unit === 0x70;
}

const LONGEST_WORD = 12;

const firstWords = new Set([...numberWords.slice(1), ...articles, 'half', 'for']);
const furtherWords = new Set([
  ...unitMs.keys(),
  ...numberWords.slice(1),
  ...articles,
  ...joining,
  ...calendarUnits,
  'half',
  ',',
]);

/** Whether a word, in small letters, can stand in a length at all. */
export function isOfLength(word: string): boolean {
  return isDigit(word.charCodeAt(0)) || furtherWords.has(word);
}

/** Whether a word goes on the length that `typed` begins. Hot path: bench/rows/reading. */
export function goesOnLength(word: string, typed: string, { inEnglish }: InEnglish): boolean {
  if (word.length > LONGEST_WORD) return false;
  const english = inEnglish?.(word) ?? word;
  if (isWholeLength(typed, english.charCodeAt(0))) return false;
  const next = bare(english);
  if (!isOfLength(next)) return false;
  const last = lastPiece(inEnglish?.(typed) ?? typed).toLowerCase();
  const isCount = isCounting(next);
  if (last === 'for') return isCount || next === 'half';
  if (last === 'half') return articles.includes(next) || isUnit(next);
  if (isCounting(last)) return isUnit(next) || (next === 'half' && last === 'a');
  if (joining.includes(last) || last === ',') return isCount || next === 'half';
  return isUnit(last) && (isDigit(next.charCodeAt(0)) || next === ',' || joining.includes(next));
}

/** Whether a word that goes on the length could begin with a sign of ASCII. Hot path: bench/rows/reading. */
export function goesOnLengthWith(unit: number, typed: string, { inEnglish }: InEnglish): boolean {
  return inEnglish !== undefined || !isWholeLength(typed, unit);
}

/** Most lengths are one word such as `3d`, behind which only a digit, a comma or an `and` goes on. */
function isWholeLength(typed: string, next: number): boolean {
  const isOneWord =
    isDigit(typed.charCodeAt(0)) && typed.charCodeAt(typed.length - 1) > LAST_SIGN && !typed.includes(' ');
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
