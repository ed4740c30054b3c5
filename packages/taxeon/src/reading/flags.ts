/** Flags: `--days 3`, `--days=3`, `--dry-run`, `--no-dry-run`, `-d 3`; `--` ends them. */
import { nearNames } from '../base/near.js';
import { echo, foldName } from '../base/text.js';
import { isThenable, type MaybePromise } from '../base/thenable.js';
import { isSpace } from './characters.js';
import type { Cursor } from './cursor.js';
import { readPieces } from './pieces.js';
import type { Piece, Reading } from './reading.js';
import type { Flag, Flags } from './slots.js';

/** The flags found in a line so far, with their values as they were typed. */
export interface GivenFlags {
  /** `--` was there, or the tail has begun. */
  ended: boolean;
  readonly pieces: Map<Flag, Piece[]>;
}

const DASH = 0x2d;
/** A phone makes one of these of two dashes. */
const EN_DASH = 0x2013;
const EM_DASH = 0x2014;
const EQUALS = 0x3d;

function isDash(unit: number): boolean {
  return unit === DASH || unit === EM_DASH || unit === EN_DASH;
}

/** No name of a flag is longer, so that a megabyte behind a dash is not looked at. */
const LONGEST = 40;
const nameForm = /^\p{L}[\p{L}\p{M}\p{N}_-]*$/u;

interface Seen {
  readonly isLong: boolean;
  readonly name: string;
  /** Where the value begins, behind `=`; -1 where there is none. */
  readonly valueAt: number;
}

/** What the token at hand is as a flag; a quoted token is none. Hot path: bench/rows/reading. */
function seeFlag({ quoted, start, end, text }: Cursor): Seen | undefined {
  const first = text.charCodeAt(start);
  if (quoted || !isDash(first)) return undefined;
  const isLong = first !== DASH || text.charCodeAt(start + 1) === DASH;
  const nameAt = first === DASH && isLong ? start + 2 : start + 1;
  let nameEnd = nameAt;
  while (nameEnd < end && nameEnd - nameAt <= LONGEST && text.charCodeAt(nameEnd) !== EQUALS) nameEnd++;
  const name = text.slice(nameAt, nameEnd);
  // One dash takes one letter: -d, -d=3.
  if (!nameForm.test(name) || (!isLong && name.length > 1) || nameEnd - nameAt > LONGEST) return undefined;
  return { isLong, name, valueAt: nameEnd < end ? nameEnd + 1 : -1 };
}

/** Whether the token at hand would be taken as a flag, so that no run of tokens goes beyond it. */
export function isFlagAhead(cursor: Cursor, { slots }: Reading, given: GivenFlags | undefined): boolean {
  if (given === undefined || given.ended || slots.flags === undefined) return false;
  const seen = seeFlag(cursor);
  if (seen === undefined) return isEnd(cursor);
  return seen.isLong || slots.flags.byLetter.has(seen.name);
}

/** Takes all flags that stand next in the line. */
export function collectFlags(cursor: Cursor, reading: Reading, given: GivenFlags): void {
  const { flags } = reading.slots;
  while (!given.ended && flags !== undefined && isDash(cursor.peek()) && cursor.next()) {
    if (isEnd(cursor)) {
      given.ended = true;
      return;
    }
    const seen = seeFlag(cursor);
    const flag = seen === undefined ? undefined : findFlag(seen, flags);
    if (seen === undefined || (flag === undefined && !seen.isLong)) {
      cursor.back();
      return;
    }
    if (flag === undefined) reportUnknown(cursor, reading, flags, seen);
    else takeFlag(cursor, reading, given, flag, seen);
    if (reading.broken) return;
  }
}

function isEnd({ quoted, text, start, end }: Cursor): boolean {
  if (quoted) return false;
  const token = end - start <= 2 ? text.slice(start, end) : '';
  return token === '--' || token === '\u2014';
}

interface Found {
  readonly flag: Flag;
  readonly isNo: boolean;
}

function findFlag({ isLong, name }: Seen, { byName, byLetter }: Flags): Flag | undefined {
  return isLong ? findLong(name, byName)?.flag : byLetter.get(name);
}

function findLong(name: string, byName: Flags['byName']): Found | undefined {
  const folded = foldName(name);
  const flag = byName.get(folded);
  if (flag !== undefined) return { flag, isNo: false };
  const opposite = folded.startsWith('no-') ? byName.get(folded.slice(3)) : undefined;
  return opposite?.isSwitch === true ? { flag: opposite, isNo: true } : undefined;
}

function takeFlag(cursor: Cursor, reading: Reading, given: GivenFlags, flag: Flag, seen: Seen): void {
  const { start, end } = cursor;
  const isNo =
    seen.isLong && reading.slots.flags !== undefined && findLong(seen.name, reading.slots.flags.byName)?.isNo === true;
  const piece = pieceOf(cursor, reading, given, flag, seen, isNo);
  if (piece === undefined) {
    if (!reading.broken) reading.missing(flag.slot, { start, end });
    given.pieces.set(flag, []);
    return;
  }
  reading.note(start, piece.end, flag.slot.name);
  const pieces = given.pieces.get(flag);
  if (pieces === undefined) given.pieces.set(flag, [piece]);
  else if (flag.slot.kind.tokens === 'many') pieces.push(piece);
  else reading.report({ code: 'argument.extra', parameters: { read: flag.spelling }, span: { start, end: piece.end } });
}

/** The flag's value; `undefined` where it is missing. */
function pieceOf(
  cursor: Cursor,
  reading: Reading,
  given: GivenFlags,
  flag: Flag,
  seen: Seen,
  isNo: boolean,
): Piece | undefined {
  const { text, start, end } = cursor;
  if (seen.valueAt >= 0 && !isNo) {
    cursor.continueAt(seen.valueAt);
    if (seen.valueAt === text.length || isSpace(text.charCodeAt(seen.valueAt))) return undefined;
    return nextPiece(cursor, reading);
  }
  if (flag.isSwitch) return { typed: isNo ? 'no' : 'yes', start, end };
  const piece = nextPiece(cursor, reading);
  if (piece === undefined || !isFlagAhead(cursor, reading, given)) return piece;
  cursor.back();
  return undefined;
}

function nextPiece(cursor: Cursor, reading: Reading): Piece | undefined {
  if (!cursor.next()) return undefined;
  const { start, end } = cursor;
  if (!cursor.unclosed) return { typed: cursor.value(), start, end };
  reading.breakOff(start, end);
  return undefined;
}

function reportUnknown(cursor: Cursor, reading: Reading, { all, byName }: Flags, { name, valueAt }: Seen): void {
  const { start } = cursor;
  if (valueAt >= 0) {
    cursor.continueAt(valueAt);
    if (!isSpace(cursor.text.charCodeAt(valueAt))) nextPiece(cursor, reading);
  }
  const near = nearNames(foldName(name), byName.keys()).map((one) => byName.get(one)?.spelling ?? one);
  const known = new Set(all.map(({ spelling }) => spelling));
  const span = { start, end: Math.max(cursor.end, start) };
  reading.note(span.start, span.end, undefined);
  reading.report({
    code: 'argument.unknown',
    parameters: { name: `--${echo(name)}`, near: [...new Set(near)].filter((one) => known.has(one)) },
    span,
  });
}

/** Reads the values of all flags, and fills those that were not given. */
export function readFlags(reading: Reading, given: GivenFlags, from = 0): MaybePromise<void> {
  const all = reading.slots.flags?.all ?? [];
  for (let index = from; index < all.length; index++) {
    const flag = all[index] as Flag;
    const pending = readFlag(reading, flag, given.pieces.get(flag));
    if (pending !== undefined) return pending.then(() => readFlags(reading, given, index + 1));
  }
}

function readFlag(
  reading: Reading,
  { slot }: Flag,
  pieces: readonly Piece[] | undefined,
): PromiseLike<void> | undefined {
  if (pieces === undefined) return reading.fillAbsent(slot);
  const [piece] = pieces;
  // Its absence was reported where the value should have been.
  if (piece === undefined) return undefined;
  if (slot.kind.tokens === 'many') return readPieces(reading, slot, pieces);
  const { typed, start, end } = piece;
  const read = slot.kind.read(typed, reading.context);
  if (isThenable(read)) return read.then((value) => reading.settle(slot, value, typed, start, end));
  reading.settle(slot, read, typed, start, end);
  return undefined;
}
