/** What becomes of what a handler, or `onUnknown`, gave or threw. */
import { type Answer, isRefusal, type Sayable } from '../commands/call.js';
import { isWorded } from '../commands/worded.js';
import { isPlatformError } from '../contract/platform.js';
import type { Conversation } from '../delivery/conversation.js';
import type { Services } from './services.js';
import { failed, type Stop } from './stop.js';

/** @throws TypeError for what is no answer, and what a wording of the developer's throws. */
export function answerStop({ language, timeZone }: Conversation, answer: Answer | void): Stop {
  if (answer === undefined || answer === null || answer === '') return { status: 'completed', answer: undefined };
  if (isRefusal(answer)) {
    const { code, reason, parameters } = answer;
    const inWords = typeof reason === 'string' ? reason : reason(language.words, timeZone);
    return { status: 'refused', by: 'handler', code, parameters: { ...parameters, reason: inWords } };
  }
  if (typeof answer === 'string' || isSayable(answer)) return { status: 'completed', answer };
  throw new TypeError('The handler gave back what is no text, no notice and no refusal');
}

/** Types do not hold in JavaScript. */
function isSayable(answer: Exclude<Sayable, string>): boolean {
  return typeof answer === 'object' && (isWorded(answer) || typeof answer.body === 'string');
}

/** A handler may throw its refusal; anything else is a failure, told by a reference. */
export function thrownStop(services: Services, conversation: Conversation, error: unknown): Stop {
  if (isRefusal(error)) return answerStop(conversation, error);
  const reference = services.reference();
  const code = isPlatformError(error) ? error.code : 'handler.failed';
  services.log.error({ reference, code, command: conversation.command, error }, 'A handler failed');
  return failed({ code, parameters: { reference } });
}
