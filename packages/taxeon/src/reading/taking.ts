/** What the kinds bring along whose values are more than words of a line, so that bots without them go without it. */
import type { MaybePromise } from '../base/thenable.js';
import type { Clock } from '../base/time.js';
import type { Taking } from '../commands/kind.js';
import type { Attachment } from '../contract/attachment.js';
import type { Cursor } from './cursor.js';
import type { GivenFlags } from './flag-forms.js';
import type { Piece, Reading } from './reading.js';
import type { Slot } from './slots.js';

/** Reading lists. */
export interface ListTaking extends Taking {
  /** Takes values from the line for as long as its words are meant for the list; what it leaves is for `next` on. */
  takeFromLine(
    cursor: Cursor,
    reading: Reading,
    slot: Slot,
    next: number,
    given: GivenFlags | undefined,
  ): PromiseLike<void> | undefined;
  /** Takes the texts of the values behind a flag. */
  takeFromFlag(cursor: Cursor, reading: Reading, slot: Slot, given: GivenFlags): MaybePromise<readonly Piece[]>;
  /** Reads what was taken from all flags of that name. */
  readFlags(reading: Reading, slot: Slot, pieces: readonly Piece[]): PromiseLike<void> | undefined;
  /** Reads the one text that a slash command has for a whole list, as the same text would be read in a line. */
  readText(text: string, reading: Reading, slot: Slot): PromiseLike<void> | undefined;
  /** Reads the texts that a slash command has for the values. */
  readTexts(texts: readonly string[], reading: Reading, slot: Slot): PromiseLike<void> | undefined;
}

/** Reading files that come along. */
export interface FileTaking extends Taking {
  /** As a handler gets it: waited for only so long, and no more than it says. */
  bounded(file: Attachment, clock: Clock, withinMs: number): Attachment;
  /** Takes one after the other, for the arguments that take one. */
  takeAll(reading: Reading, attached: readonly Slot[]): PromiseLike<void> | undefined;
}

/** Of a slot whose kind is a list. */
export function listTakingOf({ kind }: Slot): ListTaking {
  return kind.taking as ListTaking;
}

/** Of slots whose kinds are files. */
export function fileTakingOf([slot]: readonly Slot[]): FileTaking {
  return slot?.kind.taking as FileTaking;
}
