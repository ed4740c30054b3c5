/** Stage 10: exactly one first reply, in the words of `onRefusal` where it gives some. */
import { memberCan, ownsBot } from '../access/scene.js';
import { isThenable, type MaybePromise, patiently } from '../base/thenable.js';
import type { RefusalHook, RefusalTold, Sayable } from '../commands/call.js';
import type { CodeParameters } from '../contract/codes.js';
import type { Reply } from '../contract/notice.js';
import type { Delivery } from '../contract/outcome.js';
import { canHide, deliver, type Handed } from '../delivery/deliver.js';
import { replyOf } from '../delivery/reply-of.js';
import { english } from '../replies/english.js';
import { makeCall, responderOf } from './call.js';
import type { Damping, Refused } from './damping.js';
import type { ReplyEnd, StageInWords } from './stage.js';
import { argsOf, commandOf, type Heard, heardOf, type State, whoWhere } from './state.js';
import type { Stop, Unsuccessful } from './stop.js';
import { replyTo } from './wording.js';

/** How far an input got, why no further, what was said of it, and how handing that over went. */
export interface Answered {
  readonly state: State;
  readonly stop: Stop;
  readonly reply: Reply | undefined;
  readonly delivery: Delivery | undefined;
  /** What would have been said, to somebody who was told enough. */
  readonly heldBack: Reply | undefined;
}

/** Never throws. */
export const reply: ReplyEnd<Answered> = {
  kind: 'end',
  name: 'reply',
  end(state, stop, use) {
    const failed = (error: unknown) => use(unanswered(state, stop, error));
    try {
      const wanted = wordedReply(state, stop);
      if (stop.status === 'completed' || stop.status === 'waiting') return handOver(state, stop, wanted, false, use);
      const hook = commandOf(state)?.onRefusal ?? heardOf(state).services.onRefusal;
      if (hook === undefined) return handOver(state, stop, wanted, false, use);
      const hooked = askHook(state, stop, wanted, hook);
      const say = ([own, spoke]: Hooked) => handOver(state, stop, own, spoke, use);
      return isThenable(hooked) ? hooked.then(say).then(undefined, failed) : say(hooked);
    } catch (error) {
      return failed(error);
    }
  },
};

export const replyInWords: StageInWords = {
  does: 'says one first reply, in words of `onRefusal` or of the catalogue, damped on text',
  stopsWith: ['platform.forbidden', 'platform.gone', 'platform.unreachable', 'platform.slowed', 'platform.failed'],
};

/** A platform that is not as it says: nothing was said, and the call is settled all the same. */
function unanswered(state: State, stop: Stop, error: unknown): Answered {
  const { services, conversation } = heardOf(state);
  services.log.error({ command: conversation.command, error }, 'An answer could not be given');
  return {
    state,
    stop,
    reply: undefined,
    delivery: { delivered: false, code: 'platform.failed', arrived: 'perhaps' },
    heldBack: undefined,
  };
}

/** A wording of the developer's may throw: then the code alone is said. */
function wordedReply(state: State, stop: Stop): Reply | undefined {
  try {
    return replyTo(state, stop);
  } catch (error) {
    const { services, conversation } = heardOf(state);
    const reference = services.reference();
    services.log.error({ reference, command: conversation.command, error }, 'A message could not be worded');
    // In English: what failed may be the language.
    const body = english.messages['callback.failed']({ reference });
    return { notice: { tone: 'problem', body }, visibleTo: 'caller' };
  }
}

/** What is said, and whether the hook has said it. */
type Hooked = readonly [Reply | undefined, boolean];

type Hooking = Exclude<Unsuccessful, { status: 'waiting' }>;

/** The developer's word on a refusal; the catalogue's stands where it gives none. */
function askHook(state: State, stop: Hooking, wanted: Reply | undefined, hook: RefusalHook): MaybePromise<Hooked> {
  const heard = heardOf(state);
  const { services, conversation } = heard;
  const use = (said: Sayable | undefined): Hooked =>
    said === undefined
      ? [wanted, false]
      : [replyOf(conversation, asProblem(said), wanted ?? { visibleTo: 'caller' }), true];
  const failed = (error: unknown): Hooked => {
    services.log.error({ reference: services.reference(), command: conversation.command, error }, 'onRefusal failed');
    return [wanted, false];
  };
  const told = {
    status: stop.status,
    by: stop.status === 'refused' ? stop.by : 'layer',
    code: stop.code,
    parameters: stop.parameters,
    notice: wanted?.notice,
  } as RefusalTold;
  try {
    const hooked = hook(told, makeCall(heard, conversation.command ?? '', argsOf(state) ?? {}));
    return isThenable(hooked)
      ? patiently(services.clock, hooked, services.patienceMs).then(use).then(undefined, failed)
      : use(hooked);
  } catch (error) {
    return failed(error);
  }
}

function asProblem(said: Sayable): Sayable {
  return typeof said === 'string' ? { tone: 'problem', body: said } : said;
}

/** Hot path: bench/rows/calls. */
function handOver<T>(
  state: State,
  stop: Stop,
  wanted: Reply | undefined,
  hookSpoke: boolean,
  use: (to: Answered) => T,
): MaybePromise<T> {
  const heard = heardOf(state);
  const { platform, conversation, services, surface, input } = heard;
  // What was said of a message before it was edited is changed.
  const responder = input.isEdit === true ? responderOf(heard) : heard.responder;
  let said = wanted;
  // A slash invocation and a console line are always answered; on text, enough is enough.
  if (wanted !== undefined && stop.status !== 'completed' && surface === 'text' && services.damping !== undefined) {
    said = damped(state, stop, wanted, services.damping);
  }
  const heldBack = said === wanted ? undefined : wanted;
  const ended = (delivery: Delivery | undefined) => use(answered(state, stop, said, delivery, heldBack, hookSpoke));
  const failed = (error: unknown) => use(unanswered(state, stop, error));
  if (platform === undefined) return ended(undefined);
  if (responder !== undefined) {
    const isGivenUp = heard.handler?.isGivenUp === true;
    return responder.finish(said, isGivenUp).then((handed) => {
      keepOpen(heard, stop, said, handed);
      return ended(handed?.delivery);
    }, failed);
  }
  heard.isOver = true;
  if (said === undefined) return ended(undefined);
  const handed = deliver(conversation, platform, said);
  const settle = (one: Handed) => {
    keepOpen(heard, stop, said, one);
    return ended(one.delivery);
  };
  return isThenable(handed) ? handed.then(settle, failed) : settle(handed);
}

/** What did not read may be corrected by editing it. */
function keepOpen(
  { services, input, platform, platformName }: Heard,
  stop: Stop,
  said: Reply | undefined,
  handed: Handed | undefined,
): void {
  if (services.edits === undefined || stop.status !== 'invalid' || platform === undefined) return;
  const delivered = handed?.delivered;
  const isHidden = input.place.kind === 'guild' && canHide(platform, input);
  const visibleTo = isHidden ? said?.visibleTo : undefined;
  services.edits.keep(platformName, input, delivered === undefined ? undefined : { delivered, visibleTo });
}

/** Never throws. */
function answered(
  state: State,
  stop: Stop,
  said: Reply | undefined,
  delivery: Delivery | undefined,
  heldBack: Reply | undefined,
  hookSpoke: boolean,
): Answered {
  try {
    const { recorder, conversation } = heardOf(state);
    if (recorder !== undefined) record(state, said, delivery, hookSpoke);
    if (said !== undefined) conversation.services.said(conversation, said, delivery, 'answer');
    if (stop.status === 'waiting') stop.asked(heldBack === undefined && delivery?.delivered !== false);
    if (stop.status !== 'completed' && heldBack === undefined && delivery?.delivered !== false)
      rememberTold(state, stop);
    return { state, stop, reply: said, delivery, heldBack };
  } catch (error) {
    return unanswered(state, stop, error);
  }
}

/** A cooldown that was told is not told again until it ends. */
function rememberTold(state: State, stop: Unsuccessful): void {
  if (stop.code !== 'cooldown.active') return;
  const heard = heardOf(state);
  const { retryAfterMs } = stop.parameters as Waits;
  heard.services.damping?.delivered(whoWhere(heard), refusedBy(state, stop), retryAfterMs);
}

type Waits = CodeParameters['cooldown.active'];

/** Repeats of the same are damped: the value that was given never counts. */
function refusedBy(state: State, { code, parameters }: Unsuccessful): Refused {
  const { argument, counts } = parameters as { readonly argument?: unknown; readonly counts?: unknown };
  return {
    code,
    command: commandOf(state)?.id,
    argument: typeof argument === 'string' ? argument : undefined,
    counts: code === 'cooldown.active' ? String(counts) : undefined,
  };
}

/** What is said in place of a refusal to somebody who was told it often enough: once, that no more will be. */
function damped(state: State, stop: Unsuccessful, wanted: Reply, damping: Damping): Reply | undefined {
  const heard = heardOf(state);
  const { services, conversation, input, platformName, caller: actor } = heard;
  const { always } = damping;
  if (ownsBot(heard) || (always !== undefined && actor.kind === 'member' && memberCan(actor, always, heard)))
    return wanted;
  const verdict = damping.judge(whoWhere(heard), refusedBy(state, stop));
  if (verdict === 'say') return wanted;
  const { place, caller } = input;
  const channel = place.kind === 'console' ? undefined : place.channel.id;
  services.heldBack.tell({
    code: stop.code,
    command: conversation.command,
    platform: platformName,
    channel,
    person: caller.id,
  });
  if (verdict === 'silent') return undefined;
  const { phrases, words } = conversation.language;
  return {
    notice: { tone: 'problem', body: phrases.quiet(words.duration(verdict.quietMs)) },
    visibleTo: wanted.visibleTo,
  };
}

function record(state: State, said: Reply | undefined, delivery: Delivery | undefined, hookSpoke: boolean): void {
  const { recorder, responder } = heardOf(state);
  const inWords = () => {
    if (said === undefined) return responder?.hasSpoken === true ? 'the handler has said it' : 'nothing to say';
    const held = responder?.held;
    const as = delivery?.delivered === true && delivery.as !== 'reply' ? `, as a ${delivery.as}` : '';
    return `to ${held ?? said.visibleTo}${held === undefined ? '' : ', held'}${as}${hookSpoke ? ', in the words of onRefusal' : ''}`;
  };
  if (delivery?.delivered === false) recorder?.stopped('reply', () => `${delivery.code}: ${inWords()}`);
  else recorder?.passed('reply', inWords);
}
