/** One call on its way: asked again where it may have been lost, for as long as its patience lasts. */
import { isUnknownScript, RedisStoreError, troubleOf } from './errors.js';
import type { Link } from './link.js';

const FIRST_PAUSE_MS = 10;
const LONGEST_PAUSE_MS = 250;

/** What takes an answer for nothing: it came too late, by the server's clock. */
export const late = Symbol('late');

/** What a call needs of those who make it. */
export interface Caller {
  readonly patienceMs: number;
  /** Where it is connected now. */
  readonly current: Link | undefined;
  connected(): Promise<Link>;
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
}

/** Written with callbacks in place of promises of promises: bench/rows/redis. */
export class Call<T> implements Pending {
  private readonly until: number;
  private readonly timer: ReturnType<typeof setTimeout>;
  private isOver = false;
  private attempts = 0;
  private askedAt = 0;
  private pauseMs = FIRST_PAUSE_MS;
  private knowsScript = true;
  private isPausing = false;
  private wasAsked = false;

  constructor(
    private readonly caller: Caller,
    /** Asks, for the first time or again, with the whole script where the server does not know it. */
    private readonly ask: (link: Link, leftMs: number, isAgain: boolean, knowsScript: boolean) => Promise<unknown>,
    private readonly take: (answer: unknown) => T | typeof late,
    private readonly resolve: (value: T) => void,
    private readonly reject: (error: unknown) => void,
  ) {
    this.until = performance.now() + caller.patienceMs;
    this.timer = setTimeout(() => this.silent(), caller.patienceMs);
    try {
      caller.began(this);
      this.attempt();
    } catch (error) {
      this.end();
      reject(error);
    }
  }

  lost(): void {
    if (!this.isPausing) this.again(undefined);
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
      this.caller.connected().then((link) => this.askAt(link, failed), failed);
    } else this.askAt(current, failed);
  }

  private askAt(link: Link, failed: (error: unknown) => void): void {
    if (this.isOver) return;
    const now = performance.now();
    this.askedAt = now;
    // Any answer counts, also that of an earlier attempt.
    const isAgain = this.wasAsked;
    this.wasAsked = true;
    this.ask(link, this.until - now, isAgain, this.knowsScript).then((answer) => this.answered(answer), failed);
  }

  private answered(answer: unknown): void {
    if (this.isOver) return;
    const taken = this.take(answer);
    // By now it is known how far the server's clock is ahead.
    if (taken === late) this.again(undefined);
    else {
      this.end();
      this.resolve(taken);
    }
  }

  private failed(error: unknown): void {
    if (this.isOver) return;
    const { problem, isPassing } = troubleOf(error);
    if (isUnknownScript(error)) {
      this.knowsScript = false;
      this.wasAsked = false;
      this.attempt();
    } else if (error instanceof RedisStoreError) this.giveUp(error);
    else if (!isPassing) this.giveUp(new RedisStoreError(problem, { cause: error }));
    else {
      this.caller.unanswered(this.askedAt);
      this.again(new RedisStoreError(problem, { cause: error }));
    }
  }

  private again(error: RedisStoreError | undefined): void {
    if (this.isOver) return;
    if (performance.now() + this.pauseMs >= this.until) {
      this.giveUp(error ?? new RedisStoreError('unreachable'));
      return;
    }
    // What comes of the attempt before is no failure any more.
    this.attempts += 1;
    this.isPausing = true;
    setTimeout(() => this.attempt(), this.pauseMs);
    this.pauseMs = Math.min(this.pauseMs * 2, LONGEST_PAUSE_MS);
  }

  private silent(): void {
    if (this.isOver) return;
    this.caller.unanswered(this.askedAt);
    this.giveUp(new RedisStoreError('unreachable'));
  }

  private giveUp(error: RedisStoreError): void {
    this.end();
    this.reject(error);
  }

  private end(): void {
    this.isOver = true;
    clearTimeout(this.timer);
    this.caller.ended(this);
  }
}
