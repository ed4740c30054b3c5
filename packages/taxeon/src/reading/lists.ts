/** Lists in a line: values for as long as words are meant for them. */
import type { ListItem } from '../commands/kind.js';
import type { Cursor } from './cursor.js';
import { collectFlags, type GivenFlags } from './flags.js';
import { partsOf, readPieces } from './pieces.js';
import type { Piece, Reading } from './reading.js';
import { isMeantFor, longestRun } from './runs.js';
import type { Slot } from './slots.js';

/** Takes values from the line for as long as its words are meant for the list. */
export function readList(
  cursor: Cursor,
  reading: Reading,
  slot: Slot,
  given: GivenFlags | undefined,
): PromiseLike<void> | undefined {
  const item = slot.kind.item as ListItem;
  const isRequired = slot.absent.as === 'problem';
  const pieces: Piece[] = [];
  while (cursor.next()) {
    const { start, end, quoted } = cursor;
    if (cursor.unclosed) {
      reading.breakOff(start, end);
      return undefined;
    }
    const parts = partsOf(cursor.value(), quoted);
    const [first] = parts;
    const mustBe = isRequired && pieces.length === 0;
    if (first !== undefined && !mustBe && !isMeantFor(item.kind, first, quoted)) {
      cursor.back();
      break;
    }
    const mayRun = typeof item.kind.tokens === 'number' && item.kind.tokens > 1 && !quoted;
    if (mayRun && first !== undefined && first === cursor.value()) {
      const run = longestRun(cursor, reading, item.kind, item.kind.tokens, first, given);
      pieces.push(run);
      reading.note(start, run.end, slot.name);
    } else {
      for (const typed of parts) pieces.push({ typed, start, end });
      reading.note(start, end, slot.name);
    }
    if (given !== undefined) collectFlags(cursor, reading, given);
    if (reading.broken) return undefined;
  }
  return pieces.length === 0 ? reading.fillAbsent(slot) : readPieces(reading, slot, pieces);
}
