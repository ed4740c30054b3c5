/** Which words an argument takes. */
import type { MaybePromise } from '../base/thenable.js';
import { isNotOfShape, type Kind } from '../commands/kind.js';
import type { Cursor } from './cursor.js';
import { type GivenFlags, isFlagAhead } from './flags.js';
import type { Reading } from './reading.js';

/** Whether an optional argument commits to a token; a later failure is then an error, never a skip. */
export function isMeantFor(kind: Kind<unknown>, typed: string, quoted: boolean): boolean {
  if (quoted && kind.leavesQuoted) return false;
  return kind.shape === undefined || kind.shape(typed);
}

export interface Run {
  readonly read: MaybePromise<unknown>;
  readonly typed: string;
  readonly start: number;
  readonly end: number;
}

/** Reads the longest run of unquoted tokens that is one value: `2 days` before `2`. Leaves the cursor behind it. */
export function longestRun(
  cursor: Cursor,
  reading: Reading,
  kind: Kind<unknown>,
  most: number,
  typed: string,
  given: GivenFlags | undefined,
): Run {
  const { text, start, end } = cursor;
  const ends: number[] = [];
  while (ends.length + 1 < most && cursor.next() && goesOn(cursor, reading, kind, given)) ends.push(cursor.end);
  cursor.unclosed = false;
  for (let last = ends.length - 1; last >= 0; last--) {
    const runEnd = ends[last] as number;
    const run = text.slice(start, runEnd);
    const read = kind.read(run, reading.context);
    // A run that is out of bounds is meant, too: only one that does not read at all is let go.
    if (!isNotOfShape(read)) {
      cursor.continueAt(runEnd);
      return { read, typed: run, start, end: runEnd };
    }
  }
  cursor.continueAt(end);
  return { read: kind.read(typed, reading.context), typed, start, end };
}

function goesOn(cursor: Cursor, reading: Reading, kind: Kind<unknown>, given: GivenFlags | undefined): boolean {
  if (cursor.quoted || isFlagAhead(cursor, reading, given)) return false;
  return kind.goesOn === undefined || kind.goesOn(cursor.value());
}
