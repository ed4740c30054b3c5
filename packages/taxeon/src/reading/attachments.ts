/** Files that came with a message, one after the other for the arguments that take one. */
import { echo } from '../base/text.js';
import { isThenable } from '../base/thenable.js';
import type { Reading } from './reading.js';
import type { Slot } from './slots.js';

export function takeAttachments(reading: Reading, attached: readonly Slot[], from = 0): PromiseLike<void> | undefined {
  const { attachments } = reading.context;
  for (let index = from; index < attached.length; index++) {
    const slot = attached[index] as Slot;
    const one = attachments[index];
    if (one === undefined) {
      const pending = reading.fillAbsent(slot);
      if (pending !== undefined) return pending.then(() => takeAttachments(reading, attached, index + 1));
      continue;
    }
    const taken = slot.kind.take(one, reading.context);
    if (isThenable(taken)) throw new TypeError('A kind of attachments gives its value at once');
    reading.settle(slot, taken, one.name, -1, -1);
  }
  for (const { name } of attachments.slice(attached.length)) {
    const parameters = { read: echo(name), because: 'left-over', argument: undefined, expected: undefined } as const;
    reading.report({ code: 'argument.extra', parameters });
  }
  return undefined;
}
