/** Keeping a slow call alive in the chat: its reply is held before the platform's deadline, or a sign of typing is shown. */
import { promised } from '../base/thenable.js';
import { after } from '../base/time.js';
import type { Conversation } from './conversation.js';

/** A held reply must be asked for well before the platform gives the invocation up. */
const HOLD_AT = 0.5;
/** A person who is answered within this needs no sign of typing. */
const TYPING_AFTER_MS = 700;

/**
 * Watches a conversation whose answer did not come at once.
 *
 * @param hold keeps the invocation open
 * @returns ends the watch
 */
export function watchFor(conversation: Conversation, hold: () => void): (() => void) | undefined {
  const { platform, input } = conversation;
  if (platform === undefined) return undefined;
  if (input.surface === 'slash') return watchDeadline(conversation, hold);
  return platform.typing === undefined || input.surface !== 'text' ? undefined : showTyping(conversation);
}

function watchDeadline({ platform, services, input }: Conversation, hold: () => void): (() => void) | undefined {
  const { replyDeadlineMs } = platform?.capabilities ?? {};
  if (platform?.hold === undefined || replyDeadlineMs === undefined) return undefined;
  const mostMs = replyDeadlineMs * HOLD_AT;
  // A clock that was set back meanwhile, or is another than the platform's, must not make it late.
  const leftMs = Math.min(mostMs, input.at + mostMs - services.clock.now());
  return after(services.clock, Math.max(0, leftMs), hold);
}

function showTyping({ platform, services, input }: Conversation): () => void {
  const shownMs = platform?.capabilities.typingMs;
  let cancel = after(services.clock, TYPING_AFTER_MS, show);
  let isPending = false;
  const end = () => {
    isPending = false;
  };
  function show(): void {
    // A sign of typing is worth no trouble.
    if (!isPending) {
      isPending = true;
      promised(() => platform?.typing?.(input)).then(end, end);
    }
    if (shownMs !== undefined) cancel = after(services.clock, shownMs * 0.9, show);
  }
  return () => cancel();
}
