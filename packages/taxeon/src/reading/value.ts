/** The one way in which words become a value: for positions, flags, values of a list and slash options alike. */
import { withoutPutIn } from '../base/text.js';
import { isThenable, type MaybePromise } from '../base/thenable.js';
import { isMisread, isNotOfShape, isOfForm, type Kind, notOfShape, type ReadingContext } from '../commands/kind.js';
import { isSpace } from './characters.js';
import { Cursor } from './cursor.js';
import { type GivenFlags, isFlagAhead } from './flag-forms.js';
import type { Piece, Reading } from './reading.js';
import type { Slot } from './slots.js';

/** Reads a text that is one value as a whole. Punctuation of a sentence behind it is left out where it does not read with it. */
export function readWhole(kind: Kind<unknown>, typed: string, context: ReadingContext): MaybePromise<unknown> {
  if (typed.length > LONGEST_VALUE && !isOfAnyLength(kind)) return notOfShape;
  const text = plainly(kind, typed);
  const read = kind.read(text, context);
  if (!isThenable(read) && !isNotOfShape(read)) return read;
  const bare = withoutPunctuation(kind, text);
  if (bare === text) return read;
  const use = (value: unknown) => (isNotOfShape(value) ? kind.read(bare, context) : value);
  return isThenable(read) ? read.then(use) : use(read);
}

/** Whether an optional argument commits to a text; a later failure is then an error, never a skip. */
export function isMeantFor(kind: Kind<unknown>, typed: string, quoted: boolean): boolean {
  if (quoted && kind.leavesQuoted) return false;
  const { shape } = kind;
  if (shape === undefined) return true;
  // A longer text is none of its values; its beginning tells for whom it is meant.
  const text = plainly(kind, isOfAnyLength(kind) ? typed : typed.slice(0, LONGEST_VALUE));
  return shape(text) || shape(withoutPunctuation(kind, text));
}

/** An address may be that long, and nothing else is. */
const LONGEST_VALUE = 2048;

function isOfAnyLength({ traits }: Kind<unknown>): boolean {
  return traits?.isVerbatim === true || traits?.isOfAnyLength === true;
}

/** Plain text is taken as it was typed; of every other kind, what a chat program puts in is no part. */
function plainly({ traits }: Kind<unknown>, typed: string): string {
  return traits?.isVerbatim === true || typed.length > LONGEST_VALUE ? typed : withoutPutIn(typed);
}

function withoutPunctuation({ traits }: Kind<unknown>, text: string): string {
  if (traits?.isVerbatim === true) return text;
  let end = text.length;
  const least = Math.max(1, end - MOST_PUNCTUATION);
  while (end > least && PUNCTUATION.includes(text[end - 1] as string)) end--;
  // A comma that stands alone belongs to nothing.
  return isSpace(text.charCodeAt(end - 1)) ? text : text.slice(0, end);
}

const PUNCTUATION = ',.;:!?…';
const MOST_PUNCTUATION = 8;

/** The words that one value could be made of, from the one the cursor stands on; they are all looked at, and none is taken. */
export interface Run {
  readonly kind: Kind<unknown>;
  /** The first word without its quotes. */
  readonly first: string;
  readonly quoted: boolean;
  readonly start: number;
  /** Where each word ends. */
  readonly ends: readonly number[];
}

export function runAt(cursor: Cursor, reading: Reading, kind: Kind<unknown>, given: GivenFlags | undefined): Run {
  const { text, start, quoted } = cursor;
  const first = cursor.value();
  const ends = [cursor.end];
  const most = quoted || typeof kind.tokens !== 'number' ? 1 : kind.tokens;
  while (ends.length < most && !cursor.isBeforeComma() && cursor.next()) {
    if (cursor.quoted || isFlagAhead(cursor, reading, given)) break;
    if (kind.goesOn?.(plainly(kind, cursor.value()), plainly(kind, text.slice(start, ends.at(-1)))) === false) break;
    ends.push(cursor.end);
  }
  cursor.unclosed = false;
  cursor.continueAt(start);
  return { kind, first, quoted, start, ends };
}

/** All words of the run, as they were typed. */
export function typedIn({ text }: Cursor, { first, start, ends }: Run, words = ends.length): string {
  return words === 1 ? first : text.slice(start, ends[words - 1]);
}

/**
 * Takes the longest run that reads, `2 days` before `2`, and leaves the cursor behind it. A longer one that the kind
 * knows for its own, with an error, is not cut to a shorter value, unless an argument from `next` on is there for the rest.
 */
export function takeRun(cursor: Cursor, reading: Reading, run: Run, next: number): MaybePromise<Piece> {
  return takeFrom(cursor, reading, run, next, run.ends.length, undefined);
}

function takeFrom(
  cursor: Cursor,
  reading: Reading,
  run: Run,
  next: number,
  words: number,
  wrong: Piece | undefined,
): MaybePromise<Piece> {
  const typed = typedIn(cursor, run, words);
  const read = readWhole(run.kind, typed, reading.context);
  const use = (value: unknown): MaybePromise<Piece> => {
    const end = run.ends[words - 1] as number;
    const piece: Piece = { typed, start: run.start, end, isRead: true, read: value };
    if (words > 1 && isNotOfShape(value)) return takeFrom(cursor, reading, run, next, words - 1, wrong);
    if (words > 1 && !isOfForm(value))
      return takeFrom(cursor, reading, run, next, words - 1, nearestMistake(wrong, piece));
    const isCut = wrong !== undefined && isOfForm(value) && !insists(cursor, reading, run.kind, wrong.read, next, end);
    const taken = isCut || wrong === undefined ? piece : isOfForm(value) ? wrong : nearestMistake(wrong, piece);
    cursor.continueAt(taken.end);
    return taken;
  };
  return isThenable(read) ? read.then(use) : use(read);
}

/** Of several words that may be two values, no more than the mistake needs. */
function nearestMistake(longer: Piece | undefined, shorter: Piece): Piece {
  if (longer === undefined) return shorter;
  return longer.read === shorter.read && isMisread(longer.read) && longer.read.mayBeTwo ? shorter : longer;
}

/** Whether a kind that says which words go on its values means the mistake that it finds in a longer run. */
function insists(
  { text }: Cursor,
  { slots }: Reading,
  { goesOn }: Kind<unknown>,
  mistake: unknown,
  next: number,
  end: number,
): boolean {
  if (goesOn === undefined) return false;
  if (!(isMisread(mistake) && mistake.mayBeTwo)) return true;
  const ahead = new Cursor(text, end);
  return !(ahead.next() && isAwaited(slots.positional, next, ahead.value()));
}

/** Whether a word has the form of an argument that may come next, other than plain text. */
function isAwaited(positional: readonly Slot[], next: number, word: string): boolean {
  for (let index = next; index < positional.length; index++) {
    const { kind, absent } = positional[index] as Slot;
    if (kind.shape?.(word) === true) return true;
    if (absent.as === 'problem') return false;
  }
  return false;
}
