/** The one way in which words become a value: for positions, flags, values of a list and slash options alike. */
import { isJoiner } from '../base/joiner.js';
import { andThen, isThenable, type MaybePromise } from '../base/thenable.js';
import {
  type Apart,
  isApart,
  isMisread,
  isNotOfShape,
  isOfForm,
  type Kind,
  Misread,
  type ReadingContext,
} from '../commands/kind.js';
import { Cursor } from './cursor.js';
import { type GivenFlags, isFlagAhead } from './flag-forms.js';
import { bareText, goesOn, mayBegin, type Reader } from './reader.js';
import type { Piece, Reading } from './reading.js';
import type { Slot } from './slots.js';

/** The words that one value could be made of, from the one the cursor stands on; they are all looked at, and none is taken. */
export interface WordRun {
  readonly reader: Reader;
  /** The first word without its quotes. */
  readonly first: string;
  readonly start: number;
  readonly end: number;
  /** Where the words behind the first one end. */
  readonly further: readonly number[];
}

const none: readonly number[] = [];

/**
 * Whether the word behind the one at hand goes on its value. Where it does, the cursor stands on the first one again, and
 * behind it otherwise. Hot path: bench/rows/reading.
 */
export function isRunAhead(
  cursor: Cursor,
  reading: Reading,
  reader: Reader,
  typed: string,
  given: GivenFlags | undefined,
): boolean {
  const { start, end } = cursor;
  const { goesOnWith } = reader.kind;
  if (goesOnWith !== undefined) {
    const unit = cursor.peek();
    // What nobody sees may stand in front of anything.
    if (unit > 0x20 && unit < 0x80 && !goesOnWith(unit, typed, reading.context)) return false;
  }
  if (!mayBegin(reader, typed, reading.context) || cursor.isBeforeComma()) return false;
  const isAhead =
    cursor.next() &&
    !cursor.quoted &&
    !isFlagAhead(cursor, reading, given) &&
    goesOn(reader, cursor.value(), typed, reading.context);
  cursor.unclosed = false;
  cursor.continueAt(isAhead ? start : end);
  return isAhead && cursor.next();
}

/**
 * Asks for what tells which words go on a value, where it is not there: for the first word, on which the cursor stands.
 * Nothing is asked where it can be told without.
 */
export function prepared(
  cursor: Cursor,
  reading: Reading,
  { kind }: Reader,
  typed: string,
  mayBeLeftOut: boolean,
): PromiseLike<void> | undefined {
  const { prepare, goesOnWith, begins } = kind;
  if (prepare === undefined) return undefined;
  const unit = cursor.peek();
  const isAlone =
    Number.isNaN(unit) ||
    (goesOnWith !== undefined && unit > 0x20 && unit < 0x80 && !goesOnWith(unit, typed, reading.context));
  if (!mayBeLeftOut && (isAlone || begins?.(typed, reading.context) === false)) return undefined;
  const pending = prepare(bareText(typed), reading.context);
  return isThenable(pending) ? pending : undefined;
}

export function runAt(cursor: Cursor, reading: Reading, reader: Reader, given: GivenFlags | undefined): WordRun {
  const { text, start, end, quoted } = cursor;
  const first = cursor.value();
  const most = quoted || typeof reader.tokens !== 'number' ? 1 : reader.tokens;
  let further: number[] | undefined;
  let typed = first;
  for (let words = 1; words < most && !cursor.isBeforeComma() && cursor.next(); words++) {
    if (cursor.quoted || isFlagAhead(cursor, reading, given) || !goesOn(reader, cursor.value(), typed, reading.context))
      break;
    further ??= [];
    further.push(cursor.end);
    typed = text.slice(start, cursor.end);
  }
  cursor.unclosed = false;
  cursor.continueAt(start);
  return { reader, first, start, end, further: further ?? none };
}

/** All words of the run, as they were typed. */
export function typedIn({ text }: Cursor, { first, start, further }: WordRun, more = further.length): string {
  return more === 0 ? first : text.slice(start, further[more - 1]);
}

/**
 * Takes the longest run that reads, `2 days` before `2`, and leaves the cursor behind it. A longer one that the kind
 * knows for its own, with an error, is not cut to a shorter value, unless an argument from `next` on is there for the rest.
 */
export function takeRun(cursor: Cursor, reading: Reading, run: WordRun, next: number): MaybePromise<Piece> {
  return takeWords(cursor, reading, run, next, run.further.length, undefined);
}

function takeWords(
  cursor: Cursor,
  reading: Reading,
  run: WordRun,
  next: number,
  more: number,
  wrong: Piece | undefined,
): MaybePromise<Piece> {
  const typed = typedIn(cursor, run, more);
  const read = run.reader.read(typed, reading.context);
  return andThen(read, (all: unknown): MaybePromise<Piece> => {
    let value = all;
    if (more > 0 && isApart(all)) {
      // Of several names in a list, the longest is meant.
      const isList = reading.slots.positional[next]?.reader.item === run.reader;
      if (isLastAwaited(cursor, reading, run, more, all.isName && isList ? next + 1 : next))
        return takeWords(cursor, reading, run, next, more - 1, wrong);
      value = together(reading, next, all);
    }
    const end = run.further[more - 1] ?? run.end;
    const piece: Piece = { typed, start: run.start, end, isRead: true, read: value };
    if (more > 0 && isNotOfShape(value)) return takeWords(cursor, reading, run, next, more - 1, wrong);
    if (more > 0 && !isOfForm(value))
      return takeWords(cursor, reading, run, next, more - 1, nearestMistake(wrong, piece));
    const isCut =
      wrong !== undefined && isOfForm(value) && !insists(cursor, reading, run.reader.kind, wrong.read, next, end);
    const taken = isCut || wrong === undefined ? piece : isOfForm(value) ? wrong : nearestMistake(wrong, piece);
    cursor.continueAt(taken.end);
    return taken;
  });
}

/** Whether an argument that may come next has the form of the last word. */
function isLastAwaited({ text }: Cursor, reading: Reading, run: WordRun, more: number, next: number): boolean {
  const ahead = new Cursor(text, run.further[more - 2] ?? run.end);
  return ahead.next() && isAwaited(reading, next, ahead.value());
}

/** What words that could be two values are together: unsure where plain text could take the second one. */
function together(reading: Reading, next: number, { value, matches, isUsual }: Apart): unknown {
  const { positional } = reading.slots;
  const others = next < positional.length ? positional.slice(next) : positional;
  const isUnsure = !isUsual && others.some(({ kind }) => kind.shape === undefined);
  return isUnsure ? new Misread('argument.ambiguous', { matches }) : value;
}

/** Of several words that may be two values, no more than the mistake needs. */
function nearestMistake(longer: Piece | undefined, shorter: Piece): Piece {
  if (longer === undefined) return shorter;
  return longer.read === shorter.read && isMisread(longer.read) && longer.read.mayBeTwo ? shorter : longer;
}

/** Whether a kind that says which words go on its values means the mistake that it finds in a longer run. */
function insists(
  { text }: Cursor,
  reading: Reading,
  { goesOn }: Kind<unknown>,
  mistake: unknown,
  next: number,
  end: number,
): boolean {
  if (goesOn === undefined) return false;
  if (!(isMisread(mistake) && mistake.mayBeTwo)) return true;
  const ahead = new Cursor(text, end);
  if (ahead.next() && isJoiner(ahead.value(), reading.context.locale)) ahead.next();
  return !isAwaited(reading, next, ahead.value());
}

/** A form may be no more than a digit in front, or almost a name: `30` is no length of time. */
function couldRead(kind: Kind<unknown>, word: string, context: ReadingContext): boolean {
  // What is looked up is there where the form was told.
  if (kind.traits?.readsAlone !== true && kind.prepare === undefined) return true;
  return isOfForm(kind.read(word, context));
}

/** Whether a word has the form of an argument that may come next, other than plain text. */
function isAwaited({ slots: { positional }, context }: Reading, next: number, word: string): boolean {
  for (let index = next; index < positional.length; index++) {
    const { kind, absent } = positional[index] as Slot;
    if (kind.shape?.(word, context) === true && couldRead(kind.item?.kind ?? kind, word, context)) return true;
    if (absent.as === 'problem') return false;
  }
  return false;
}
