/** Reading the text of an answer as an argument: the whole of it is one value, with quotes around it or without. */
import { isThenable } from '../../base/thenable.js';
import { Cursor } from '../../reading/cursor.js';
import type { Reading } from '../../reading/reading.js';
import type { Slot } from '../../reading/slots.js';
import { listTakingOf } from '../../reading/taking.js';

/** Reads answers over what the line says of the same arguments. */
export function readAnswers(
  reading: Reading,
  answers: Readonly<Record<string, unknown>>,
  from = 0,
): PromiseLike<void> | undefined {
  const { all } = reading.slots;
  for (let index = from; index < all.length; index++) {
    const slot = all[index] as Slot;
    const text = Object.hasOwn(answers, slot.name) ? answers[slot.name] : undefined;
    // A file came with the answer, and is read as those of a line are.
    if (typeof text !== 'string' || slot.kind.tokens === 'attached') continue;
    forgetValue(reading, slot);
    const pending = readAnswer(reading, slot, text);
    if (pending !== undefined) return pending.then(() => readAnswers(reading, answers, index + 1));
  }
  return undefined;
}

/** What the line says of it counts no more. */
function forgetValue(reading: Reading, { name }: Slot): void {
  const problems = reading.problems?.filter(
    ({ parameters }) => !('argument' in parameters) || parameters.argument !== name,
  );
  reading.problems = problems?.length === 0 ? undefined : problems;
  const notes = reading.notes?.filter(({ argument }) => argument !== name);
  reading.notes = notes?.length === 0 ? undefined : notes;
}

export function readAnswer(reading: Reading, slot: Slot, text: string): PromiseLike<void> | undefined {
  const cursor = new Cursor(text, 0);
  const whole = cursor.rest();
  if (whole === '') return reading.fillAbsent(slot);
  if (slot.kind.tokens === 'many') return listTakingOf(slot).readText(whole, reading, slot);
  const typed = slot.kind.tokens === 'rest' ? whole : withoutQuotes(whole);
  const read = slot.reader.read(typed, reading.context);
  if (isThenable(read)) return read.then((value) => reading.accept(slot, value, typed, -1, -1));
  return reading.accept(slot, read, typed, -1, -1);
}

/** Of a text that is all in quotes, what is in them. */
export function withoutQuotes(text: string): string {
  const cursor = new Cursor(text, 0);
  const isQuoted = cursor.next() && cursor.quoted && !cursor.unclosed && Number.isNaN(cursor.peek());
  return isQuoted ? cursor.value() : text;
}
