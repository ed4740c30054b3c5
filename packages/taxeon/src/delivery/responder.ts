/** What one run has said so far: at most one first reply, held, shown as progress, edited, or given. */

import { isThenable } from '../base/thenable.js';
import { after, durationMs } from '../base/time.js';
import type { Said, Sayable } from '../commands/call.js';
import { isWorded } from '../commands/worded.js';
import type { Notice, Reply, Visibility } from '../contract/notice.js';
import { type Delivered, type Platform, PlatformError } from '../contract/platform.js';
import { tellReplied } from '../pipeline/replied.js';
import type { Run } from '../pipeline/run-object.js';
import { again, codeOf, type Handed, handReply, removeLater } from './deliver.js';

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
    private readonly run: Run,
    private readonly platform: Platform,
  ) {}

  /** Keeps the invocation open. Nothing where something was said already. */
  hold(): Promise<void> {
    return this.inTurn(async () => {
      const { platform, run } = this;
      if (this.held !== undefined || this.answered || this.shown !== undefined || this.isClosed) return;
      const visibleTo = run.found?.visibleTo ?? 'caller';
      try {
        await platform.hold?.(run.input, visibleTo);
        this.held = visibleTo;
      } catch (error) {
        run.services.log.warn({ code: codeOf(error), command: run.command, error }, 'A reply was not held');
      }
    });
  }

  reply(sayable: Sayable): Promise<Said> {
    this.hasSpoken = true;
    const said = this.inTurn(async () => {
      if (this.isClosed) return dropped(this.run);
      const reply = replyOf(this.run, sayable);
      const handed = await this.say(reply);
      tellReplied(this.run, reply, handed.delivery);
      if (!handed.delivery.delivered) throw new PlatformError(handed.delivery.code, 'The reply was not taken');
      return saidAs(this.run, this.platform, handed.delivered);
    });
    return harmless(said);
  }

  progress(fraction: number, doing: string): void {
    if (this.isClosed || this.answered || this.platform.edit === undefined) return;
    const done = Math.round(Math.min(1, Math.max(0, Number.isNaN(fraction) ? 0 : fraction)) * 100);
    this.nextProgress = { tone: 'info', body: doing, amount: { done, asked: 100 } };
    if (this.cancelProgress !== undefined) return;
    const { clock } = this.run.services;
    const wait = Math.max(0, this.progressAt + PROGRESS_EVERY_MS - clock.now());
    const show = () => {
      this.cancelProgress = undefined;
      void this.inTurn(() => this.showProgress());
    };
    if (wait === 0) show();
    else this.cancelProgress = after(clock, wait, show);
  }

  /** Gives the last word of the run: over what is shown, as the first reply, or behind it. */
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
    const { run, platform, shown, held } = this;
    this.shown = undefined;
    if (shown !== undefined) {
      const over = await this.sayOver(shown.delivered, { ...reply, visibleTo: shown.visibleTo });
      this.answered = true;
      if (over !== undefined) return over;
    }
    const first = !this.answered;
    this.answered = true;
    return handReply(
      run,
      platform,
      first && held !== undefined ? { ...reply, visibleTo: held } : reply,
      (handed) => handed,
    );
  }

  /** In place of the progress; as a message of its own where that is not possible. */
  private async sayOver(delivered: Delivered, reply: Reply): Promise<Handed | undefined> {
    const { run, platform } = this;
    const { longestReply = Number.POSITIVE_INFINITY } = platform.capabilities;
    const edit = () => platform.edit?.(delivered, reply, run.input);
    try {
      if (reply.notice.body.length > longestReply / 4) throw new PlatformError('platform.failed', 'It may be too long');
      try {
        await edit();
      } catch (error) {
        await again(run.services, platform, error, edit);
      }
      removeLater(run, platform, reply, delivered);
      return { delivery: { delivered: true, as: 'reply' }, delivered };
    } catch {
      await Promise.resolve(platform.remove?.(delivered, run.input)).catch(() => undefined);
      return undefined;
    }
  }

  private async showProgress(): Promise<void> {
    const notice = this.nextProgress;
    if (notice === undefined || this.isClosed || this.answered) return;
    this.nextProgress = undefined;
    const { run, platform } = this;
    this.progressAt = run.services.clock.now();
    const reply: Reply = { notice, visibleTo: this.held ?? run.found?.visibleTo ?? 'everyone' };
    try {
      if (this.shown !== undefined) {
        await platform.edit?.(this.shown.delivered, reply, run.input);
        return;
      }
      const delivered = await platform.deliver(reply, run.input, `${run.key}.progress`);
      if (delivered !== undefined) this.shown = { delivered, visibleTo: reply.visibleTo };
      else this.answered = true;
    } catch (error) {
      run.services.log.warn({ code: codeOf(error), command: run.command, error }, 'Progress was not shown');
    }
  }

  private inTurn<T>(what: () => Promise<T>): Promise<T> {
    const next = this.last.then(what);
    this.last = next.catch(() => undefined);
    return next;
  }
}

/** What a handler says, ready to be handed over. Hot path: bench/dispatch. */
export function replyOf(run: Run, sayable: Sayable): Reply {
  if (typeof sayable === 'string' && run.mentioned === undefined) {
    return { notice: { body: sayable }, visibleTo: run.found?.visibleTo ?? 'everyone' };
  }
  const { notice, visibleTo, expiresInMs } = noticeOf(run, sayable);
  const mentions = run.mentioned === undefined ? {} : { mentions: [...run.mentioned] };
  return {
    notice,
    visibleTo: visibleTo ?? run.found?.visibleTo ?? 'everyone',
    ...(expiresInMs === undefined ? {} : { expiresInMs }),
    ...mentions,
  };
}

interface Unpacked {
  readonly notice: Notice;
  readonly visibleTo: Visibility | undefined;
  readonly expiresInMs: number | undefined;
}

function noticeOf(run: Run, sayable: Sayable): Unpacked {
  if (typeof sayable === 'string') return { notice: { body: sayable }, visibleTo: undefined, expiresInMs: undefined };
  if (isWorded(sayable)) {
    const body = sayable.wording(run.words, run.timeZone);
    return { notice: { body }, visibleTo: undefined, expiresInMs: undefined };
  }
  const { visibleTo, expires, ...notice } = sayable;
  return { notice, visibleTo, expiresInMs: expires === undefined ? undefined : durationMs(expires) };
}

function saidAs(run: Run, platform: Platform, delivered: Delivered | undefined): Said {
  const attempt = async (what: (found: Delivered) => unknown) => {
    if (delivered === undefined) return false;
    try {
      const done = what(delivered);
      if (isThenable(done)) await done;
      return true;
    } catch (error) {
      run.services.log.warn({ code: codeOf(error), command: run.command, error }, 'A message was not changed');
      return false;
    }
  };
  return {
    edit: (sayable) =>
      platform.edit === undefined
        ? Promise.resolve(false)
        : attempt((found) => platform.edit?.(found, replyOf(run, sayable), run.input)),
    remove: () =>
      platform.remove === undefined ? Promise.resolve(false) : attempt((found) => platform.remove?.(found, run.input)),
  };
}

const nothingSaid: Said = { edit: () => Promise.resolve(false), remove: () => Promise.resolve(false) };

function dropped({ services, command, inputId }: Run): Said {
  services.log.warn({ command, input: inputId }, 'A reply came after nobody waited for it, and was dropped');
  return nothingSaid;
}

/** A handler that does not wait for a promise must not bring the process down with it. */
function harmless<T>(promise: Promise<T>): Promise<T> {
  promise.catch(() => undefined);
  return promise;
}
