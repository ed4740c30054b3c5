/** Binding the words of a line to arguments, left to right. */
import { echo } from '../base/text.js';
import { isThenable, type MaybePromise } from '../base/thenable.js';
import type { Cursor } from './cursor.js';
import { collectFlags, type GivenFlags, readFlags } from './flags.js';
import { readList } from './lists.js';
import type { Reading } from './reading.js';
import { isMeantFor, longestRun } from './runs.js';
import type { Slot } from './slots.js';

/**
 * Reads the rest of the line into `reading`. Stays synchronous while nothing has to be asked.
 * Hot path: bench/rows/calls, bench/rows/reading.
 */
export function readText(cursor: Cursor, reading: Reading): MaybePromise<void> {
  const given: GivenFlags | undefined =
    reading.slots.flags === undefined ? undefined : { ended: false, pieces: new Map() };
  return readFrom(cursor, reading, 0, given);
}

function readFrom(cursor: Cursor, reading: Reading, from: number, given: GivenFlags | undefined): MaybePromise<void> {
  const { positional } = reading.slots;
  for (let index = from; index < positional.length; index++) {
    if (given !== undefined) collectFlags(cursor, reading, given);
    if (reading.broken) return;
    const pending = readSlot(cursor, reading, positional[index] as Slot, given);
    if (pending !== undefined) return pending.then(() => readFrom(cursor, reading, index + 1, given));
  }
  if (given !== undefined) collectFlags(cursor, reading, given);
  if (reading.broken) return;
  readSurplus(cursor, reading);
  if (given !== undefined) return readFlags(reading, given);
}

function readSlot(
  cursor: Cursor,
  reading: Reading,
  slot: Slot,
  given: GivenFlags | undefined,
): PromiseLike<void> | undefined {
  const { kind } = slot;
  if (kind.tokens === 'rest') {
    const rest = cursor.rest();
    return rest === '' ? reading.fillAbsent(slot) : take(reading, slot, rest, cursor.start, cursor.end);
  }
  if (kind.tokens === 'many') return readList(cursor, reading, slot, given);
  if (!cursor.next()) return reading.fillAbsent(slot);
  if (cursor.unclosed) {
    reading.breakOff(cursor.start, cursor.end);
    return undefined;
  }
  const typed = cursor.value();
  if (slot.absent.as !== 'problem' && !isMeantFor(kind, typed, cursor.quoted)) {
    cursor.back();
    return reading.fillAbsent(slot);
  }
  if (kind.tokens === 1 || cursor.quoted) return take(reading, slot, typed, cursor.start, cursor.end);
  const run = longestRun(cursor, reading, kind, kind.tokens, typed, given);
  return settle(reading, slot, run.read, run.typed, run.start, run.end);
}

function take(reading: Reading, slot: Slot, typed: string, start: number, end: number): PromiseLike<void> | undefined {
  return settle(reading, slot, slot.kind.read(typed, reading.context), typed, start, end);
}

function settle(
  reading: Reading,
  slot: Slot,
  read: MaybePromise<unknown>,
  typed: string,
  start: number,
  end: number,
): PromiseLike<void> | undefined {
  reading.note(start, end, slot.name);
  if (isThenable(read)) return read.then((value) => reading.settle(slot, value, typed, start, end));
  reading.settle(slot, read, typed, start, end);
  return undefined;
}

function readSurplus(cursor: Cursor, reading: Reading): void {
  const surplus = cursor.rest();
  if (surplus === '') return;
  const { start, end } = cursor;
  reading.note(start, end, undefined);
  reading.report({ code: 'argument.extra', parameters: { read: echo(surplus) }, span: { start, end } });
}
