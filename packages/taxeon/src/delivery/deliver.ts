/** Handing a reply to a platform: in its turn, in parts where it is long, again where that is safe, and elsewhere where the input is gone. */

import { isUnique } from '../access/context.js';
import { isThenable, type MaybePromise, promptly, waitFor } from '../base/thenable.js';
import { isPerson, type Person } from '../contract/actors.js';
import type { DeliveryCode } from '../contract/codes.js';
import type { Input } from '../contract/input.js';
import type { Audience, Notice, Reply, Visibility } from '../contract/notice.js';
import type { Delivery } from '../contract/outcome.js';
import { type Delivered, type Platform, PlatformError, type Turn } from '../contract/platform.js';
import { plainText } from '../replies/notice.js';
import { sayInReply } from '../replies/phrases.js';
import { type Conversation, replyKey, type Spoken, tellSaid } from './conversation.js';
import { answerInTime, attempting, attemptOnce, deliveryCodeOf, mayHaveArrived, retry, thrownAtOnce } from './retry.js';
import { splitNotice } from './split.js';

/** How a reply was handed over, with what finds its first message again. */
export interface Handed {
  readonly delivery: Delivery;
  readonly delivered: Delivered | undefined;
  /** Further messages, where it was split. */
  readonly further?: readonly Delivered[];
}

type How = Extract<Delivery, { delivered: true }>['as'];

/** Shared, since most deliveries are alike. */
const asReply: Readonly<Record<Visibility, Handed>> = {
  everyone: { delivery: { delivered: true, as: 'reply', seenBy: 'everyone' }, delivered: undefined },
  caller: { delivery: { delivered: true, as: 'reply', seenBy: 'caller' }, delivered: undefined },
};

function asOther(as: Exclude<How, 'reply'>, seenBy: Visibility): Handed {
  return { delivery: { delivered: true, as, seenBy }, delivered: undefined };
}

/** Whether the platform can hide a reply to this input from others. */
export function canHide({ capabilities }: Platform, { surface, place }: Input): boolean {
  const { privateReplies } = capabilities;
  return place.kind !== 'guild' || privateReplies === 'always' || (privateReplies === 'slash' && surface === 'slash');
}

/** What is for the caller alone wherever that is possible: nobody minds where it is not. */
export function whoSees(audience: Audience, { platform, input }: Conversation): Visibility {
  if (audience !== 'caller-if-possible') return audience;
  return platform === undefined || canHide(platform, input) ? 'caller' : 'everyone';
}

/**
 * Hands over a reply to the conversation's input; never throws. What is for the caller alone is never seen by others. Synchronous for as long as the platform is. Hot path:
 * bench/rows/calls.
 */
export function deliver(conversation: Spoken, reply: Reply): MaybePromise<Handed> {
  const { platform } = conversation;
  const { capabilities } = platform;
  if (reply.visibleTo === 'caller' && !canHide(platform, conversation.input)) return tellOrLeave(conversation, reply);
  const longest = longestMessage(conversation, reply);
  if (longest !== undefined && isLong(platform, reply.notice, longest)) {
    return deliverParts(conversation, reply, longest);
  }
  if (capabilities.pace !== undefined || mustBeRemoved(platform, reply)) {
    return deliverOne(conversation, reply);
  }
  let delivering: MaybePromise<Delivered | void>;
  try {
    delivering = platform.deliver(reply, conversation.input, nextKey(conversation));
  } catch (error) {
    return deliverAgain(conversation, reply, thrownAtOnce(error));
  }
  const seen = reply.visibleTo;
  if (!isThenable(delivering)) return handedAs(delivering, seen);
  const since = conversation.services.clock.now();
  const handed = (delivered: Delivered | void) => {
    conversation.silences = 0;
    return handedAs(delivered, seen);
  };
  return promptly(delivering, handed, (pending) =>
    answerInTime(conversation, pending, since).then(handed, (error) => deliverAgain(conversation, reply, error)),
  );
}

export function handedAs(delivered: Delivered | void, seen: Visibility): Handed {
  const { delivery } = asReply[seen];
  return delivered === undefined ? asReply[seen] : { delivery, delivered };
}

/** How long a message may be: less where others would have to read it, too. */
function longestMessage(conversation: Spoken, reply: Reply): number | undefined {
  const { longestAmongOthers, longestReply } = conversation.platform.capabilities;
  return isAmongOthers(conversation, reply) ? longestAmongOthers : longestReply;
}

/** Whether others would have to read it, too, in a place that takes only so much. */
function isAmongOthers({ input, platform }: Spoken, { visibleTo }: Reply): boolean {
  return (
    platform.capabilities.longestAmongOthers !== undefined && visibleTo === 'everyone' && input.place.kind === 'guild'
  );
}

/** The plain text is measured without making it: most are short. */
function isLong(platform: Platform, notice: Notice, longest: number): boolean {
  const { heading = '', body, details = [] } = notice;
  const units = heading.length + body.length + details.reduce((sum, one) => sum + one.length + 1, 2);
  return units * 2 > longest && measureOf(platform)(notice) > longest;
}

function measureOf(platform: Platform): (notice: Notice) => number {
  return platform.measure === undefined
    ? (notice) => plainText(notice).length
    : (notice) => platform.measure?.(notice) ?? 0;
}

async function deliverParts(conversation: Spoken, reply: Reply, longest: number): Promise<Handed> {
  const { platform, language } = conversation;
  const { words } = language;
  let parts = splitNotice(reply.notice, longest, measureOf(platform), sayInReply(words, 'reply.cut'));
  const isBrief = isAmongOthers(conversation, reply);
  if (isBrief && parts.length > 1) {
    const [head = reply.notice, ...rest] = parts;
    const isTold = canHide(platform, conversation.input) || canTell(conversation);
    const going = {
      ...head,
      details: [...(head.details ?? []), sayInReply(words, isTold ? 'reply.rest-apart' : 'reply.cut')],
    };
    parts = isTold ? [going, ...rest] : [going];
  }
  let first: Handed | undefined;
  const further: Delivered[] = [];
  for (const notice of parts) {
    const next =
      first !== undefined && isBrief
        ? await deliver(conversation, { ...reply, notice, visibleTo: 'caller' })
        : await deliverOne(conversation, { ...reply, notice });
    const { delivery, delivered } = next;
    if (first === undefined) first = next;
    else if (delivered !== undefined) further.push(delivered);
    // Of a text whose beginning did not arrive, the rest would puzzle.
    if (delivery.delivered) continue;
    return next === first ? first : { ...first, delivery: { ...delivery, arrived: 'partly' }, further };
  }
  // Of a text with nothing in it, no part is left.
  return { ...(first ?? unsaid('platform.failed', 'no')), further };
}

function unsaid(code: DeliveryCode, arrived: 'no' | 'perhaps'): Handed {
  return { delivery: { delivered: false, code, arrived }, delivered: undefined };
}

async function deliverOne(conversation: Spoken, reply: Reply): Promise<Handed> {
  const { platform } = conversation;
  const turn = await takeTurn(conversation, channelOf(conversation)?.id ?? '', reply);
  if (turn === 'full') return unsaid('platform.slowed', 'no');
  const key = nextKey(conversation);
  return handedOver(conversation, reply, () =>
    attempting(conversation, () => platform.deliver(reply, conversation.input, key), key),
  );
}

/** After a first attempt that failed: again with growing pauses where that is safe, or elsewhere. */
async function deliverAgain(
  conversation: Spoken,
  reply: Reply,
  error: unknown,
  key = deliveryKey(conversation),
): Promise<Handed> {
  return handedOver(conversation, reply, () =>
    retry(conversation, error, () => conversation.platform.deliver(reply, conversation.input, key), key),
  );
}

async function handedOver(
  conversation: Spoken,
  reply: Reply,
  delivering: () => Promise<Delivered | void>,
): Promise<Handed> {
  try {
    const delivered = await delivering();
    removeLater(conversation, reply, delivered);
    return handedAs(delivered, reply.visibleTo);
  } catch (last) {
    if (deliveryCodeOf(last) !== 'platform.gone') return undelivered(conversation, last);
    return deliverElsewhere(conversation, reply, last);
  }
}

/** Apart from the input: what is for everybody is posted, what is for the caller is told to them alone. */
export async function deliverElsewhere(conversation: Spoken, reply: Reply, because: unknown): Promise<Handed> {
  const { platform, input } = conversation;
  const { place } = input;
  // A post would be heard by more than the reply is for.
  const channel = place.kind === 'guild' && place.heardBy !== undefined ? undefined : channelOf(conversation);
  if (reply.visibleTo === 'caller' || platform.post === undefined || channel === undefined)
    return tellCaller(conversation, reply, because);
  try {
    await attempting(conversation, () => platform.post?.(channel, reply));
    return asOther('post', 'everyone');
  } catch (error) {
    return undelivered(conversation, error);
  }
}

function canTell({ input: { caller }, platform }: Spoken): boolean {
  return platform.tell !== undefined && isPerson(caller) && isUnique(caller);
}

/** To the caller, outside of the place. */
async function tellCaller(conversation: Spoken, reply: Reply, otherwise: unknown = othersWouldSee): Promise<Handed> {
  const { platform, input } = conversation;
  const caller = input.caller as Person;
  if (!canTell(conversation)) return undelivered(conversation, otherwise);
  if ((await takeTurn(conversation, caller.id, reply)) === 'full') return unsaid('platform.slowed', 'no');
  try {
    await attempting(conversation, () => platform.tell?.(caller, reply));
    return asOther('tell', 'caller');
  } catch (error) {
    return undelivered(conversation, error);
  }
}

/** Shared: where it was thrown says nothing. */
export const othersWouldSee = new PlatformError('platform.failed', 'Others would see it');

/** Where the platform cannot hide it: told to the caller, else a neutral line stands in the place. */
async function tellOrLeave(conversation: Spoken, reply: Reply): Promise<Handed> {
  const handed = await tellCaller(conversation, reply);
  if (!handed.delivery.delivered) {
    const notice: Notice = { tone: 'problem', body: sayInReply(conversation.language.words, 'reply.unreached') };
    const neutral: Reply = { notice, visibleTo: 'everyone' };
    const { delivery } = await deliver(conversation, neutral);
    tellSaid(conversation, neutral, delivery, 'message');
  }
  return handed;
}

export function undelivered({ services, command, platform }: Spoken, error: unknown): Handed {
  const code = deliveryCodeOf(error);
  services.log.error({ code, command, platform: platform.name, error }, 'A reply was not delivered');
  return unsaid(code, mayHaveArrived(error) ? 'perhaps' : 'no');
}

/**
 * Waits for a turn in a channel, or with a person; the time does not count against the handler's. `'full'` where so much
 * waits that this is not said, of which the caller is warned.
 */
export async function takeTurn(conversation: Spoken, channel: string, reply: Reply): Promise<'full' | void> {
  const { services, pauses, command, input, platform } = conversation;
  const { pace } = platform.capabilities;
  if (pace === undefined) return;
  const wanted = { channel, person: input.caller.id, call: conversation, reply, clock: services.steady };
  const turn = pace.turn(wanted);
  if (turn === 'full') {
    services.crowded({ platform: platform.name, channel, command, person: input.caller.id });
    void warn(conversation, wanted);
    return turn;
  }
  pauses?.begin();
  try {
    if (turn !== undefined) await waitFor(services.steady, turn, LONGEST_TURN_MS, services.steady.now());
  } catch {
    return 'full';
  } finally {
    pauses?.end();
  }
}

/** Nobody waits for an answer that long. */
const LONGEST_TURN_MS = 600_000;

/** That some of what is for this person is left out: once, until nothing waits for them any more. */
async function warn(conversation: Spoken, wanted: Turn): Promise<void> {
  const { input, language, services, platform } = conversation;
  const reply: Reply = {
    notice: { tone: 'problem', body: sayInReply(language.words, 'reply.crowded') },
    visibleTo: 'caller',
  };
  try {
    const turn = platform.capabilities.pace?.turn({ ...wanted, reply, isWarning: true });
    if (turn === 'full') return;
    await turn;
    await attemptOnce(conversation, () => platform.deliver(reply, input, `${replyKey(conversation)}.crowded`));
  } catch (error) {
    services.log.warn({ code: deliveryCodeOf(error), platform: platform.name, error }, 'Somebody was not warned');
  }
}

function channelOf({ input: { place } }: Conversation) {
  return place.kind === 'console' ? undefined : place.channel;
}

/** The same for every attempt at a message, another for the next. */
function nextKey(conversation: Conversation): string {
  conversation.handed += 1;
  return deliveryKey(conversation);
}

function deliveryKey(conversation: Conversation): string {
  const key = replyKey(conversation);
  return conversation.handed === 1 ? key : `${key}.${conversation.handed}`;
}

/** Where the platform does not take expiring messages away by itself. */
export function removeLater(conversation: Spoken, reply: Reply, delivered: Delivered | void): void {
  const { services, input, platform } = conversation;
  if (delivered === undefined || !mustBeRemoved(platform, reply)) return;
  services.expiring.later(reply.expiresInMs as number, async () => {
    try {
      await attempting(conversation, () => platform.remove?.(delivered, input));
    } catch (error) {
      services.log.warn(
        { code: deliveryCodeOf(error), platform: platform.name, error },
        'An expired message was not removed',
      );
    }
  });
}

function mustBeRemoved({ capabilities, remove }: Platform, { expiresInMs }: Reply): boolean {
  return expiresInMs !== undefined && capabilities.expires !== true && remove !== undefined;
}
