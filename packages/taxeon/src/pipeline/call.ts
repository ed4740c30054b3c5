/** What a handler, a hook or `onUnknown` gets, a value of its own, and what becomes of what it gives or throws. */
import { shown } from '../base/fields.js';
import { isBlank } from '../base/text.js';
import type { Arg } from '../commands/arg.js';
import { type Answer, type Call, type CallOrigin, callOrigin, isRefusal, type Sayable } from '../commands/call.js';
import { isWorded } from '../commands/worded.js';
import { noticeProblem } from '../contract/check-notice.js';
import { isPlatformError, PlatformError } from '../contract/platform.js';
import { type Conversation, isSpoken } from '../delivery/conversation.js';
import { harmless, type Responder, responderFor } from '../delivery/responder.js';
import { attributionOf, mention, postIn, removeInput, tellPerson } from '../delivery/tell-and-post.js';
import { manners } from '../replies/manners.js';
import type { Basis } from './basis.js';
import { HandlerWait } from './handler-wait.js';
import type { Heard } from './state.js';
import { failed, type Stop } from './stop.js';

/** Hot path: bench/rows/calls. */
export function makeCall(heard: Heard, command: string, args: Readonly<Record<string, unknown>>): Call {
  const { input, platform, conversation, nameAt } = heard;
  const { place } = input;
  const { words, locale } = conversation.language;
  const call: Omit<Call, typeof callOrigin> & { [callOrigin]?: CallOrigin } = {
    args,
    // The command's own type knows which of these its place gives.
    caller: input.caller as never,
    guild: heard.guild,
    channel: place.kind === 'console' ? undefined : place.channel,
    place,
    platform: heard.platformName,
    surface: input.surface,
    command,
    inputId: input.id,
    locale,
    words,
    now: heard.now,
    signal: () => handlerWaitOf(heard).signal(),
    attribution: () => attributionOf(conversation),
    reply(sayable) {
      const responder = responderOf(heard);
      if (responder !== undefined) return responder.reply(sayable);
      return harmless(Promise.reject(new PlatformError('platform.gone', 'The input came without a platform')));
    },
    ask: (wanted, question) => askCaller(heard, question, wanted) as Promise<never>,
    confirm: (question) => askCaller(heard, question) as Promise<never>,
    progress: (fraction, doing = '') => responderOf(heard)?.progress(fraction, doing),
    tell: (person, sayable) => tellPerson(conversation, responderOf(heard), person, sayable),
    post: (channel, sayable) => harmless(postIn(conversation, channel, sayable)),
    removeInput: () => removeInput(conversation),
    mention: (person) => mention(conversation, person),
  };
  // Named by a constant, a property costs less when it is set than in the literal.
  call[callOrigin] = { input, platform, nameAt };
  return call as Call;
}

function askCaller(heard: Heard, question: Sayable, wanted?: Arg<unknown>): Promise<unknown> {
  const asked = heard.asking?.ask(heard, question, wanted);
  return harmless(
    asked ?? Promise.reject(new TypeError('It needs `asking: askInChat()` of taxeon/asking in the layer')),
  );
}

export function handlerWaitOf(heard: Heard): HandlerWait {
  heard.handler ??= new HandlerWait();
  return heard.handler;
}

/** Without a platform there is nobody to say anything to. */
export function responderOf(heard: Heard): Responder | undefined {
  const { conversation, isOver, saidBefore } = heard;
  if (heard.responder === undefined && isSpoken(conversation)) {
    // What cannot be changed is answered anew.
    const before = conversation.platform.edit === undefined ? undefined : saidBefore;
    heard.responder = responderFor(conversation, isOver, before);
  }
  return heard.responder;
}

/** @throws TypeError for what is no answer, and what a wording of the developer's throws. */
export function answerStop({ language, timeZone }: Conversation, answer: Answer | void): Stop {
  if (answer === undefined || answer === null) return { status: 'completed', answer: undefined };
  if (typeof answer === 'string') return { status: 'completed', answer: isBlank(answer) ? undefined : answer };
  if (isRefusal(answer)) {
    const { code, reason, parameters } = answer;
    const inWords: unknown = typeof reason === 'string' ? reason : reason(language.words, timeZone);
    if (typeof inWords !== 'string' || typeof code !== 'string') throw new TypeError('A refusal has no code or reason');
    if (Object.hasOwn(manners, code))
      throw new TypeError(`${code} is a code of the layer; refuse with one of your own`);
    return { status: 'refused', by: 'handler', code, parameters: { ...parameters, reason: inWords } };
  }
  const problem = typeof answer === 'object' && isWorded(answer) ? undefined : noticeProblem(answer);
  if (problem === undefined) return { status: 'completed', answer };
  throw new TypeError(`The handler gave ${shown(answer)}; as a notice it ${problem}`);
}

/** A handler may throw its refusal; anything else is a failure, told by a reference. */
export function thrownStop(basis: Basis, conversation: Conversation, error: unknown): Stop {
  if (isRefusal(error)) return answerStop(conversation, error);
  const reference = basis.reference();
  const code = isPlatformError(error) ? error.code : 'handler.failed';
  basis.log.error({ reference, code, command: conversation.command, error }, 'A handler failed');
  return failed({ code, parameters: { reference } }, error);
}
