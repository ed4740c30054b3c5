/** Whether a declared example has the form of the command's arguments. Looks nobody up and calls nothing of the developer's. */

import { isThenable } from '../base/thenable.js';
import type { AnyDeclaration } from '../commands/command.js';
import { byShape, nowhere } from '../reading/by-shape.js';
import { Cursor } from '../reading/cursor.js';
import { readText } from '../reading/read-text.js';
import { Reading } from '../reading/reading.js';
import { compileSlots, type Slots } from '../reading/slots.js';
import { messageIn } from '../replies/messages.js';
import type { Tell } from './check-args.js';

export function checkExamples({ examples = [], args = {} }: AnyDeclaration, tell: Tell): void {
  if (examples.length === 0) return;
  let slots: Slots;
  try {
    slots = byShape(compileSlots(args), () => false);
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
      tell(`examples[${index}]`, `"${example}" does not read: ${messageIn(undefined, problem)}`);
    }
  }
}
