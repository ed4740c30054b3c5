/** What is said besides the answer: to a person alone, in a channel; and taking the input away. */

import { isUnique } from '../access/context.js';
import { calledName, visibleText } from '../base/text.js';
import { textAtOnce } from '../base/thenable.js';
import type { Sayable } from '../commands/call.js';
import { type Actor, isPerson } from '../contract/actors.js';
import type { Reply } from '../contract/notice.js';
import type { Channel } from '../contract/places.js';
import { PlatformError } from '../contract/platform.js';
import { plainText } from '../replies/notice.js';
import { type Conversation, isSpoken, replyOf, type SaidTo, type Spoken, tellSaid } from './conversation.js';
import { othersWouldSee, takeTurn } from './deliver.js';
import type { Responder } from './responder.js';
import { attempting, deliveryCodeOf, mayHaveArrived } from './retry.js';

export async function tellPerson(
  conversation: Conversation,
  responder: Responder | undefined,
  person: Actor,
  sayable: Sayable,
): Promise<'delivered' | 'unreachable'> {
  const { services, input, command } = conversation;
  try {
    const reply = { ...replyOf(conversation, sayable), visibleTo: 'caller' as const };
    if (person.id === input.caller.id && responder?.wasTold(plainText(reply.notice)) === true) return 'delivered';
    const canTell = isSpoken(conversation) && conversation.platform.tell !== undefined;
    if (!canTell || !isPerson(person) || !isUnique(person)) return 'unreachable';
    await sayElsewhere(conversation, reply, { person, channel: undefined });
    return 'delivered';
  } catch (error) {
    services.log.warn({ code: deliveryCodeOf(error), command, person: person.id, error }, 'Somebody was not told');
    return 'unreachable';
  }
}

/** @throws PlatformError where it was not taken. */
export async function postIn(conversation: Conversation, channel: Channel, sayable: Sayable): Promise<void> {
  if (!isSpoken(conversation) || conversation.platform.post === undefined)
    throw new PlatformError('platform.failed', 'The platform has no posts of its own');
  // A post is for all who are there, also of a command whose replies are for the caller alone.
  const reply = replyOf(conversation, sayable, { visibleTo: 'everyone' });
  if (reply.visibleTo === 'caller') throw othersWouldSee;
  await sayElsewhere(conversation, reply, { person: undefined, channel });
}

/** @throws PlatformError where it was not taken. */
async function sayElsewhere(conversation: Spoken, reply: Reply, to: SaidTo): Promise<void> {
  const { platform } = conversation;
  const { person, channel } = to;
  const as = person === undefined ? 'post' : 'tell';
  try {
    if ((await takeTurn(conversation, (channel ?? person)?.id ?? '', reply)) === 'full')
      throw new PlatformError('platform.slowed', 'Too many messages wait there');
    await attempting<unknown>(conversation, () =>
      person === undefined ? channel && platform.post?.(channel, reply) : platform.tell?.(person, reply),
    );
  } catch (error) {
    const arrived = mayHaveArrived(error) ? 'perhaps' : 'no';
    tellSaid(conversation, reply, { delivered: false, code: deliveryCodeOf(error), arrived }, as, to);
    throw error;
  }
  tellSaid(conversation, reply, { delivered: true, as, seenBy: as === 'tell' ? 'caller' : 'everyone' }, as, to);
}

export async function removeInput(conversation: Conversation): Promise<boolean> {
  const { services, input, command } = conversation;
  if (!isSpoken(conversation) || conversation.platform.removeInput === undefined || input.surface !== 'text')
    return false;
  const { platform } = conversation;
  try {
    await attempting(conversation, () => platform.removeInput?.(input, attributionOf(conversation)));
    return true;
  } catch (error) {
    services.log.warn({ code: deliveryCodeOf(error), command, error }, 'An input was not removed');
    return false;
  }
}

export function mention(conversation: Conversation, person: Actor): string {
  if (!isPerson(person) || !isUnique(person)) return calledName(person);
  conversation.mentioned ??= new Set();
  conversation.mentioned.add(person.id);
  return textAtOnce(conversation.platform?.directory.mention?.(person)) ?? calledName(person);
}

const LONGEST_ATTRIBUTION = 100;

/** `induct, for Ines (ines)`. The id stands there whatever the name is. */
export function attributionOf({ command = '', input: { caller } }: Conversation): string {
  const whom = `${visibleText(caller.name, 20)} (${visibleText(caller.id, 40)})`;
  return `${visibleText(command, LONGEST_ATTRIBUTION - whom.length - ', for …'.length)}, for ${whom}`;
}
