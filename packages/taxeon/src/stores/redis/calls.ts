/**
 * Asking the server: a call waits only so long, is asked again where it may have been lost, and counts once all the same.
 * Each has a number, by which the server knows it again, and a time after which it does nothing any more: so what was
 * given up can be undone for sure.
 */
import { randomInt } from 'node:crypto';
import type { Clock } from '../../base/time.js';
import { isUnknownScript, RedisStoreError, troubleOf } from './errors.js';
import type { Link, Linking, Send } from './link.js';
import type { Script } from './scripts.js';

/** What waits for an answer at once. What is beyond is not asked, since a client keeps what it cannot send. */
const MOST_UNANSWERED = 10_000;
const FIRST_PAUSE_MS = 10;
const LONGEST_PAUSE_MS = 250;
/** How old a connection is at least before another takes its place: one that is silent, and one that answers others. */
const LINK_AGAIN_MS = 1000;
const LINK_AGAIN_WHILE_IT_ANSWERS_MS = 5000;
/** For how long a difference of the clocks is believed: it may have changed since. */
const DIFFERENCE_MS = 30_000;
const NONCES = 2 ** 48;

/** The server was asked and did not answer; it may have done it until this time of its own, in microseconds. */
export class Unanswered extends RedisStoreError {
  constructor(
    readonly until: number,
    cause: unknown,
  ) {
    super('unreachable', { cause });
  }
}

/** Nothing came in time. */
const silence = Symbol('silence');
/** The connection has broken meanwhile. */
const lost = Symbol('lost');
/** It came too late, by the server's clock. */
const late = Symbol('late');

export class Calls {
  private link: Link | undefined = undefined;
  private opening: Promise<Link> | undefined = undefined;
  private current: Link | undefined = undefined;
  private linkedAt = Number.NEGATIVE_INFINITY;
  private answeredAt = Number.NEGATIVE_INFINITY;
  /** What the connection has not answered yet. */
  private unanswered = { count: 0 };
  /** Ends the waiting of those whose answer is lost. */
  private readonly waiting = new Set<(error: unknown) => void>();
  private isClosed = false;
  private lastNonce = randomInt(1, NONCES - 1);
  private readonly difference = new Difference();

  constructor(
    private readonly linking: Linking,
    /** In place of the server's. */
    readonly clock: Clock | undefined,
    readonly patienceMs: number,
  ) {}

  get isCluster(): boolean {
    return this.linking.isCluster;
  }

  /** The number of a call. */
  nextNonce(): number {
    this.lastNonce = (this.lastNonce % (NONCES - 1)) + 1;
    return this.lastNonce;
  }

  /**
   * Runs a script where these keys are.
   *
   * @param nonce 0 for what only looks
   * @param given what stands behind the time, the deadline and the number
   * @returns what it gives behind the server's time
   * @throws Unanswered, RedisStoreError
   */
  async run(
    script: Script,
    keys: readonly string[],
    nonce: number,
    given: readonly string[],
  ): Promise<readonly unknown[]> {
    let until = 0;
    const asked = (link: Link, leftMs: number) => {
      const deadline = this.difference.serversTime(Date.now() + leftMs);
      until = Math.max(until, deadline);
      const words = [this.timeGiven(), this.clock === undefined ? String(deadline) : '', String(nonce), ...given];
      return this.evaluate(link, script, keys, words);
    };
    try {
      return await this.patiently(asked);
    } catch (error) {
      if (error instanceof RedisStoreError && error.problem === 'unreachable' && until > 0)
        throw new Unanswered(until, error.cause);
      throw error;
    }
  }

  /** Sends a command to whoever has this key; perhaps twice. */
  send(key: string, words: readonly string[]): Promise<unknown> {
    return this.patiently((link) => link.send(key, words));
  }

  /** All servers that have keys, each of which is waited for only so long. */
  async servers(): Promise<readonly Send[]> {
    const servers = await this.patiently((link) => link.servers());
    return servers.map((send) => (words) => this.patiently(() => send(words)));
  }

  /** The time by the clock that counts, in milliseconds. */
  now(): number {
    return this.clock?.now() ?? this.difference.serversTime(Date.now()) / 1000;
  }

  close(): void {
    this.isClosed = true;
    this.letGo();
  }

  private timeGiven(): string {
    return this.clock === undefined ? '' : String(Math.round(this.clock.now() * 1000));
  }

  /** As often as the patience allows: what the server did not refuse for good is asked again. */
  private async patiently<T>(ask: (link: Link, leftMs: number) => Promise<T>): Promise<T> {
    const begun = performance.now();
    let pauseMs = FIRST_PAUSE_MS;
    for (;;) {
      if (this.isClosed) throw new RedisStoreError('closed');
      if (this.unanswered.count >= MOST_UNANSWERED)
        throw new RedisStoreError('unreachable', { cause: 'too much waits for an answer' });
      const askedAt = performance.now();
      const leftMs = this.patienceMs - (askedAt - begun);
      try {
        const link = this.current ?? (await within(this.linked(), leftMs));
        return await within(this.counted(ask(link, leftMs)), leftMs, this.waiting);
      } catch (error) {
        const isOver = error === silence || performance.now() - begun + pauseMs >= this.patienceMs;
        // By now it is known how far the server's clock is ahead.
        if (error === late && !isOver) continue;
        const { problem, isPassing } = typeof error === 'symbol' ? passing : troubleOf(error);
        if (isPassing && error !== late) this.linkAgain(askedAt);
        if (isOver || !isPassing)
          throw new RedisStoreError(problem, { cause: typeof error === 'symbol' ? undefined : error });
        await new Promise((resolve) => setTimeout(resolve, pauseMs));
        pauseMs = Math.min(pauseMs * 2, LONGEST_PAUSE_MS);
      }
    }
  }

  private async evaluate(
    link: Link,
    { sha, text }: Script,
    keys: readonly string[],
    words: readonly string[],
  ): Promise<readonly unknown[]> {
    const [key = ''] = keys;
    const behind = [String(keys.length), ...keys, ...words];
    const answer = await link.send(key, ['EVALSHA', sha, ...behind]).catch((error: unknown) => {
      if (!isUnknownScript(error)) throw error;
      return link.send(key, ['EVAL', text, ...behind]);
    });
    const [time, ...rest] = answer as readonly unknown[];
    this.difference.learn(Number(time));
    if (rest[0] === 'late') throw late;
    return rest;
  }

  private counted<T>(answer: Promise<T>): Promise<T> {
    const { unanswered } = this;
    unanswered.count += 1;
    return answer.then(
      (value) => {
        unanswered.count -= 1;
        this.answeredAt = performance.now();
        return value;
      },
      (error) => {
        unanswered.count -= 1;
        throw error;
      },
    );
  }

  private linked(): Promise<Link> {
    if (this.opening !== undefined) return this.opening;
    this.linkedAt = performance.now();
    const link = this.linking.open(
      () => undefined,
      () => {
        this.unanswered = { count: 0 };
        for (const give of [...this.waiting]) give(lost);
      },
    );
    const opening = this.meet(link).then(() => {
      if (this.link === link) this.current = link;
      return link;
    });
    opening.catch(() => {
      if (this.link === link) this.letGo();
    });
    this.link = link;
    this.opening = opening;
    return opening;
  }

  /** So that the first call knows the server's time. */
  private async meet(link: Link): Promise<void> {
    await link.ready;
    const servers = await link.servers();
    for (const time of await Promise.all(servers.map((send) => send(['TIME'])))) {
      const [seconds, microseconds] = time as readonly [unknown, unknown];
      this.difference.learn(Number(seconds) * 1e6 + Number(microseconds));
    }
  }

  /** A connection may be dead, and its client not know it. */
  private linkAgain(askedAt: number): void {
    const ageMs = performance.now() - this.linkedAt;
    const atLeastMs = this.answeredAt >= askedAt ? LINK_AGAIN_WHILE_IT_ANSWERS_MS : LINK_AGAIN_MS;
    if (ageMs >= atLeastMs) this.letGo();
  }

  private letGo(): void {
    this.link?.end();
    this.unanswered = { count: 0 };
    this.link = undefined;
    this.opening = undefined;
    this.current = undefined;
  }
}

const passing = { problem: 'unreachable', isPassing: true } as const;

/**
 * How far the server's clock is ahead of this machine's. What is answered late makes it less than it is, so the greatest
 * of the last while counts.
 */
class Difference {
  private greatest = Number.NEGATIVE_INFINITY;
  private before = Number.NEGATIVE_INFINITY;
  private since = 0;

  learn(serverMicroseconds: number): void {
    const now = performance.now();
    if (now - this.since > DIFFERENCE_MS) {
      this.before = this.greatest;
      this.greatest = Number.NEGATIVE_INFINITY;
      this.since = now;
    }
    this.greatest = Math.max(this.greatest, serverMicroseconds / 1000 - Date.now());
  }

  /** In microseconds. */
  serversTime(here: number): number {
    const known = Math.max(this.greatest, this.before);
    return Math.round((here + (known === Number.NEGATIVE_INFINITY ? 0 : known)) * 1000);
  }
}

/** @param waiting where the waiting is kept, so that it can be ended */
function within<T>(promise: Promise<T>, ms: number, waiting?: Set<(error: unknown) => void>): Promise<T> {
  return new Promise((resolve, reject) => {
    waiting?.add(reject);
    const timer = setTimeout(
      () => {
        waiting?.delete(reject);
        reject(silence);
      },
      Math.max(0, ms),
    );
    const end = () => {
      clearTimeout(timer);
      waiting?.delete(reject);
    };
    promise.then(
      (value) => {
        end();
        resolve(value);
      },
      (error) => {
        end();
        reject(error);
      },
    );
  });
}
