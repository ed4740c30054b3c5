/** The pieces of a list as they were typed, and the values they are. Unquoted words part at commas: `wren, tobias` is two. */
import { echo } from '../base/text.js';
import { isThenable } from '../base/thenable.js';
import { isMisread, type ListItem } from '../commands/kind.js';
import { Cursor } from './cursor.js';
import type { Piece, Reading } from './reading.js';
import type { Slot } from './slots.js';

/** A slash command has one text for a whole list; it is read as the same text would be in a line. */
export function piecesOfText(text: string): Piece[] {
  const cursor = new Cursor(text, 0);
  const pieces: Piece[] = [];
  while (cursor.next()) {
    for (const typed of partsOf(cursor.value(), cursor.quoted)) pieces.push({ typed, start: -1, end: -1 });
  }
  return pieces;
}

/** What one word holds. */
export function partsOf(value: string, quoted: boolean): readonly string[] {
  if (quoted || !value.includes(',')) return [value];
  return value.split(',').filter((part) => part !== '');
}

/** Reads each piece as a value of the list. */
export function readPieces(reading: Reading, slot: Slot, pieces: readonly Piece[]): PromiseLike<void> | undefined {
  return readPiecesFrom(reading, slot, pieces, [], 0);
}

function readPiecesFrom(
  reading: Reading,
  slot: Slot,
  pieces: readonly Piece[],
  values: unknown[],
  from: number,
): PromiseLike<void> | undefined {
  const { kind, max } = slot.kind.item as ListItem;
  // One more than allowed is enough to say that there are too many.
  for (let index = from; index < pieces.length && index <= max; index++) {
    const piece = pieces[index] as Piece;
    const read = kind.read(piece.typed, reading.context);
    if (isThenable(read)) {
      return read.then((value) => {
        settleItem(reading, slot, piece, value, values);
        return readPiecesFrom(reading, slot, pieces, values, index + 1);
      });
    }
    settleItem(reading, slot, piece, read, values);
  }
  settleList(reading, slot, pieces, values);
  return undefined;
}

function settleItem(
  reading: Reading,
  slot: Slot,
  { typed, start, end }: Piece,
  read: unknown,
  values: unknown[],
): void {
  const value = reading.resolve(slot, read, typed, start, end);
  if (!isMisread(value)) values.push(value);
}

function settleList(reading: Reading, slot: Slot, pieces: readonly Piece[], values: readonly unknown[]): void {
  const { min, max } = slot.kind.item as ListItem;
  const misfit = pieces.length < min ? 'below' : pieces.length > max ? 'above' : undefined;
  const first = pieces[0] as Piece;
  const last = pieces.at(-1) as Piece;
  if (misfit !== undefined) {
    const read = echo(pieces.map(({ typed }) => typed).join(', '));
    const parameters = {
      argument: slot.name,
      read,
      expected: slot.kind.expected,
      misfit,
      measure: 'count',
      near: [],
    } as const;
    const span = { start: first.start, end: last.end };
    reading.report({ code: 'argument.invalid', parameters, ...(first.start < 0 ? {} : { span }) });
    reading.put(slot, undefined);
    return;
  }
  reading.settle(slot, values, '', first.start, last.end);
}
