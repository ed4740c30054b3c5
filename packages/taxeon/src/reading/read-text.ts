/** Binding the words of a line to arguments, left to right. */

import { echo } from '../base/text.js';
import { isThenable, type MaybePromise } from '../base/thenable.js';
import { notOfShape } from '../commands/kind.js';
import type { Cursor } from './cursor.js';
import type { Reading, Slot } from './slots.js';

/** Reads the rest of the line into `reading`. Stays synchronous while nothing has to be asked. Hot path: bench/dispatch. */
export function readText(cursor: Cursor, reading: Reading): MaybePromise<void> {
  return readFrom(cursor, reading, 0);
}

function readFrom(cursor: Cursor, reading: Reading, from: number): MaybePromise<void> {
  const { slots } = reading;
  for (let index = from; index < slots.length; index++) {
    const pending = readSlot(cursor, reading, slots[index] as Slot);
    if (pending !== undefined) return pending.then(() => readFrom(cursor, reading, index + 1));
    if (cursor.unclosed) return;
  }
  readSurplus(cursor, reading);
}

function readSlot(cursor: Cursor, reading: Reading, slot: Slot): PromiseLike<void> | undefined {
  const { kind } = slot;
  if (kind.tokens === 'rest') {
    const rest = cursor.rest();
    return rest === '' ? fillAbsent(reading, slot) : take(reading, slot, rest, cursor.start, cursor.end);
  }
  if (!cursor.next()) return fillAbsent(reading, slot);
  if (cursor.unclosed) {
    reading.report({
      code: 'input.malformed',
      parameters: { what: 'unclosed-quote' },
      span: { start: cursor.start, end: cursor.end },
    });
    return undefined;
  }
  const typed = cursor.value();
  if (slot.absent.as !== 'problem' && !isMeantFor(slot, typed, cursor.quoted)) {
    cursor.back();
    return fillAbsent(reading, slot);
  }
  if (kind.tokens > 1 && !cursor.quoted) return takeLongest(cursor, reading, slot, typed, kind.tokens);
  return take(reading, slot, typed, cursor.start, cursor.end);
}

/** Whether an optional argument commits to a token; a later failure is then an error, never a skip. */
function isMeantFor({ kind }: Slot, typed: string, quoted: boolean): boolean {
  if (quoted && kind.leavesQuoted) return false;
  return kind.shape === undefined || kind.shape(typed);
}

/** Tries the longest run of unquoted tokens first: `2 days` before `2`. */
function takeLongest(
  cursor: Cursor,
  reading: Reading,
  slot: Slot,
  typed: string,
  most: number,
): PromiseLike<void> | undefined {
  const { start, end } = cursor;
  const ends: number[] = [];
  while (ends.length + 1 < most && cursor.next() && !cursor.quoted) ends.push(cursor.end);
  cursor.unclosed = false;
  for (let last = ends.length - 1; last >= 0; last--) {
    const runEnd = ends[last] as number;
    const run = cursor.text.slice(start, runEnd);
    const read = slot.kind.read(run, reading.context);
    // A run that fits but is out of bounds is meant, too: only one that does not read is let go.
    if (isThenable(read) || isOfShape(read)) {
      cursor.continueAt(runEnd);
      return settle(reading, slot, read, run, start, runEnd);
    }
  }
  cursor.continueAt(end);
  return take(reading, slot, typed, start, end);
}

function isOfShape(read: unknown): boolean {
  return read !== notOfShape;
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

function fillAbsent(reading: Reading, slot: Slot): PromiseLike<void> | undefined {
  const filled = reading.fillAbsent(slot);
  return isThenable(filled) ? filled : undefined;
}

function readSurplus(cursor: Cursor, reading: Reading): void {
  const surplus = cursor.rest();
  if (surplus === '') return;
  const { start, end } = cursor;
  reading.note(start, end, undefined);
  reading.report({ code: 'argument.extra', parameters: { read: echo(surplus) }, span: { start, end } });
}
