/** What was said so far in one conversation: at most one first reply, held, shown as progress, edited, or given. */
import { isThenable } from '../base/thenable.js';
import { after } from '../base/time.js';
import type { Said, Sayable } from '../commands/call.js';
import type { Notice, Reply, Visibility } from '../contract/notice.js';
import { type Delivered, type Platform, PlatformError } from '../contract/platform.js';
import { type Conversation, replyKey } from './conversation.js';
import { deliver, deliverPrivately, type Handed, handedAs, removeLater, seenBy } from './deliver.js';
import { replyOf } from './reply-of.js';
import { attempting, deliveryCodeOf } from './retry.js';

/** Edits that come faster than this would flicker, and use up a platform's patience. */
const PROGRESS_EVERY_MS = 1500;

export class Responder {
  /** Who sees the held reply. */
  held: Visibility | undefined = undefined;
  /** Whether the first reply was given, progress aside. */
  answered = false;
  /** Whether the handler has said something, be it still on its way. */
  hasSpoken = false;
  /** Nobody waits for the handler any more: what it says is dropped. */
  isClosed = false;
  /** The message that shows the progress, which the reply will replace. */
  private shown: { readonly delivered: Delivered; readonly visibleTo: Visibility } | undefined = undefined;
  /** One thing after the other: what was said first arrives first. */
  private last: Promise<unknown> = Promise.resolve();
  private progressAt = Number.NEGATIVE_INFINITY;
  private nextProgress: Notice | undefined = undefined;
  private cancelProgress: (() => void) | undefined = undefined;
  private readonly told = new Set<string>();

  constructor(
    private readonly conversation: Conversation,
    private readonly platform: Platform,
  ) {}

  /** Keeps the invocation open. Nothing where something was said already. */
  hold(): Promise<void> {
    return this.inTurn(async () => {
      const { platform, conversation } = this;
      if (this.held !== undefined || this.answered || this.shown !== undefined || this.isClosed) return;
      const visibleTo = conversation.audience ?? 'caller';
      try {
        await platform.hold?.(conversation.input, visibleTo);
        this.held = visibleTo;
      } catch (error) {
        this.warn(error, 'A reply was not held');
      }
    });
  }

  reply(sayable: Sayable): Promise<Said> {
    this.hasSpoken = true;
    const said = this.inTurn(async () => {
      const { conversation, platform } = this;
      if (this.isClosed) return this.dropped();
      const reply = replyOf(conversation, sayable);
      const handed = await this.say(reply);
      conversation.services.said(conversation, reply, handed.delivery);
      if (!handed.delivery.delivered) throw new PlatformError(handed.delivery.code, 'The reply was not taken');
      return saidAs(conversation, platform, handed.delivered);
    });
    return harmless(said);
  }

  progress(fraction: number, doing: string): void {
    if (this.isClosed || this.answered || this.platform.edit === undefined) return;
    const done = Math.round(Math.min(1, Math.max(0, Number.isNaN(fraction) ? 0 : fraction)) * 100);
    this.nextProgress = { tone: 'info', body: doing, amount: { done, asked: 100 } };
    if (this.cancelProgress !== undefined) return;
    const { clock } = this.conversation.services;
    const wait = Math.max(0, this.progressAt + PROGRESS_EVERY_MS - clock.now());
    const show = () => {
      this.cancelProgress = undefined;
      void this.inTurn(() => this.showProgress());
    };
    if (wait === 0) show();
    else this.cancelProgress = after(clock, wait, show);
  }

  /** Gives the last word: over what is shown, as the first reply, or behind it. */
  finish(reply: Reply | undefined): Promise<Handed | undefined> {
    this.cancelProgress?.();
    this.nextProgress = undefined;
    return this.inTurn(async () => {
      const given = reply === undefined ? undefined : await this.say(reply);
      this.isClosed = true;
      return given;
    });
  }

  /** Whether the caller was told this before, so that it need not be said again. */
  wasTold(text: string): boolean {
    if (this.told.has(text)) return true;
    this.told.add(text);
    return false;
  }

  private async say(reply: Reply): Promise<Handed> {
    const { conversation, platform, shown, held, answered } = this;
    this.shown = undefined;
    this.answered = true;
    const open = shown?.visibleTo ?? (answered ? undefined : held);
    if (open !== undefined && open !== reply.visibleTo) return this.sayApart(reply, open, shown?.delivered);
    const over = shown === undefined ? undefined : await this.sayOver(shown.delivered, reply);
    return over ?? deliver(conversation, platform, reply);
  }

  /** What is held or shown is for others than the reply: it is closed with a neutral word, and the reply is its own. */
  private async sayApart(reply: Reply, open: Visibility, shown: Delivered | undefined): Promise<Handed> {
    const { conversation, platform } = this;
    const neutral: Reply = { notice: { body: conversation.language.phrases.answered() }, visibleTo: open };
    if (shown === undefined) await this.close(neutral);
    else await this.sayOver(shown, neutral);
    return reply.visibleTo === 'caller'
      ? deliverPrivately(conversation, platform, reply)
      : deliver(conversation, platform, reply);
  }

  /** Where nothing is open any more, a neutral word is worth no message of its own. */
  private async close(neutral: Reply): Promise<void> {
    const { conversation, platform } = this;
    const { input, services } = conversation;
    const key = `${replyKey(conversation)}.closed`;
    try {
      await attempting(services.clock, platform, () => platform.deliver(neutral, input, key));
    } catch (error) {
      this.warn(error, 'A held reply was not closed');
    }
  }

  /** In place of the progress; as a message of its own where that is not possible. */
  private async sayOver(delivered: Delivered, reply: Reply): Promise<Handed | undefined> {
    const { conversation, platform } = this;
    const { longestReply = Number.POSITIVE_INFINITY } = platform.capabilities;
    try {
      if (reply.notice.body.length > longestReply / 4) throw new PlatformError('platform.failed', 'It may be too long');
      await attempting(conversation.services.clock, platform, () =>
        platform.edit?.(delivered, reply, conversation.input),
      );
      removeLater(conversation, platform, reply, delivered);
      return handedAs(delivered, seenBy(platform, conversation.input, reply));
    } catch {
      await Promise.resolve(platform.remove?.(delivered, conversation.input)).catch(() => undefined);
      return undefined;
    }
  }

  private async showProgress(): Promise<void> {
    const notice = this.nextProgress;
    if (notice === undefined || this.isClosed || this.answered) return;
    this.nextProgress = undefined;
    const { conversation, platform } = this;
    const { input, services, audience } = conversation;
    this.progressAt = services.clock.now();
    const reply: Reply = { notice, visibleTo: this.held ?? audience ?? 'everyone' };
    try {
      if (this.shown !== undefined) {
        await platform.edit?.(this.shown.delivered, reply, input);
        return;
      }
      const delivered = await platform.deliver(reply, input, `${replyKey(conversation)}.progress`);
      if (delivered !== undefined) this.shown = { delivered, visibleTo: reply.visibleTo };
      else this.answered = true;
    } catch (error) {
      this.warn(error, 'Progress was not shown');
    }
  }

  private inTurn<T>(what: () => Promise<T>): Promise<T> {
    const next = this.last.then(what);
    this.last = next.catch(() => undefined);
    return next;
  }

  private dropped(): Said {
    const { services, command, input } = this.conversation;
    services.log.warn(
      { command: command ?? '', input: input.id },
      'A reply came after nobody waited for it, and was dropped',
    );
    return nothingSaid;
  }

  private warn(error: unknown, what: string): void {
    const { services, command } = this.conversation;
    services.log.warn({ code: deliveryCodeOf(error), command: command ?? '', error }, what);
  }
}

function saidAs(conversation: Conversation, platform: Platform, delivered: Delivered | undefined): Said {
  const { input, services, command } = conversation;
  const attempt = async (what: (found: Delivered) => unknown) => {
    if (delivered === undefined) return false;
    try {
      const done = what(delivered);
      if (isThenable(done)) await done;
      return true;
    } catch (error) {
      services.log.warn({ code: deliveryCodeOf(error), command, error }, 'A message was not changed');
      return false;
    }
  };
  return {
    edit: (sayable) =>
      platform.edit === undefined
        ? Promise.resolve(false)
        : attempt((found) => platform.edit?.(found, replyOf(conversation, sayable), input)),
    remove: () =>
      platform.remove === undefined ? Promise.resolve(false) : attempt((found) => platform.remove?.(found, input)),
  };
}

const nothingSaid: Said = { edit: () => Promise.resolve(false), remove: () => Promise.resolve(false) };

/** A handler that does not wait for a promise must not bring the process down with it. */
export function harmless<T>(promise: Promise<T>): Promise<T> {
  promise.catch(() => undefined);
  return promise;
}
