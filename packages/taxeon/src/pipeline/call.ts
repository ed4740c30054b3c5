/** Making the value that a handler, a hook or an answer for unknown names gets: its own, which can be spread and passed on. */
import type { Arg } from '../commands/arg.js';
import { type Call, type CallOrigin, callOrigin, type Sayable } from '../commands/call.js';
import { PlatformError } from '../contract/platform.js';
import { attributionOf, mention, postIn, removeInput, tellPerson } from '../delivery/elsewhere.js';
import { harmless, Responder } from '../delivery/responder.js';
import { HandlerWait } from './handler-wait.js';
import type { Heard } from './state.js';

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
    ask: (wanted, question) => ask(heard, question, wanted) as Promise<never>,
    confirm: (question) => ask(heard, question) as Promise<never>,
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

function ask(heard: Heard, question: Sayable, wanted?: Arg<unknown>): Promise<unknown> {
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
  if (heard.responder === undefined && heard.platform !== undefined) {
    // What cannot be changed is answered anew.
    const before = heard.platform.edit === undefined ? undefined : heard.services.edits?.saidBefore(heard.input);
    heard.responder = new Responder(heard.conversation, heard.platform, before);
    heard.responder.isClosed = heard.isOver;
  }
  return heard.responder;
}
