/** What was said so far in one conversation: at most one first reply, held, shown as progress, edited, or given. */
import { after } from '../base/time.js';
import type { Said, Sayable } from '../commands/call.js';
import type { Notice, Reply, Visibility } from '../contract/notice.js';
import { type Delivered, type Platform, PlatformError } from '../contract/platform.js';
import { type Conversation, replyKey, replyOf, tellSaid } from './conversation.js';
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

import { attempting, deliveryCodeOf, mayHaveArrived, once } from './retry.js';

/** Edits that come faster than this would flicker, and use up a platform's patience. */
const PROGRESS_EVERY_MS = 1500;

export class Responder {
  /** Who sees the held reply. */
  held: Visibility | undefined = undefined;
  /**
   * The first reply, which alone decides what may be said where: nothing of it; held open, for whom; closed with a word
   * that surely stands there; or said. While it may be open for everyone, nothing private is handed to the platform.
   */
  #first: 'nothing' | Visibility | 'closed' | 'said' = 'nothing';
  /** Whether the handler has said something, be it still on its way. */
  hasSpoken = false;
  /** Nobody waits for the handler any more: what it says is dropped. */
  isClosed = false;
  /** The message that shows the progress, or what was said before the caller's message was edited: the reply will replace it. */
  #shown: { readonly delivered: Delivered; readonly visibleTo: Visibility | undefined } | undefined;
  /** One thing after the other: what was said first arrives first. */
  #last: Promise<unknown> = Promise.resolve();
  #progressAt = Number.NEGATIVE_INFINITY;
  #nextProgress: Notice | undefined = undefined;
  #cancelProgress: (() => void) | undefined = undefined;
  readonly #told = new Set<string>();

  readonly #conversation: Conversation;
  readonly #platform: Platform;

  constructor(
    conversation: Conversation,
    platform: Platform,
    saidBefore?: { readonly delivered: Delivered; readonly visibleTo: Visibility | undefined },
  ) {
    this.#conversation = conversation;
    this.#platform = platform;
    this.#shown = saidBefore;
  }

  /** Keeps the invocation open. Nothing where something was said already. */
  hold(): Promise<void> {
    return this.#inTurn(async () => {
      const platform = this.#platform;
      const conversation = this.#conversation;
      if (this.#first !== 'nothing' || this.#shown !== undefined || this.isClosed) return;
      const visibleTo = conversation.audience ?? 'caller';
      try {
        // Once: what is said next waits for it, and must come before the deadline.
        await once(conversation, platform, () => platform.hold?.(conversation.input, visibleTo), this.#holdMs());
        conversation.isHeld = true;
      } catch (error) {
        this.#warn(error, 'A reply was not held');
        // What may be held is closed as if it were: what is private stays so.
        if (!mayHaveArrived(error)) return;
      }
      this.held = visibleTo;
      this.#first = visibleTo;
    });
  }

  /** Half of what is left until the deadline: should holding hang, an answer still comes before it. */
  #holdMs(): number {
    const platform = this.#platform;
    const conversation = this.#conversation;
    const { replyDeadlineMs = Number.POSITIVE_INFINITY } = platform.capabilities;
    const leftMs = conversation.input.at + replyDeadlineMs - conversation.services.clock.now();
    return Math.max(0, Math.min(leftMs, replyDeadlineMs) / 2);
  }

  reply(sayable: Sayable): Promise<Said> {
    this.hasSpoken = true;
    const said = this.#inTurn(async () => {
      const conversation = this.#conversation;
      const platform = this.#platform;
      if (this.isClosed) return this.#dropped();
      const reply = replyOf(conversation, sayable);
      const handed = await this.#say(reply);
      const { delivery } = handed;
      tellSaid(conversation, reply, delivery, 'message');
      if (!delivery.delivered) {
        const mayHaveArrived = delivery.arrived !== 'no';
        throw new PlatformError(delivery.code, 'The reply was not taken', { mayHaveArrived });
      }
      return saidAs(conversation, platform, handed);
    });
    return harmless(said);
  }

  progress(fraction: number, doing: string): void {
    if (this.isClosed || this.#first === 'said' || this.#platform.edit === undefined) return;
    const done = Math.round(Math.min(1, Math.max(0, Number.isNaN(fraction) ? 0 : fraction)) * 100);
    this.#nextProgress = { tone: 'info', body: doing, amount: { done, asked: 100 } };
    if (this.#cancelProgress !== undefined) return;
    const { clock } = this.#conversation.services;
    const since = clock.now() - this.#progressAt;
    const wait = since < 0 ? PROGRESS_EVERY_MS : Math.max(0, PROGRESS_EVERY_MS - since);
    const show = () => {
      this.#cancelProgress = undefined;
      void this.#inTurn(() => this.#showProgress());
    };
    if (wait === 0) show();
    else this.#cancelProgress = after(clock, wait, show);
  }

  /**
   * Gives the last word: over what is shown, as the first reply, or behind it.
   *
   * @param isGivenUp nobody waits for the handler any more: what it has said and is not on its way is dropped
   */
  finish(reply: Reply | undefined, isGivenUp: boolean): Promise<Handed | undefined> {
    this.#cancelProgress?.();
    this.#nextProgress = undefined;
    this.isClosed ||= isGivenUp;
    return this.#inTurn(async () => {
      const given = reply === undefined ? undefined : await this.#say(reply);
      this.isClosed = true;
      return given;
    });
  }

  /** Whether the caller was told this before, so that it need not be said again. */
  wasTold(text: string): boolean {
    if (this.#told.has(text)) return true;
    this.#told.add(text);
    return false;
  }

  async #say(reply: Reply): Promise<Handed> {
    const conversation = this.#conversation;
    const platform = this.#platform;
    const shown = this.#shown;
    const first = this.#first;
    this.#shown = undefined;
    const open = shown?.visibleTo ?? (first === 'everyone' || first === 'caller' ? first : undefined);
    if (open !== undefined && open !== reply.visibleTo) return this.#sayApart(reply, open, shown?.delivered);
    const over = shown === undefined ? undefined : await this.#sayOver(shown.delivered, reply);
    const handed = over ?? (await deliver(conversation, platform, reply));
    const { delivery } = handed;
    // What was refused, lost or said elsewhere fills nothing that is held.
    if (open === undefined || (delivery.delivered && delivery.as === 'reply')) this.#first = 'said';
    return handed;
  }

  /** What is held or shown is for others than the reply: it is closed with a neutral word, and the reply is its own. */
  async #sayApart(reply: Reply, open: Visibility, shown: Delivered | undefined): Promise<Handed> {
    const conversation = this.#conversation;
    const platform = this.#platform;
    const neutral: Reply = { notice: { body: conversation.language.phrases.answered() }, visibleTo: open };
    if (shown === undefined) await this.#close(neutral);
    else await this.#sayOver(shown, neutral);
    // What may be open still would be filled by the reply, for whomever it is open.
    if (this.#first === open) return deliverElsewhere(conversation, platform, reply, othersWouldSee);
    this.#first = 'said';
    return deliver(conversation, platform, reply);
  }

  async #close(neutral: Reply): Promise<void> {
    const conversation = this.#conversation;
    const platform = this.#platform;
    const { input } = conversation;
    const key = `${replyKey(conversation)}.closed`;
    try {
      await attempting(conversation, platform, () => platform.deliver(neutral, input, key), key);
      this.#first = 'closed';
    } catch (error) {
      this.#warn(error, 'A held reply was not closed');
    }
  }

  /**
   * In place of the progress; nothing where that is not possible, so that it is said as a message of its own. Where
   * nobody can tell whether it stands there, it is not said a second time.
   */
  async #sayOver(delivered: Delivered, reply: Reply): Promise<Handed | undefined> {
    const conversation = this.#conversation;
    const platform = this.#platform;
    const { input } = conversation;
    const { longestReply = Number.POSITIVE_INFINITY } = platform.capabilities;
    let unknown: unknown;
    if (reply.notice.body.length <= longestReply / 4) {
      try {
        await attempting(conversation, platform, () => platform.edit?.(delivered, reply, input));
        removeLater(conversation, platform, reply, delivered);
        return handedAs(delivered, reply.visibleTo);
      } catch (error) {
        if (mayHaveArrived(error)) unknown = error;
      }
    }
    try {
      if (platform.remove === undefined) throw unknown;
      await attempting(conversation, platform, () => platform.remove?.(delivered, input));
    } catch (error) {
      if (unknown !== undefined && deliveryCodeOf(error) !== 'platform.gone') {
        return undelivered(conversation, platform, unknown);
      }
    }
    return undefined;
  }

  async #showProgress(): Promise<void> {
    const notice = this.#nextProgress;
    if (notice === undefined || this.isClosed || this.#first === 'said') return;
    this.#nextProgress = undefined;
    const conversation = this.#conversation;
    const platform = this.#platform;
    const { input, services, audience } = conversation;
    this.#progressAt = services.clock.now();
    const reply: Reply = { notice, visibleTo: this.held ?? audience ?? 'everyone' };
    if (reply.visibleTo === 'caller' && !canHide(platform, input)) return;
    const shown = this.#shown;
    try {
      if (shown !== undefined) await once(conversation, platform, () => platform.edit?.(shown.delivered, reply, input));
      else {
        const key = `${replyKey(conversation)}.progress`;
        const delivered = await once(conversation, platform, () => platform.deliver(reply, input, key));
        if (delivered !== undefined) this.#shown = { delivered, visibleTo: reply.visibleTo };
        this.#first = delivered === undefined ? 'said' : 'closed';
      }
      tellSaid(conversation, reply, handedAs(undefined, reply.visibleTo).delivery, 'progress');
    } catch (error) {
      this.#warn(error, 'Progress was not shown');
    }
  }

  #inTurn<T>(what: () => Promise<T>): Promise<T> {
    const next = this.#last.then(what);
    this.#last = next.catch(() => undefined);
    return next;
  }

  #dropped(): Said {
    const { services, command, input } = this.#conversation;
    services.log.warn(
      { command: command ?? '', input: input.id },
      'A reply came after nobody waited for it, and was dropped',
    );
    return nothingSaid;
  }

  #warn(error: unknown, what: string): void {
    const { services, command } = this.#conversation;
    services.log.warn({ code: deliveryCodeOf(error), command: command ?? '', error }, what);
  }
}

/** A message that was split is changed as one: what stood in the further ones goes. */
function saidAs(conversation: Conversation, platform: Platform, handed: Handed): Said {
  const { delivery, delivered, further = [] } = handed;
  const seenBy = delivery.delivered ? delivery.seenBy : undefined;
  const { input, services, command } = conversation;
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
  const removeOne = (found: Delivered) => attempting(conversation, platform, () => platform.remove?.(found, input));
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
            await attempting(conversation, platform, () => platform.edit?.(found, reply, input));
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
