/** The values of a list, one after the other, with or without commas between them. */
import { isJoiner } from '../base/joiner.js';
import { echoText } from '../base/text.js';
import { isThenable, type MaybePromise } from '../base/thenable.js';
import { isMisread, type ListItem } from '../commands/kind.js';
import { Cursor } from './cursor.js';
import type { GivenFlags } from './flag-forms.js';
import { isMeantFor, optionReader, type Reader } from './reader.js';
import type { Piece, Reading } from './reading.js';
import type { Slot } from './slots.js';
import type { ListTaking } from './taking.js';
import { prepared, runAt, takeRun, typedIn } from './value.js';

/** The values of a list on their way from a text to its slot. */
export interface ListReading {
  readonly slot: Slot;
  readonly reader: Reader;
  readonly max: number;
  /** How far it goes: for as long as words have the form of its values, in a line or a text of its own, or over commas alone. */
  readonly extent: 'line' | 'text' | 'joined';
  readonly given: GivenFlags | undefined;
  /** The first of the positional slots that may take what the list leaves. */
  readonly next: number;
  /** Of too many, one more than there may be. */
  readonly pieces: Piece[];
  /** Where the last one ends. */
  end: number;
}

function listingOf(
  slot: Slot,
  extent: ListReading['extent'],
  next: number,
  given: GivenFlags | undefined,
  pieces: Piece[] = [],
): ListReading {
  const item = slot.reader.item as Reader;
  const { max } = slot.kind.item as ListItem;
  const reader = extent === 'text' ? optionReader(item) : item;
  return { slot, reader, max, extent, given, next, pieces, end: -1 };
}

function takeFromLine(
  cursor: Cursor,
  reading: Reading,
  slot: Slot,
  next: number,
  given: GivenFlags | undefined,
): PromiseLike<void> | undefined {
  const listing = listingOf(slot, 'line', next, given);
  const pending = takePieces(cursor, reading, listing);
  return isThenable(pending) ? pending.then(() => acceptTaken(reading, listing)) : acceptTaken(reading, listing);
}

function readListText(text: string, reading: Reading, slot: Slot): PromiseLike<void> | undefined {
  const { positional } = reading.slots;
  const at = positional.indexOf(slot);
  const listing = listingOf(slot, 'text', at < 0 ? positional.length : at, undefined);
  const cursor = new Cursor(text, 0);
  const apply = () => {
    listing.end = -1;
    reading.leftOver(cursor);
    return acceptTaken(reading, listing);
  };
  const pending = takePieces(cursor, reading, listing);
  return isThenable(pending) ? pending.then(apply) : apply();
}

function readTexts(texts: readonly string[], reading: Reading, slot: Slot): PromiseLike<void> | undefined {
  const pieces = texts.map((typed): Piece => ({ typed, start: -1, end: -1, isRead: false, read: undefined }));
  return readPieces(reading, listingOf(slot, 'text', 0, undefined, pieces));
}

function takeFromFlag(cursor: Cursor, reading: Reading, slot: Slot, given: GivenFlags): MaybePromise<readonly Piece[]> {
  const listing = listingOf(slot, 'joined', reading.slots.positional.length, given);
  const pending = takePieces(cursor, reading, listing);
  return isThenable(pending) ? pending.then(() => listing.pieces) : listing.pieces;
}

function readListFlags(reading: Reading, slot: Slot, pieces: readonly Piece[]): PromiseLike<void> | undefined {
  const listing = listingOf(slot, 'joined', 0, undefined, [...pieces]);
  listing.end = pieces.at(-1)?.end ?? -1;
  return readPieces(reading, listing);
}

/** A list brings it along. */
export const listTaking: ListTaking = {
  takeFromLine,
  takeFromFlag,
  readFlags: readListFlags,
  readText: readListText,
  readTexts,
};

function acceptTaken(reading: Reading, listing: ListReading): PromiseLike<void> | undefined {
  if (reading.broken) return undefined;
  return listing.pieces.length === 0 ? reading.fillAbsent(listing.slot) : readPieces(reading, listing);
}

function isOverfull({ max, pieces }: ListReading): boolean {
  return pieces.length > max;
}

/** Takes the texts of the values; those of several words are read on the way, since that tells how many. */
function takePieces(cursor: Cursor, reading: Reading, listing: ListReading): MaybePromise<void> {
  for (;;) {
    const isMore = takePiece(cursor, reading, listing);
    if (isThenable(isMore)) return isMore.then((more) => (more ? takePieces(cursor, reading, listing) : undefined));
    if (!isMore) return;
  }
}

/** @returns whether there may be more */
function takePiece(cursor: Cursor, reading: Reading, listing: ListReading): MaybePromise<boolean> {
  cursor.partsAtCommas = true;
  const taken = nextPiece(cursor, reading, listing);
  return isThenable(taken)
    ? taken.then((piece) => putOrEnd(cursor, reading, listing, piece))
    : putOrEnd(cursor, reading, listing, taken);
}

function putOrEnd(
  cursor: Cursor,
  reading: Reading,
  listing: ListReading,
  piece: Piece | undefined,
): MaybePromise<boolean> {
  if (piece !== undefined) return put(cursor, reading, listing, piece);
  cursor.partsAtCommas = false;
  return false;
}

/** `undefined` where the list ends. */
function nextPiece(cursor: Cursor, reading: Reading, listing: ListReading): MaybePromise<Piece | undefined> {
  if (listing.extent === 'joined' && listing.pieces.length > 0 && !cursor.isBeforeComma()) return undefined;
  if (!cursor.next()) return undefined;
  if (cursor.unclosed) {
    reading.breakOff(listing.extent === 'text' ? -1 : cursor.start, cursor.end);
    return undefined;
  }
  const pending = prepared(cursor, reading, listing.reader, cursor.value(), true);
  return pending === undefined
    ? pieceAt(cursor, reading, listing)
    : pending.then(() => pieceAt(cursor, reading, listing));
}

function pieceAt(cursor: Cursor, reading: Reading, listing: ListReading): MaybePromise<Piece | undefined> {
  const { text, start, end, quoted } = cursor;
  const { reader } = listing;
  if (reader.tokens === 1) {
    const typed = cursor.value();
    // It is read when it is known whether there are too many.
    if (isMeantFor(reader, typed, quoted, reading.context) || mustBeValue(text, start, listing))
      return { typed, start, end, isRead: false, read: undefined };
  } else {
    const run = runAt(cursor, reading, reader, listing.given);
    const isMeant =
      isMeantFor(reader, typedIn(cursor, run), quoted, reading.context) || mustBeValue(text, start, listing);
    if (isMeant) return takeRun(cursor, reading, run, listing.next);
  }
  cursor.continueAt(start);
  reading.left = { slot: listing.slot, start };
  return undefined;
}

const LONGEST_JOINER = 12;

/** Passes a word that stands between values, `wren and tobias`, and is none itself. */
function passJoiner(cursor: Cursor, reading: Reading, { reader, end, extent }: ListReading): void {
  if (extent === 'joined') return;
  let from = end;
  if (cursor.next() && isJoinerAt(cursor, reading, reader)) {
    from = cursor.start;
    if (cursor.next() && isMeantFor(reader, cursor.value(), cursor.quoted, reading.context)) from = cursor.start;
  }
  cursor.unclosed = false;
  cursor.continueAt(from);
}

function isJoinerAt(cursor: Cursor, { context }: Reading, { kind }: Reader): boolean {
  if (cursor.quoted || cursor.end - cursor.start > LONGEST_JOINER) return false;
  const word = cursor.value();
  return isJoiner(word, context.locale) && kind.shape?.(word, context) !== true;
}

/** What follows a comma without space is meant, as is the first of a list that there must be. */
function mustBeValue(text: string, start: number, { slot, extent, pieces }: ListReading): boolean {
  if (extent === 'joined') return true;
  return pieces.length === 0 ? slot.absent.as === 'problem' : text[start - 1] === ',';
}

function put(cursor: Cursor, reading: Reading, listing: ListReading, piece: Piece): MaybePromise<boolean> {
  const { slot, extent, given, pieces } = listing;
  pieces.push(piece);
  listing.end = piece.end;
  passJoiner(cursor, reading, listing);
  if (isOverfull(listing)) {
    // Of the rest of the line nothing is said: it may go on for long.
    cursor.partsAtCommas = false;
    cursor.continueAt(cursor.text.length);
    return false;
  }
  if (extent !== 'line') return true;
  reading.note(piece.start, piece.end, slot.name);
  if (given !== undefined) {
    // Flags may stand between the values.
    if (cursor.isBeforeComma()) cursor.continueAt(piece.end + 1);
    cursor.partsAtCommas = false;
    const pending = given.collect(cursor, reading, given);
    if (isThenable(pending)) return pending.then(() => !reading.broken);
    return !reading.broken;
  }
  return true;
}

/** Reads each piece as a value of the list, and settles the list. */
function readPieces(reading: Reading, listing: ListReading): PromiseLike<void> | undefined {
  return readPiecesFrom(reading, listing, [], 0);
}

function readPiecesFrom(
  reading: Reading,
  listing: ListReading,
  values: unknown[],
  from: number,
): PromiseLike<void> | undefined {
  const { reader, max, pieces } = listing;
  for (let index = from; index < pieces.length && index <= max; index++) {
    const piece = pieces[index] as Piece;
    const read = piece.isRead ? piece.read : reader.read(piece.typed, reading.context);
    if (isThenable(read)) {
      return read.then((value) => {
        acceptItem(reading, listing, piece, value, values);
        return readPiecesFrom(reading, listing, values, index + 1);
      });
    }
    acceptItem(reading, listing, piece, read, values);
  }
  return acceptList(reading, listing, values);
}

function acceptItem(
  reading: Reading,
  { slot, end }: ListReading,
  piece: Piece,
  read: unknown,
  values: unknown[],
): void {
  const start = end < 0 ? -1 : piece.start;
  const value = reading.resolve(slot, read, piece.typed, start, piece.end);
  if (isMisread(value)) return;
  if ((slot.kind.item as ListItem).unique && values.some((one) => isSameValue(one, value))) {
    const parameters = {
      read: echoText(piece.typed),
      because: 'twice',
      argument: slot.name,
      expected: undefined,
    } as const;
    const span = start < 0 ? {} : { span: { start, end: piece.end } };
    reading.report({ code: 'argument.extra', parameters, ...span });
  }
  values.push(value);
}

/** Whether two values are one: people, roles and channels by their ids. */
function isSameValue(one: unknown, other: unknown): boolean {
  if (Object.is(one, other)) return true;
  const { id }: { readonly id?: unknown } = Object(one);
  if (id !== undefined) return id === Object(other).id;
  if (one instanceof Date && other instanceof Date) return one.getTime() === other.getTime();
  return one instanceof URL && other instanceof URL && one.href === other.href;
}

function acceptList(
  reading: Reading,
  { slot, pieces, end }: ListReading,
  values: readonly unknown[],
): PromiseLike<void> | undefined {
  const { min, max } = slot.kind.item as ListItem;
  const misfit = pieces.length < min ? 'below' : pieces.length > max ? 'above' : undefined;
  const start = end < 0 ? -1 : (pieces[0]?.start ?? -1);
  if (misfit !== undefined) {
    const read = echoText(pieces.map(({ typed }) => typed).join(', '));
    const parameters = {
      argument: slot.name,
      read,
      expected: slot.kind.expected,
      misfit,
      measure: 'count',
      near: [],
    } as const;
    reading.report({ code: 'argument.invalid', parameters, ...(start < 0 ? {} : { span: { start, end } }) });
    reading.put(slot, undefined);
    return undefined;
  }
  const places =
    values.length === pieces.length ? pieces.map((piece) => (end < 0 ? { ...piece, start: -1 } : piece)) : undefined;
  return reading.accept(slot, values, pieces.map(({ typed }) => typed).join(', '), start, end, places);
}
