/** What a handler says, made ready to be handed over. */
import { durationMs } from '../base/time.js';
import type { Sayable } from '../commands/call.js';
import { isWorded } from '../commands/worded.js';
import { isBlank, noticeProblem } from '../contract/check-notice.js';
import type { Notice, Reply, Visibility } from '../contract/notice.js';
import type { Conversation } from './conversation.js';

/**
 * Hot path: bench/rows/calls.
 *
 * @param usual who sees it and for how long where it does not say, in place of what the command declares
 * @throws TypeError for what is no text and no notice
 */
export function replyOf(conversation: Conversation, sayable: Sayable, usual?: Omit<Reply, 'notice'>): Reply {
  const { mentioned, audience = 'everyone' } = conversation;
  if (typeof sayable === 'string' && mentioned === undefined && usual === undefined && !isBlank(sayable)) {
    return { notice: { body: sayable }, visibleTo: audience };
  }
  const { notice, visibleTo, expiresInMs = usual?.expiresInMs } = unpacked(conversation, sayable);
  return {
    notice,
    visibleTo: visibleTo ?? usual?.visibleTo ?? audience,
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
  if (typeof sayable === 'string' || isWorded(sayable)) {
    const body = typeof sayable === 'string' ? sayable : sayable.wording(language.words, timeZone);
    const notice = { body };
    mustBeNotice(notice);
    return { notice, visibleTo: undefined, expiresInMs: undefined };
  }
  mustBeNotice(sayable);
  const { visibleTo, expires, ...notice } = sayable;
  return { notice, visibleTo, expiresInMs: expires === undefined ? undefined : durationMs(expires) };
}

function mustBeNotice(said: unknown): void {
  const problem = noticeProblem(said);
  if (problem !== undefined) throw new TypeError(`What is said ${problem}`);
}
