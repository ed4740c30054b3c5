/** What was said so far in one conversation: at most one first reply, held, shown as progress, edited, or given. */

import { after } from '../base/time.js';
import type { Said, Sayable } from '../commands/call.js';
import type { Notice, Reply, Visibility } from '../contract/notice.js';
import { type Delivered, PlatformError } from '../contract/platform.js';
import { sayInReply } from '../replies/phrases.js';
import { replyKey, replyOf, type Spoken, tellSaid } from './conversation.js';
import {
  canHide,
  deliver,
  deliverElsewhere,
  type Handed,
  handedAs,
  othersWouldSee,
  removeLater,
  undelivered,
} from './deliver.js';

import { attempting, attemptOnce, deliveryCodeOf, mayHaveArrived } from './retry.js';

/** Edits that come faster than this would flicker, and use up a platform's patience. */
const PROGRESS_EVERY_MS = 1500;

/** What was shown, the progress or what was said before the message was edited: the reply will replace it. */
interface Shown {
  readonly delivered: Delivered;
  readonly visibleTo: Visibility | undefined;
}

/** Says what a call has to say, one thing after the other. */
export interface Responder {
  /** Who sees the held reply. */
  readonly held: Visibility | undefined;
  /** Whether the handler has said something, be it still on its way. */
  readonly hasSpoken: boolean;
  /** Keeps the invocation open. Nothing where something was said already. */
  hold(): Promise<void>;
  reply(sayable: Sayable): Promise<Said>;
  progress(fraction: number, doing: string): void;
  /**
   * Gives the last word: over what is shown, as the first reply, or behind it.
   *
   * @param isGivenUp nobody waits for the handler any more: what it has said and is not on its way is dropped
   */
  finish(reply: Reply | undefined, isGivenUp: boolean): Promise<Handed | undefined>;
  /** Whether the caller was told this before, so that it need not be said again. */
  wasTold(text: string): boolean;
}

/** @param isOver nobody waits for the handler any more: what it says is dropped */
export function responderFor(conversation: Spoken, isOver: boolean, saidBefore?: Shown): Responder {
  const { input, services, platform } = conversation;
  const { clock } = services;
  /**
   * The first reply, which alone decides what may be said where: nothing of it; held open, for whom; closed with a word
   * that surely stands there; or said. While it may be open for everyone, nothing private is handed to the platform.
   */
  let first: 'nothing' | Visibility | 'closed' | 'said' = 'nothing';
  let shown = saidBefore;
  let isClosed = isOver;
  /** What was said first arrives first. */
  let last: Promise<unknown> = Promise.resolve();
  let progressAt = Number.NEGATIVE_INFINITY;
  let nextProgress: Notice | undefined;
  let cancelProgress: (() => void) | undefined;
  const told = new Set<string>();

  function inTurn<T>(what: () => Promise<T>): Promise<T> {
    const next = last.then(what);
    last = next.catch(() => undefined);
    return next;
  }

  function warn(error: unknown, what: string): void {
    services.log.warn({ code: deliveryCodeOf(error), command: conversation.command ?? '', error }, what);
  }

  /** Half of what is left until the deadline: should holding hang, an answer still comes before it. */
  function holdMs(): number {
    const { replyDeadlineMs = Number.POSITIVE_INFINITY } = platform.capabilities;
    const leftMs = input.at + replyDeadlineMs - clock.now();
    return Math.max(0, Math.min(leftMs, replyDeadlineMs) / 2);
  }

  async function say(reply: Reply): Promise<Handed> {
    const over = shown;
    shown = undefined;
    const open = over?.visibleTo ?? (first === 'everyone' || first === 'caller' ? first : undefined);
    if (open !== undefined && open !== reply.visibleTo) return sayApart(reply, open, over?.delivered);
    const written = over === undefined ? undefined : await sayOver(over.delivered, reply);
    const handed = written ?? (await deliver(conversation, reply));
    const { delivery } = handed;
    // What was refused, lost or said elsewhere fills nothing that is held.
    if (open === undefined || (delivery.delivered && delivery.as === 'reply')) first = 'said';
    return handed;
  }

  /** What is held or shown is for others than the reply: it is closed with a neutral word, and the reply is its own. */
  async function sayApart(reply: Reply, open: Visibility, over: Delivered | undefined): Promise<Handed> {
    const neutral: Reply = {
      notice: { body: sayInReply(conversation.language.words, 'reply.answered') },
      visibleTo: open,
    };
    if (over === undefined) await close(neutral);
    else await sayOver(over, neutral);
    // What may be open still would be filled by the reply, for whomever it is open.
    if (first === open) return deliverElsewhere(conversation, reply, othersWouldSee);
    first = 'said';
    return deliver(conversation, reply);
  }

  async function close(neutral: Reply): Promise<void> {
    const key = `${replyKey(conversation)}.closed`;
    try {
      await attempting(conversation, () => platform.deliver(neutral, input, key), key);
      first = 'closed';
    } catch (error) {
      warn(error, 'A held reply was not closed');
    }
  }

  /**
   * In place of the progress; nothing where that is not possible, so that it is said as a message of its own. Where
   * nobody can tell whether it stands there, it is not said a second time.
   */
  async function sayOver(delivered: Delivered, reply: Reply): Promise<Handed | undefined> {
    const { longestReply = Number.POSITIVE_INFINITY } = platform.capabilities;
    let unknown: unknown;
    if (reply.notice.body.length <= longestReply / 4) {
      try {
        await attempting(conversation, () => platform.edit?.(delivered, reply, input));
        removeLater(conversation, reply, delivered);
        return handedAs(delivered, reply.visibleTo);
      } catch (error) {
        if (mayHaveArrived(error)) unknown = error;
      }
    }
    try {
      if (platform.remove === undefined) throw unknown;
      await attempting(conversation, () => platform.remove?.(delivered, input));
    } catch (error) {
      if (unknown !== undefined && deliveryCodeOf(error) !== 'platform.gone') {
        return undelivered(conversation, unknown);
      }
    }
    return undefined;
  }

  async function showProgress(): Promise<void> {
    const notice = nextProgress;
    if (notice === undefined || isClosed || first === 'said') return;
    nextProgress = undefined;
    progressAt = clock.now();
    const reply: Reply = { notice, visibleTo: responder.held ?? conversation.audience ?? 'everyone' };
    if (reply.visibleTo === 'caller' && !canHide(platform, input)) return;
    const over = shown;
    try {
      if (over !== undefined) await attemptOnce(conversation, () => platform.edit?.(over.delivered, reply, input));
      else {
        const key = `${replyKey(conversation)}.progress`;
        const delivered = await attemptOnce(conversation, () => platform.deliver(reply, input, key));
        if (delivered !== undefined) shown = { delivered, visibleTo: reply.visibleTo };
        first = delivered === undefined ? 'said' : 'closed';
      }
      tellSaid(conversation, reply, handedAs(undefined, reply.visibleTo).delivery, 'progress');
    } catch (error) {
      warn(error, 'Progress was not shown');
    }
  }

  const responder: { -readonly [Part in keyof Responder]: Responder[Part] } = {
    held: undefined,
    hasSpoken: false,
    hold: () =>
      inTurn(async () => {
        if (first !== 'nothing' || shown !== undefined || isClosed) return;
        const visibleTo = conversation.audience ?? 'caller';
        try {
          // Once: what is said next waits for it, and must come before the deadline.
          await attemptOnce(conversation, () => platform.hold?.(conversation.input, visibleTo), holdMs());
          conversation.isHeld = true;
        } catch (error) {
          warn(error, 'A reply was not held');
          // What may be held is closed as if it were: what is private stays so.
          if (!mayHaveArrived(error)) return;
        }
        responder.held = visibleTo;
        first = visibleTo;
      }),
    reply(sayable) {
      responder.hasSpoken = true;
      const said = inTurn(async () => {
        if (isClosed) {
          services.log.warn(
            { command: conversation.command ?? '', input: input.id },
            'A reply came after nobody waited for it, and was dropped',
          );
          return nothingSaid;
        }
        const reply = replyOf(conversation, sayable);
        const handed = await say(reply);
        const { delivery } = handed;
        tellSaid(conversation, reply, delivery, 'message');
        if (!delivery.delivered) {
          const mayArrive = delivery.arrived !== 'no';
          throw new PlatformError(delivery.code, 'The reply was not taken', { mayHaveArrived: mayArrive });
        }
        return saidMessage(conversation, handed);
      });
      return harmless(said);
    },
    progress(fraction, doing) {
      if (isClosed || first === 'said' || platform.edit === undefined) return;
      const done = Math.round(Math.min(1, Math.max(0, Number.isNaN(fraction) ? 0 : fraction)) * 100);
      nextProgress = { tone: 'info', body: doing, amount: { done, asked: 100 } };
      if (cancelProgress !== undefined) return;
      const since = clock.now() - progressAt;
      const wait = since < 0 ? PROGRESS_EVERY_MS : Math.max(0, PROGRESS_EVERY_MS - since);
      const show = () => {
        cancelProgress = undefined;
        void inTurn(showProgress);
      };
      if (wait === 0) show();
      else cancelProgress = after(clock, wait, show);
    },
    finish(reply, isGivenUp) {
      cancelProgress?.();
      nextProgress = undefined;
      isClosed ||= isGivenUp;
      return inTurn(async () => {
        const given = reply === undefined ? undefined : await say(reply);
        isClosed = true;
        return given;
      });
    },
    wasTold(text) {
      if (told.has(text)) return true;
      told.add(text);
      return false;
    },
  };
  return responder;
}

/** A message that was split is changed as one: what stood in the further ones goes. */
function saidMessage(conversation: Spoken, handed: Handed): Said {
  const { delivery, delivered, further = [] } = handed;
  const seenBy = delivery.delivered ? delivery.seenBy : undefined;
  const { input, services, command, platform } = conversation;
  const attempt = async (what: (found: Delivered) => Promise<void>) => {
    if (delivered === undefined) return false;
    try {
      await what(delivered);
      return true;
    } catch (error) {
      services.log.warn({ code: deliveryCodeOf(error), command, error }, 'A message was not changed');
      return false;
    }
  };
  const removeOne = (found: Delivered) => attempting(conversation, () => platform.remove?.(found, input));
  const removeAll = async (found: readonly Delivered[]) => {
    for (const one of found) await removeOne(one);
  };
  return {
    edit: (sayable) =>
      platform.edit === undefined
        ? Promise.resolve(false)
        : attempt(async (found) => {
            const reply = replyOf(conversation, sayable);
            if (reply.visibleTo === 'caller' && seenBy !== 'caller') throw othersWouldSee;
            await attempting(conversation, () => platform.edit?.(found, reply, input));
            tellSaid(conversation, reply, handedAs(undefined, reply.visibleTo).delivery, 'edit');
            if (platform.remove !== undefined) await removeAll(further);
          }),
    remove: () =>
      platform.remove === undefined ? Promise.resolve(false) : attempt((found) => removeAll([found, ...further])),
  };
}

const nothingSaid: Said = { edit: () => Promise.resolve(false), remove: () => Promise.resolve(false) };

/** A handler that does not wait for a promise must not bring the process down with it. */
export function harmless<T>(promise: Promise<T>): Promise<T> {
  promise.catch(() => undefined);
  return promise;
}
