/** Flags: `--days 3`, `--days=3`, `--dry-run`, `--no-dry-run`, `-d 3`; `--` ends them. */
import { nearNames } from '../base/near.js';
import { echoText, foldName, isSpace } from '../base/text.js';
import { andThen, isThenable, type MaybePromise } from '../base/thenable.js';
import type { Cursor } from './cursor.js';
import {
  EQUALS,
  type FoundFlag,
  findFlag,
  type GivenFlags,
  hyphensOf,
  isEnd,
  isFlagAhead,
  type SeenToken,
  seeFlag,
} from './flag-forms.js';
import type { Reader } from './reader.js';
import type { Piece, Reading } from './reading.js';
import type { Flag, Flags } from './slots.js';
import { listTakingOf } from './taking.js';
import { isRunAhead, prepared, runAt, takeRun } from './value.js';

/** Takes all flags that stand next in the line. */
export function collectFlags(cursor: Cursor, reading: Reading, given: GivenFlags): MaybePromise<void> {
  const { flags } = reading.slots;
  while (!given.ended && !reading.broken && flags !== undefined && hyphensOf(cursor.peek()) > 0 && cursor.next()) {
    if (isEnd(cursor)) {
      given.ended = true;
      return;
    }
    const seen = seeFlag(cursor, flags);
    if (seen === undefined) {
      cursor.back();
      return;
    }
    const found = findFlag(seen, flags);
    const pending =
      found === undefined ? reportUnknown(cursor, reading, flags, seen) : takeFlag(cursor, reading, given, found, seen);
    if (isThenable(pending)) return pending.then(() => collectFlags(cursor, reading, given));
  }
}

function takeFlag(
  cursor: Cursor,
  reading: Reading,
  given: GivenFlags,
  { flag, isNo }: FoundFlag,
  seen: SeenToken,
): MaybePromise<void> {
  const { start, end } = cursor;
  const { slot, spelling } = flag;
  return andThen(flagPieces(cursor, reading, given, flag, seen, isNo), (taken: readonly Piece[]) => {
    const before = given.pieces.get(flag);
    const last = taken.at(-1);
    // Of too many, one more than there may be is enough to say so.
    const most = slot.kind.item?.max ?? 0;
    if (before === undefined) given.pieces.set(flag, [...taken]);
    else if (before.length <= most) before.push(...taken);
    if (last === undefined) {
      if (!reading.broken) reading.missing(slot, { start, end });
      return;
    }
    reading.note(start, last.end, slot.name);
    if (before === undefined || slot.kind.tokens === 'many') return;
    const parameters = { read: spelling, because: 'twice', argument: slot.name, expected: undefined } as const;
    reading.report({ code: 'argument.extra', parameters, span: { start, end: last.end } });
  });
}

/** The flag's values; none where they are missing. */
function flagPieces(
  cursor: Cursor,
  reading: Reading,
  given: GivenFlags,
  { slot, isSwitch }: Flag,
  { valueAt }: SeenToken,
  isNo: boolean,
): MaybePromise<readonly Piece[]> {
  const { text, start, end } = cursor;
  const { reader } = slot;
  if (valueAt >= 0 && !isNo) {
    cursor.continueAt(valueAt);
    if (valueAt === text.length || isSpace(text.charCodeAt(valueAt))) return [];
  } else if (isSwitch) return [{ typed: isNo ? 'no' : 'yes', start, end, isRead: false, read: undefined }];
  // `--days = 3`
  else if (cursor.peek() === EQUALS) cursor.pass();
  if (!cursor.next()) return [];
  if (cursor.unclosed) {
    reading.breakOff(cursor.start, cursor.end);
    return [];
  }
  if (valueAt < 0 && isFlagAhead(cursor, reading, given)) {
    cursor.back();
    return [];
  }
  if (reader.tokens === 'many') {
    cursor.back();
    return listTakingOf(slot).takeFromFlag(cursor, reading, slot, given);
  }
  const typed = cursor.value();
  const pending = prepared(cursor, reading, reader, typed, false);
  const words = () => flagWords(cursor, reading, given, reader, typed);
  return pending === undefined ? words() : pending.then(words);
}

function flagWords(
  cursor: Cursor,
  reading: Reading,
  given: GivenFlags,
  reader: Reader,
  typed: string,
): MaybePromise<readonly Piece[]> {
  const { start: from, end: to, quoted } = cursor;
  if (reader.tokens === 1 || quoted || !isRunAhead(cursor, reading, reader, typed, given))
    return [{ typed, start: from, end: to, isRead: false, read: undefined }];
  const beyond = reading.slots.positional.length;
  return andThen(takeRun(cursor, reading, runAt(cursor, reading, reader, given), beyond), (one) => [one]);
}

function reportUnknown(
  cursor: Cursor,
  reading: Reading,
  { all, byName }: Flags,
  { isLong, name, valueAt }: SeenToken,
): void {
  const { start } = cursor;
  if (valueAt >= 0) {
    cursor.continueAt(valueAt);
    if (valueAt < cursor.text.length && !isSpace(cursor.text.charCodeAt(valueAt))) cursor.next();
    if (cursor.unclosed) reading.breakOff(cursor.start, cursor.end);
  }
  const span = { start, end: Math.max(cursor.end, start) };
  reading.note(span.start, span.end, undefined);
  if (reading.isFull) {
    reading.broken = true;
    return;
  }
  const folded = foldName(name);
  const near = nearNames(folded, byName.keys()).map((one) => byName.get(one)?.spelling ?? one);
  // `--dry` was to be `--dry-run`.
  const begun = all.flatMap(({ spelling }) => (spelling.startsWith(`--${folded}`) ? [spelling] : []));
  const parameters = {
    name: `${isLong ? '--' : '-'}${echoText(name)}`,
    near: [...new Set([...near, ...begun])].slice(0, 3),
  };
  reading.report({ code: 'argument.unknown', parameters, span });
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

function readFlag(reading: Reading, { slot }: Flag, pieces: Piece[] | undefined): PromiseLike<void> | undefined {
  if (pieces === undefined) return reading.fillAbsent(slot);
  const [piece] = pieces;
  // Its absence was reported where the value should have been.
  if (piece === undefined) return undefined;
  if (slot.kind.tokens === 'many') return listTakingOf(slot).readFlags(reading, slot, pieces);
  const { typed, start, end } = piece;
  const read = piece.isRead ? piece.read : slot.reader.read(typed, reading.context);
  if (isThenable(read)) return read.then((value) => reading.accept(slot, value, typed, start, end));
  return reading.accept(slot, read, typed, start, end);
}
