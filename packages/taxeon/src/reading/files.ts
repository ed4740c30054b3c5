/** Files that came with a message or a slash command. */
import { echoText } from '../base/text.js';
import { inTime, isThenable } from '../base/thenable.js';
import type { Clock } from '../base/time.js';
import type { Attachment } from '../contract/attachment.js';
import { PlatformError } from '../contract/platform.js';
import type { Reading } from './reading.js';
import type { Slot } from './slots.js';
import type { FileTaking } from './taking.js';

function takeFiles(reading: Reading, attached: readonly Slot[], from: number): PromiseLike<void> | undefined {
  const { attachments } = reading.context;
  for (let index = from; index < attached.length; index++) {
    const slot = attached[index] as Slot;
    const one = attachments[index];
    if (one === undefined) {
      const pending = reading.fillAbsent(slot);
      if (pending !== undefined) return pending.then(() => takeFiles(reading, attached, index + 1));
      continue;
    }
    const taken = slot.kind.take(one, reading.context);
    if (isThenable(taken)) throw new TypeError('A kind of attachments gives its value at once');
    const accepted = reading.accept(slot, taken, one.name, -1, -1);
    if (accepted !== undefined) return accepted.then(() => takeFiles(reading, attached, index + 1));
  }
  for (const { name } of attachments.slice(attached.length)) {
    const parameters = {
      read: echoText(name),
      because: 'left-over',
      argument: undefined,
      expected: undefined,
    } as const;
    reading.report({ code: 'argument.extra', parameters });
  }
  return undefined;
}

function boundedRead(given: Attachment, clock: Clock, withinMs: number): Attachment {
  const { id, name, size, type } = given;
  return {
    id,
    name,
    size,
    type,
    async read() {
      const bytes: unknown = await inTime(clock, withinMs, () => given.read());
      if (bytes instanceof Uint8Array && bytes.length <= size) return bytes;
      throw new PlatformError('platform.failed', `The platform gave what is no file of at most ${size} bytes`);
    },
  };
}

/** An argument that takes a file brings it along. */
export const fileTaking: FileTaking = {
  bounded: boundedRead,
  takeAll: (reading, attached) => takeFiles(reading, attached, 0),
};
