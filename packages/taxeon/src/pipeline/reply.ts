/** Stage 10: exactly one first reply, in the words of `onRefusal` where it gives some. */

import { memberCan, ownsBot } from '../access/context.js';
import { isThenable, type MaybePromise, patiently } from '../base/thenable.js';
import type { RefusalHook, RefusalTold, Sayable } from '../commands/call.js';
import type { CodeParameters } from '../contract/codes.js';
import type { Reply } from '../contract/notice.js';
import type { Delivery } from '../contract/outcome.js';
import { isSpoken, replyOf, tellSaid } from '../delivery/conversation.js';
import { deliver, type Handed, whoSees } from '../delivery/deliver.js';
import type { SparseLog } from '../observe/sparse-log.js';
import { messageIn } from '../replies/messages.js';
import { sayInReply } from '../replies/phrases.js';
import { makeCall, responderOf } from './call.js';
import type { DampedRefusal, Damping } from './damping.js';
import type { Edits } from './edits.js';
import { whoWhere } from './recent.js';
import type { End, StageInWords } from './stage.js';
import { argsOf, commandOf, type Heard, heardOf, type State, type Stopped } from './state.js';
import type { Stop, Unsuccessful } from './stop.js';
import { type OwnWords, replyTo } from './wording.js';

export interface ReplyNeeds {
  readonly words: OwnWords;
  readonly onRefusal: RefusalHook | undefined;
  readonly damping: Damping | undefined;
  /** Told of refusals that are not told to people any more. */
  readonly heldBack: SparseLog;
  /** Where messages that did not read may be edited. */
  readonly edits: Edits | undefined;
}

/** Never throws. */
export const reply: End<Stopped, Stopped, ReplyNeeds, Handed | undefined> = {
  kind: 'end',
  name: 'reply',
  take(stopped, needs) {
    const { state, stop } = stopped;
    try {
      stopped.reply = wordedReply(state, stop, needs.words);
      const hooked =
        stop.status === 'completed' || stop.status === 'waiting' ? undefined : askHook(stopped, needs, stop);
      const given = isThenable(hooked) ? handOverThen(stopped, needs, hooked) : handOver(stopped, needs);
      return isThenable(given) ? given : came(stopped, given, needs);
    } catch (error) {
      return replyFailed(stopped, error);
    }
  },
  came,
  failed: replyFailed,
};

export const replyInWords: StageInWords = {
  does: 'says one first reply, in words of `onRefusal` or of the catalogue, damped on text',
  stopsWith: ['platform.forbidden', 'platform.gone', 'platform.unreachable', 'platform.slowed', 'platform.failed'],
};

/** A platform that is not as it says: nothing was said, and the call is settled all the same. */
function replyFailed(stopped: Stopped, error: unknown): Stopped {
  const { basis, conversation } = heardOf(stopped.state);
  basis.log.error({ command: conversation.command, error }, 'An answer could not be given');
  stopped.reply = undefined;
  stopped.heldBack = undefined;
  stopped.delivery = { delivered: false, code: 'platform.failed', arrived: 'perhaps' };
  return stopped;
}

/** A wording of the developer's may throw: then the code alone is said. */
function wordedReply(state: State, stop: Stop, words: OwnWords): Reply | undefined {
  try {
    return replyTo(state, stop, words);
  } catch (error) {
    const { basis, conversation } = heardOf(state);
    const reference = basis.reference();
    basis.log.error({ reference, command: conversation.command, error }, 'A message could not be worded');
    // In English: what failed may be the language.
    const body = messageIn(undefined, { code: 'callback.failed', parameters: { reference } });
    return { notice: { tone: 'problem', body }, visibleTo: whoSees('caller-if-possible', conversation) };
  }
}

type Hooking = Exclude<Unsuccessful, { status: 'waiting' }>;

/** The developer's word on a refusal; the catalogue's stands where it gives none. */
function askHook(stopped: Stopped, { onRefusal }: ReplyNeeds, stop: Hooking): MaybePromise<void> {
  const { state } = stopped;
  const hook = commandOf(state)?.onRefusal ?? onRefusal;
  if (hook === undefined) return undefined;
  const { reply: wanted } = stopped;
  const heard = heardOf(state);
  const { basis, conversation } = heard;
  const use = (said: Sayable | undefined) => {
    if (said === undefined) return;
    stopped.reply = replyOf(
      conversation,
      asProblem(said),
      wanted ?? { visibleTo: whoSees('caller-if-possible', conversation) },
    );
    stopped.hookSpoke = true;
  };
  const failed = (error: unknown) => {
    basis.log.error({ reference: basis.reference(), command: conversation.command, error }, 'onRefusal failed');
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
      ? patiently(basis.clock, hooked, basis.patienceMs).then(use).then(undefined, failed)
      : use(hooked);
  } catch (error) {
    return failed(error);
  }
}

function asProblem(said: Sayable): Sayable {
  return typeof said === 'string' ? { tone: 'problem', body: said } : said;
}

function handOverThen(stopped: Stopped, needs: ReplyNeeds, hooked: PromiseLike<void>): PromiseLike<Handed | undefined> {
  return hooked.then(() => handOver(stopped, needs));
}

/** Hot path: bench/rows/calls. */
function handOver(stopped: Stopped, needs: ReplyNeeds): MaybePromise<Handed | undefined> {
  const { state, stop, reply: wanted } = stopped;
  const heard = heardOf(state);
  const { conversation, surface, input } = heard;
  // What was said of a message before it was edited is changed.
  const responder = input.isEdit === true ? responderOf(heard) : heard.responder;
  // A slash invocation and a console line are always answered; on text, enough is enough.
  if (wanted !== undefined && stop.status !== 'completed' && surface === 'text' && needs.damping !== undefined) {
    const said = damped(state, stop, wanted, needs.damping, needs.heldBack);
    stopped.reply = said;
    if (said !== wanted) stopped.heldBack = wanted;
  }
  const said = stopped.reply;
  if (!isSpoken(conversation)) return undefined;
  if (responder !== undefined) return responder.finish(said, heard.handler?.isGivenUp === true);
  heard.isOver = true;
  return said === undefined ? undefined : deliver(conversation, said);
}

/** What did not read may be corrected by editing it. */
function keepOpen(
  edits: Edits | undefined,
  { input, platform, platformName, responder }: Heard,
  said: Reply | undefined,
  given: Handed | undefined,
): void {
  // Nobody was told, so that there is nothing to correct.
  if (given === undefined && responder === undefined) return;
  if (edits === undefined || platform === undefined) return;
  const delivered = given?.delivered;
  const visibleTo = input.place.kind === 'guild' ? said?.visibleTo : undefined;
  edits.keep(platformName, input, delivered === undefined ? undefined : { delivered, visibleTo });
}

/** Never throws. */
function came(stopped: Stopped, given: Handed | undefined, { edits, damping }: ReplyNeeds): Stopped {
  const { state, stop, reply: said, heldBack, hookSpoke } = stopped;
  const heard = heardOf(state);
  const { recorder, conversation } = heard;
  const delivery = given?.delivery;
  try {
    stopped.delivery = delivery;
    if (stop.status === 'invalid') keepOpen(edits, heard, said, given);
    if (recorder !== undefined) recordReply(state, said, delivery, hookSpoke);
    if (said !== undefined) tellSaid(conversation, said, delivery, 'answer');
    if (stop.status === 'waiting') stop.asked(heldBack === undefined && delivery?.delivered !== false);
    if (stop.status !== 'completed' && heldBack === undefined && delivery?.delivered !== false)
      rememberTold(state, stop, damping);
    return stopped;
  } catch (error) {
    return replyFailed(stopped, error);
  }
}

/** A cooldown that was told is not told again until it ends. */
function rememberTold(state: State, stop: Unsuccessful, damping: Damping | undefined): void {
  if (stop.code !== 'cooldown.active') return;
  const heard = heardOf(state);
  const { retryAfterMs } = stop.parameters as Waits;
  damping?.delivered(whoWhere(heard), refusedBy(state, stop), retryAfterMs);
}

type Waits = CodeParameters['cooldown.active'];

/** Repeats of the same are damped: the value that was given never counts. */
function refusedBy(state: State, { code, parameters }: Unsuccessful): DampedRefusal {
  const { argument, counts } = parameters as { readonly argument?: unknown; readonly counts?: unknown };
  return {
    code,
    command: commandOf(state)?.id,
    argument: typeof argument === 'string' ? argument : undefined,
    counts: code === 'cooldown.active' ? String(counts) : undefined,
  };
}

/** What is said in place of a refusal to a person who was told it often enough: once, that no more will be. */
function damped(
  state: State,
  stop: Unsuccessful,
  wanted: Reply,
  damping: Damping,
  heldBack: SparseLog,
): Reply | undefined {
  const heard = heardOf(state);
  const { conversation, input, platformName, caller: actor } = heard;
  const { always } = damping;
  if (ownsBot(heard) || (always !== undefined && actor.kind === 'member' && memberCan(actor, always, heard)))
    return wanted;
  const verdict = damping.judge(whoWhere(heard), refusedBy(state, stop));
  if (verdict === 'say') return wanted;
  const { place, caller } = input;
  const channel = place.kind === 'console' ? undefined : place.channel.id;
  heldBack.tell({ code: stop.code, command: conversation.command, platform: platformName, channel, person: caller.id });
  if (verdict === 'silent') return undefined;
  const { words } = conversation.language;
  return {
    notice: { tone: 'problem', body: sayInReply(words, 'reply.quiet', { wait: words.duration(verdict.quietMs) }) },
    visibleTo: wanted.visibleTo,
  };
}

function recordReply(state: State, said: Reply | undefined, delivery: Delivery | undefined, hookSpoke: boolean): void {
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
