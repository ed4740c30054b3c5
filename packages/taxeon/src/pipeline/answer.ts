/** What becomes of what a handler, or `onUnknown`, gave or threw. */
import { type Answer, isRefusal } from '../commands/call.js';
import { isWorded } from '../commands/worded.js';
import { isBlank, noticeProblem } from '../contract/check-notice.js';
import { isPlatformError } from '../contract/platform.js';
import type { Conversation } from '../delivery/conversation.js';
import { manners } from '../replies/manners.js';
import type { Services } from './services.js';
import { failed, type Stop } from './stop.js';

/** @throws TypeError for what is no answer, and what a wording of the developer's throws. */
export function answerStop({ language, timeZone }: Conversation, answer: Answer | void): Stop {
  if (answer === undefined || answer === null || (typeof answer === 'string' && isBlank(answer))) {
    return { status: 'completed', answer: undefined };
  }
  if (isRefusal(answer)) {
    const { code, reason, parameters } = answer;
    const inWords: unknown = typeof reason === 'string' ? reason : reason(language.words, timeZone);
    if (typeof inWords !== 'string' || typeof code !== 'string') throw new TypeError('A refusal has no code or reason');
    if (Object.hasOwn(manners, code))
      throw new TypeError(`${code} is a code of the layer; refuse with one of your own`);
    return { status: 'refused', by: 'handler', code, parameters: { ...parameters, reason: inWords } };
  }
  if (typeof answer === 'string' || isWorded(answer)) return { status: 'completed', answer };
  const problem = noticeProblem(answer);
  if (problem === undefined) return { status: 'completed', answer };
  throw new TypeError(`The handler gave no text and no refusal, and as a notice it ${problem}`);
}

/** A handler may throw its refusal; anything else is a failure, told by a reference. */
export function thrownStop(services: Services, conversation: Conversation, error: unknown): Stop {
  if (isRefusal(error)) return answerStop(conversation, error);
  const reference = services.reference();
  const code = isPlatformError(error) ? error.code : 'handler.failed';
  services.log.error({ reference, code, command: conversation.command, error }, 'A handler failed');
  return failed({ code, parameters: { reference } }, error);
}
