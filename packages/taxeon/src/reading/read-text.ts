/** Binding the words of a line to arguments, left to right. */
import { isThenable, type MaybePromise } from '../base/thenable.js';
import type { Cursor } from './cursor.js';
import type { GivenFlags } from './flag-forms.js';
import { collectFlags, readFlags } from './flags.js';
import { isMeantFor } from './reader.js';
import type { Piece, Reading } from './reading.js';
import type { Slot } from './slots.js';
import { listTakingOf } from './taking.js';
import { isRunAhead, prepared, runAt, takeRun, typedIn } from './value.js';

/**
 * Reads the rest of the line into `reading`. Stays synchronous while nothing has to be asked.
 * Hot path: bench/rows/calls, bench/rows/reading.
 */
export function readText(cursor: Cursor, reading: Reading): MaybePromise<void> {
  reading.line = cursor.text;
  const given: GivenFlags | undefined =
    reading.slots.flags === undefined ? undefined : { ended: false, pieces: new Map(), collect: collectFlags };
  return readFrom(cursor, reading, 0, given);
}

function readFrom(cursor: Cursor, reading: Reading, from: number, given: GivenFlags | undefined): MaybePromise<void> {
  const { positional } = reading.slots;
  for (let index = from; index < positional.length; index++) {
    const pending =
      given === undefined ? readSlot(cursor, reading, index, given) : readNext(cursor, reading, index, given);
    if (pending !== undefined) return pending.then(() => readFrom(cursor, reading, index + 1, given));
    if (reading.broken) return;
  }
  if (given === undefined) return reading.leftOver(cursor);
  const pending = collectFlags(cursor, reading, given);
  return isThenable(pending) ? pending.then(() => finish(cursor, reading, given)) : finish(cursor, reading, given);
}

function finish(cursor: Cursor, reading: Reading, given: GivenFlags): MaybePromise<void> {
  if (reading.broken) return;
  reading.leftOver(cursor);
  return readFlags(reading, given);
}

/** What belongs to the slot, and the flags in front of it. */
function readNext(cursor: Cursor, reading: Reading, index: number, given: GivenFlags): PromiseLike<void> | undefined {
  const pending = collectFlags(cursor, reading, given);
  if (isThenable(pending)) return pending.then(() => readSlot(cursor, reading, index, given));
  return readSlot(cursor, reading, index, given);
}

function readSlot(
  cursor: Cursor,
  reading: Reading,
  index: number,
  given: GivenFlags | undefined,
): PromiseLike<void> | undefined {
  if (reading.broken) return undefined;
  const slot = reading.slots.positional[index] as Slot;
  const { reader } = slot;
  if (reader.tokens === 'rest') {
    const rest = cursor.rest();
    return rest === '' ? reading.fillAbsent(slot) : takeText(reading, slot, rest, cursor.start, cursor.end);
  }
  if (reader.tokens === 'many') return listTakingOf(slot).takeFromLine(cursor, reading, slot, index, given);
  if (!cursor.next()) return reading.fillAbsent(slot);
  if (cursor.unclosed) {
    reading.breakOff(cursor.start, cursor.end);
    return undefined;
  }
  const typed = cursor.value();
  const pending = prepared(cursor, reading, reader, typed, slot.absent.as !== 'problem');
  if (pending !== undefined) return pending.then(() => readWords(cursor, reading, index, given, typed));
  return readWords(cursor, reading, index, given, typed);
}

/** The words from the one at hand on, once all is there that tells how many they are. */
function readWords(
  cursor: Cursor,
  reading: Reading,
  index: number,
  given: GivenFlags | undefined,
  typed: string,
): PromiseLike<void> | undefined {
  const slot = reading.slots.positional[index] as Slot;
  const { reader } = slot;
  const { start, end, quoted } = cursor;
  if (reader.tokens === 1 || quoted || !isRunAhead(cursor, reading, reader, typed, given)) {
    if (!isMeant(slot, typed, quoted, reading)) return leaveOut(cursor, reading, slot, start);
    return takeText(reading, slot, typed, start, end);
  }
  const run = runAt(cursor, reading, reader, given);
  if (!isMeant(slot, typedIn(cursor, run), quoted, reading)) return leaveOut(cursor, reading, slot, start);
  const taken = takeRun(cursor, reading, run, index + 1);
  if (isThenable(taken)) return taken.then((piece) => void acceptPiece(reading, slot, piece));
  return acceptPiece(reading, slot, taken);
}

function isMeant({ absent, reader }: Slot, typed: string, quoted: boolean, { context }: Reading): boolean {
  return absent.as === 'problem' || isMeantFor(reader, typed, quoted, context);
}

/** The word is left to the arguments that follow. */
function leaveOut(cursor: Cursor, reading: Reading, slot: Slot, start: number): PromiseLike<void> | undefined {
  cursor.continueAt(start);
  reading.left = { slot, start };
  return reading.fillAbsent(slot);
}

function acceptPiece(reading: Reading, slot: Slot, { read, typed, start, end }: Piece): PromiseLike<void> | undefined {
  return putText(reading, slot, read, typed, start, end);
}

function takeText(
  reading: Reading,
  slot: Slot,
  typed: string,
  start: number,
  end: number,
): PromiseLike<void> | undefined {
  return putText(reading, slot, slot.reader.read(typed, reading.context), typed, start, end);
}

function putText(
  reading: Reading,
  slot: Slot,
  read: MaybePromise<unknown>,
  typed: string,
  start: number,
  end: number,
): PromiseLike<void> | undefined {
  reading.note(start, end, slot.name);
  if (isThenable(read)) return read.then((value) => reading.accept(slot, value, typed, start, end));
  return reading.accept(slot, read, typed, start, end);
}
