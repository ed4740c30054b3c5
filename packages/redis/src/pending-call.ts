/** One call on its way: asked again where it may have been lost, for as long as its patience lasts. */
import { isUnknownScript, RedisStoreError, troubleOf } from './errors.js';
import type { RedisLink } from './link.js';

const FIRST_PAUSE_MS = 10;
const LONGEST_PAUSE_MS = 250;

/** What takes an answer for nothing: it came too late, by the server's clock. */
export const late = Symbol('late');

/** What a call needs of those who make it. */
export interface Caller {
  readonly patienceMs: number;
  /** Where it is connected now. */
  readonly current: RedisLink | undefined;
  connected(): Promise<RedisLink>;
  /** Why nothing is answered, where the client said so: a password is wrong, nobody listens. */
  readonly trouble: unknown;
  /** @throws RedisStoreError where nothing more may be asked */
  began(call: Pending): void;
  ended(call: Pending): void;
  /** The connection has not answered what was asked at that time. */
  unanswered(askedAt: number): void;
}

/** A call that waits for its answer. */
export interface Pending {
  /** What it was asked by has broken: no answer comes any more. */
  lost(): void;
  /** It is not asked again where the error says that this is of no use. */
  failed(error: unknown): void;
}

/** Written with callbacks in place of promises of promises: bench/rows/redis. */
export class PendingCall<T> implements Pending {
  private readonly until: number;
  private readonly timer: ReturnType<typeof setTimeout>;
  private isOver = false;
  private attempts = 0;
  private askedAt = 0;
  private pauseMs = FIRST_PAUSE_MS;
  private knowsScript = true;
  private isPausing = false;
  private wasAsked = false;
  private isAgain = false;

  constructor(
    private readonly caller: Caller,
    /** Asks, for the first time or again, with the whole script where the server does not know it. */
    private readonly ask: (link: RedisLink, leftMs: number, isAgain: boolean, knowsScript: boolean) => Promise<unknown>,
    private readonly take: (answer: unknown) => T | typeof late,
    private readonly resolve: (value: T) => void,
    /** @param mayBeDone whether an attempt was not answered, and may have been carried out */
    private readonly reject: (error: RedisStoreError, mayBeDone: boolean) => void,
  ) {
    this.until = performance.now() + caller.patienceMs;
    this.timer = setTimeout(() => this.silent(), caller.patienceMs);
    try {
      caller.began(this);
      this.attempt();
    } catch (error) {
      this.failed(error);
    }
  }

  lost(): void {
    this.again(undefined);
  }

  private attempt(): void {
    if (this.isOver) return;
    this.isPausing = false;
    this.attempts += 1;
    const attempt = this.attempts;
    const { current } = this.caller;
    const failed = (error: unknown) => {
      if (attempt === this.attempts) this.failed(error);
    };
    if (current === undefined) {
      this.askedAt = performance.now();
      (async () => this.caller.connected())().then((link) => this.askAt(link, failed), failed);
    } else this.askAt(current, failed);
  }

  private askAt(link: RedisLink, failed: (error: unknown) => void): void {
    if (this.isOver) return;
    const now = performance.now();
    this.askedAt = now;
    // Any answer counts, also that of an earlier attempt.
    this.isAgain = this.wasAsked;
    this.wasAsked = true;
    try {
      const asked = this.ask(link, this.until - now, this.isAgain, this.knowsScript);
      asked.then((answer) => this.answered(answer), failed);
    } catch (error) {
      failed(error);
    }
  }

  private answered(answer: unknown): void {
    if (this.isOver) return;
    let taken: T | typeof late;
    try {
      taken = this.take(answer);
    } catch (error) {
      this.giveUp(new RedisStoreError('failed', { cause: error }));
      return;
    }
    // By now it is known how far the server's clock is ahead.
    if (taken === late) this.again(undefined);
    else {
      this.end();
      this.resolve(taken);
    }
  }

  failed(error: unknown): void {
    if (this.isOver) return;
    const { problem, isPassing } = troubleOf(error);
    if (isUnknownScript(error)) {
      this.knowsScript = false;
      // This attempt has done nothing; one before it may have.
      this.wasAsked = this.isAgain;
      this.attempt();
    } else if (error instanceof RedisStoreError) this.giveUp(error);
    else if (!isPassing) this.giveUp(new RedisStoreError(problem, { cause: error }), this.isAgain);
    else {
      this.again(problem === 'unreachable' ? undefined : new RedisStoreError(problem, { cause: error }));
      // It may replace the connection, by which all that still wait are lost.
      this.caller.unanswered(this.askedAt);
    }
  }

  private again(error: RedisStoreError | undefined): void {
    if (this.isOver || this.isPausing) return;
    if (performance.now() + this.pauseMs >= this.until) {
      this.giveUp(error ?? this.unreachable());
      return;
    }
    // What comes of the attempt before is no failure any more.
    this.attempts += 1;
    this.isAgain = this.wasAsked;
    this.isPausing = true;
    setTimeout(() => this.attempt(), this.pauseMs);
    this.pauseMs = Math.min(this.pauseMs * 2, LONGEST_PAUSE_MS);
  }

  private silent(): void {
    if (this.isOver) return;
    this.caller.unanswered(this.askedAt);
    this.giveUp(this.unreachable());
  }

  private unreachable(): RedisStoreError {
    const { trouble } = this.caller;
    if (trouble === undefined) return new RedisStoreError('unreachable');
    const { problem } = troubleOf(trouble);
    return new RedisStoreError(problem === 'refused' ? problem : 'unreachable', { cause: trouble });
  }

  private giveUp(error: RedisStoreError, mayBeDone = this.wasAsked): void {
    this.end();
    this.reject(error, mayBeDone);
  }

  private end(): void {
    this.isOver = true;
    clearTimeout(this.timer);
    this.caller.ended(this);
  }
}
