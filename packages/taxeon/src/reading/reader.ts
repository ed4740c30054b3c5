/** How the texts of a kind are read, whichever way they come in. */
import { isSpace, withoutPutIn } from '../base/text.js';
import { andThen, type MaybePromise } from '../base/thenable.js';
import { isNotOfShape, type Kind, notOfShape, type ReadingContext } from '../commands/kind.js';

/** A kind, compiled for the readers. Hot path: bench/rows/calls, bench/rows/reading. */
export interface Reader {
  readonly kind: Kind<unknown>;
  readonly tokens: Kind<unknown>['tokens'];
  /** Its texts are taken as they were typed. */
  readonly isVerbatim: boolean;
  /** Reads a text that is one value as a whole. */
  readonly read: (typed: string, context: ReadingContext) => MaybePromise<unknown>;
  /** How the values of a list are read. */
  readonly item: Reader | undefined;
}

const readers = new WeakMap<Kind<unknown>, Reader>();

export function readerOf(kind: Kind<unknown>): Reader {
  let reader = readers.get(kind);
  if (reader === undefined) {
    const isVerbatim = kind.traits?.isVerbatim === true;
    reader = {
      kind,
      tokens: kind.tokens,
      isVerbatim,
      read: isVerbatim ? kind.read : (typed, context) => readPlainly(kind, typed, context),
      item: kind.item === undefined ? undefined : readerOf(kind.item.kind),
    };
    readers.set(kind, reader);
  }
  return reader;
}

/** How a slash option is read. */
export function optionReader({ kind }: Reader): Reader {
  return readerOf(kind.asOption ?? kind);
}

/** Whether an optional argument commits to a text; a later failure is then an error, never a skip. */
export function isMeantFor(
  { kind, isVerbatim }: Reader,
  typed: string,
  quoted: boolean,
  context: ReadingContext,
): boolean {
  if (quoted && kind.leavesQuoted) return false;
  const { shape } = kind;
  if (shape === undefined) return true;
  if (isVerbatim) return shape(typed, context);
  // A longer text is none of its values; its beginning tells for whom it is meant.
  const text = bareText(kind.traits?.isOfAnyLength === true ? typed : typed.slice(0, LONGEST_VALUE));
  if (shape(text, context)) return true;
  const bare = withoutPunctuation(text);
  return bare !== text && shape(bare, context);
}

/** Whether a value of several words could begin with a word. */
export function mayBegin({ kind: { begins } }: Reader, word: string, context: ReadingContext): boolean {
  return begins === undefined || begins(bareText(word), context);
}

/** Whether a word goes on the value that `typed` begins. */
export function goesOn({ kind: { goesOn } }: Reader, word: string, typed: string, context: ReadingContext): boolean {
  if (goesOn === undefined) return true;
  const goes: unknown = goesOn(bareText(word), bareText(typed), context);
  if (typeof goes === 'boolean') return goes;
  throw new TypeError('`goesOn` of a kind gives neither true nor false');
}

/** Punctuation of a sentence behind a value is left out where it does not read with it. */
function readPlainly(kind: Kind<unknown>, typed: string, context: ReadingContext): MaybePromise<unknown> {
  if (typed.length > LONGEST_VALUE && kind.traits?.isOfAnyLength !== true) return notOfShape;
  const text = bareText(typed);
  const read = kind.read(text, context);
  const bare = withoutPunctuation(text);
  if (bare === text) return read;
  return andThen(read, (value: unknown) => (isNotOfShape(value) ? kind.read(bare, context) : value));
}

/** An address may be that long, and nothing else is. */
const LONGEST_VALUE = 2048;

/** What a chat program puts in is no part of a value. */
export function bareText(typed: string): string {
  return typed.length > LONGEST_VALUE ? typed : withoutPutIn(typed);
}

function withoutPunctuation(text: string): string {
  let end = text.length;
  if (!isPunctuation(text.charCodeAt(end - 1))) return text;
  const least = Math.max(1, end - MOST_PUNCTUATION);
  while (end > least && isPunctuation(text.charCodeAt(end - 1))) end--;
  // A comma that stands alone belongs to nothing.
  return isSpace(text.charCodeAt(end - 1)) ? text : text.slice(0, end);
}

const MOST_PUNCTUATION = 8;

/** What ends a sentence or a part of one. */
function isPunctuation(unit: number): boolean {
  switch (unit) {
    case 0x21:
    case 0x2c:
    case 0x2e:
    case 0x3a:
    case 0x3b:
    case 0x3f:
    case 0x2026:
      return true;
    default:
      return false;
  }
}
