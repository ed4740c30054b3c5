/** What a handler says, made ready to be handed over. */
import { durationMs } from '../base/time.js';
import type { Sayable } from '../commands/call.js';
import { isWorded } from '../commands/worded.js';
import type { Notice, Reply, Visibility } from '../contract/notice.js';
import type { Conversation } from './conversation.js';

/** Hot path: bench/dispatch. */
export function replyOf(conversation: Conversation, sayable: Sayable): Reply {
  const { mentioned, audience = 'everyone' } = conversation;
  if (typeof sayable === 'string' && mentioned === undefined) {
    return { notice: { body: sayable }, visibleTo: audience };
  }
  const { notice, visibleTo, expiresInMs } = unpacked(conversation, sayable);
  return {
    notice,
    visibleTo: visibleTo ?? audience,
    ...(expiresInMs === undefined ? {} : { expiresInMs }),
    ...(mentioned === undefined ? {} : { mentions: [...mentioned] }),
  };
}

interface Unpacked {
  readonly notice: Notice;
  readonly visibleTo: Visibility | undefined;
  readonly expiresInMs: number | undefined;
}

function unpacked({ language, timeZone }: Conversation, sayable: Sayable): Unpacked {
  if (typeof sayable === 'string') return { notice: { body: sayable }, visibleTo: undefined, expiresInMs: undefined };
  if (isWorded(sayable)) {
    const body = sayable.wording(language.words, timeZone);
    return { notice: { body }, visibleTo: undefined, expiresInMs: undefined };
  }
  const { visibleTo, expires, ...notice } = sayable;
  return { notice, visibleTo, expiresInMs: expires === undefined ? undefined : durationMs(expires) };
}
