/** Whether a declared example has the form of the command's arguments. Looks nobody up and calls nothing of the developer's. */
import { isThenable } from '../base/thenable.js';
import type { AnyDeclaration } from '../commands/command.js';
import { isMisfit, type Kind, notOfShape, type ReadingContext } from '../commands/kind.js';
import { Cursor } from '../reading/cursor.js';
import { readText } from '../reading/read-text.js';
import { Reading } from '../reading/reading.js';
import { compileSlots, type Slot, type Slots } from '../reading/slots.js';
import { english } from '../replies/english.js';
import type { Tell } from './check-args.js';

export function checkExamples({ examples = [], args = {} }: AnyDeclaration, tell: Tell): void {
  if (examples.length === 0) return;
  let slots: Slots;
  try {
    slots = byShape(compileSlots(args));
  } catch {
    // What is wrong with the arguments is told elsewhere.
    return;
  }
  for (const [index, example] of examples.entries()) {
    if (typeof example !== 'string') {
      tell(`examples[${index}]`, 'is no text');
      continue;
    }
    const reading = new Reading(slots, nowhere, false);
    if (isThenable(readText(new Cursor(example, 0), reading))) continue;
    for (const problem of reading.problems ?? []) {
      tell(
        `examples[${index}]`,
        `"${example}" does not read: ${english.messages[problem.code](problem.parameters as never)}`,
      );
    }
  }
}

const nowhere: ReadingContext = {
  caller: { kind: 'console', id: 'console', name: 'console' },
  place: { kind: 'console' },
  platform: undefined,
  now: 0,
  timeZone: 'UTC',
};

function byShape({ all, positional, flags }: Slots): Slots {
  const shaped = new Map(
    all.map((slot) => [slot, { ...slot, kind: shapeOf(slot.kind), absent: absentOf(slot), convert: undefined }]),
  );
  const of = (slot: Slot) => shaped.get(slot) ?? slot;
  const flag = <F extends { readonly slot: Slot }>(one: F): F => ({ ...one, slot: of(one.slot) });
  return {
    all: all.map(of),
    positional: positional.map(of),
    flags:
      flags === undefined
        ? undefined
        : {
            all: flags.all.map(flag),
            byName: new Map([...flags.byName].map(([name, one]) => [name, flag(one)])),
            byLetter: new Map([...flags.byLetter].map(([name, one]) => [name, flag(one)])),
          },
  };
}

/** Of kinds that look at more than the text, only the shape is looked at. */
function shapeOf(kind: Kind<unknown>): Kind<unknown> {
  if (kind.item !== undefined) {
    return { ...kind, item: { ...kind.item, kind: shapeOf(kind.item.kind), convert: undefined } };
  }
  if (kind.traits?.readsAlone === true) return kind;
  if (kind.traits?.boundsMove === true)
    return { ...kind, read: (typed, context) => boundless(kind.read(typed, context), typed) };
  // Of several words, the first tells.
  return { ...kind, read: (typed) => (kind.shape?.(typed.split(/\s/, 1)[0] ?? '') === false ? notOfShape : typed) };
}

/** Whether a moment is too late is not known before somebody types it. */
function boundless(read: unknown, typed: string): unknown {
  return isMisfit(read, 'above') || isMisfit(read, 'below') ? typed : read;
}

/** A default of the developer's is not computed. */
function absentOf({ absent }: Slot): Slot['absent'] {
  return absent.as === 'problem' ? absent : { as: 'undefined' };
}
