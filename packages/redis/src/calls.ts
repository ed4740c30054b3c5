/**
 * Asking the server: a call waits only so long, is asked again where it may have been lost, and counts once all the same.
 * Each has a number, by which the server knows it again, and a time after which it does nothing any more: so what was
 * given up can be undone for sure.
 */

import { randomInt } from 'node:crypto';
import type { Clock } from 'taxeon';
import { RedisStoreError, troubleOf } from './errors.js';
import type { Linking, RedisLink, SendCommand } from './link.js';
import { type Caller, late, type Pending, PendingCall } from './pending-call.js';
import type { Script } from './scripts.js';

/** What waits for an answer at once. What is beyond is not asked, since a client keeps what it cannot send. */
const MOST_UNANSWERED = 10_000;
/** How old a connection is at least before another takes its place: one that is silent, and one that answers others. */
const LINK_AGAIN_MS = 1000;
const LINK_AGAIN_WHILE_IT_ANSWERS_MS = 5000;
const NONCES = 2 ** 40;

/** The server was asked and did not answer, whatever it said later; it may have done it until this time of its own, in microseconds. */
export class Unanswered extends RedisStoreError {
  constructor(
    { problem, cause }: RedisStoreError,
    readonly until: number,
  ) {
    super(problem, { cause });
  }
}

export class Calls implements Caller {
  current: RedisLink | undefined = undefined;
  trouble: unknown = undefined;
  private link: RedisLink | undefined = undefined;
  private opening: Promise<RedisLink> | undefined = undefined;
  private linkedAt = Number.NEGATIVE_INFINITY;
  private answeredAt = Number.NEGATIVE_INFINITY;
  private readonly pending = new Set<Pending>();
  private isClosed = false;
  private lastNonce = randomInt(1, NONCES - 1);
  private readonly difference = new ClockDifference();

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
   * @returns what it gives, behind the server's time
   * @throws Unanswered, RedisStoreError
   */
  run(script: Script, keys: readonly string[], nonce: number, given: readonly string[]): Promise<readonly unknown[]> {
    return new Promise((resolve, reject) => {
      const [key = ''] = keys;
      let until = 0;
      new PendingCall(
        this,
        (link, leftMs, isAgain, knowsScript) => {
          const deadline = this.difference.serversTime(performance.now() + leftMs);
          if (deadline > until) until = deadline;
          const words = knowsScript ? ['EVALSHA', script.sha] : ['EVAL', script.text];
          words.push(String(keys.length), ...keys, this.timeGiven(), this.clock === undefined ? String(deadline) : '');
          // Below 0 where it may have been carried out already.
          words.push(String(isAgain ? -nonce : nonce), ...given);
          return link.send(key, words);
        },
        (answer) => this.taken(answer),
        resolve,
        (error, mayBeDone) => reject(mayBeDone ? new Unanswered(error, until) : error),
      );
    });
  }

  /** Sends a command to the server that has this key; perhaps twice. */
  send(key: string, words: readonly string[]): Promise<unknown> {
    return this.asked((link) => link.send(key, words));
  }

  /** All servers that have keys, each of which is waited for only so long. */
  async servers(): Promise<readonly SendCommand[]> {
    const servers = await this.asked((link) => link.servers());
    return servers.map((send) => (words) => this.asked(() => send(words)));
  }

  /** The time by the clock that counts, in milliseconds. */
  now(): number {
    return this.clock?.now() ?? this.difference.serversTime(performance.now()) / 1000;
  }

  close(): void {
    this.isClosed = true;
    this.letGo();
  }

  connected(): Promise<RedisLink> {
    if (this.isClosed) return Promise.reject(new RedisStoreError('closed'));
    if (this.opening !== undefined) return this.opening;
    this.linkedAt = performance.now();
    const link = this.linking.open(
      (error) => {
        if (error instanceof Error) this.troubled(error);
      },
      () => this.lose(),
    );
    const opening = this.meet(link).then(() => {
      if (this.link === link) this.current = link;
      return link;
    });
    // Those who wait for it are told why; nobody else waits.
    opening.catch(() => {
      if (this.link === link) this.drop();
    });
    this.link = link;
    this.opening = opening;
    return opening;
  }

  began(call: Pending): void {
    if (this.isClosed) throw new RedisStoreError('closed');
    if (this.pending.size >= MOST_UNANSWERED)
      throw new RedisStoreError('unreachable', { cause: new Error(`${MOST_UNANSWERED} calls wait for an answer`) });
    this.pending.add(call);
  }

  ended(call: Pending): void {
    this.pending.delete(call);
  }

  /** The connection may be dead, and its client not know it. */
  unanswered(askedAt: number): void {
    const ageMs = performance.now() - this.linkedAt;
    const atLeastMs = this.answeredAt >= askedAt ? LINK_AGAIN_WHILE_IT_ANSWERS_MS : LINK_AGAIN_MS;
    if (ageMs >= atLeastMs) this.letGo();
  }

  private asked<T>(ask: (link: RedisLink) => Promise<T>): Promise<T> {
    return new Promise((resolve, reject) => {
      const take = (answer: unknown) => {
        this.heard();
        return answer as T;
      };
      new PendingCall(this, ask, take, resolve, reject);
    });
  }

  /** @throws TypeError for what no script gives */
  private taken(answer: unknown): readonly unknown[] | typeof late {
    if (!Array.isArray(answer) || !Number.isFinite(Number(answer[0]))) throw new TypeError('The answer is no list');
    this.heard();
    this.difference.learn(Number(answer[0]));
    return answer[1] === 'late' ? late : answer;
  }

  private heard(): void {
    this.answeredAt = performance.now();
    this.trouble = undefined;
  }

  private timeGiven(): string {
    return this.clock === undefined ? '' : String(Math.round(this.clock.now() * 1000));
  }

  /** So that the first call knows the server's time. Of a cluster one server is enough: another may be away. */
  private async meet(link: RedisLink): Promise<void> {
    await link.ready;
    const servers = await link.servers();
    const met = servers.map(async (send) => {
      const [seconds, microseconds] = (await send(['TIME'])) as readonly [unknown, unknown];
      this.difference.learn(Number(seconds) * 1e6 + Number(microseconds));
    });
    await Promise.any(met).catch(({ errors: [first] }: AggregateError) => {
      throw first;
    });
  }

  /** A client that is not let in may try for ever, and its connection never be open. */
  private troubled(error: Error): void {
    this.trouble = error;
    if (this.current !== undefined || troubleOf(error).problem !== 'refused') return;
    for (const call of [...this.pending]) call.failed(error);
  }

  private letGo(): void {
    this.drop();
    this.lose();
  }

  private drop(): void {
    this.link?.end();
    this.link = undefined;
    this.opening = undefined;
    this.current = undefined;
  }

  /** What was asked is not answered any more: it is asked again. */
  private lose(): void {
    for (const call of [...this.pending]) call.lost();
  }
}

/** For so long a difference of the clocks is believed: it may have changed since. */
const BELIEVED_MS = 30_000;

/**
 * How far the server's clock is ahead of this process's, which no step of the machine's time of day moves. What is
 * answered late makes it less than it is, so the greatest of the last while counts.
 */
class ClockDifference {
  private greatest = Number.NEGATIVE_INFINITY;
  private before = Number.NEGATIVE_INFINITY;
  private since = 0;

  learn(serverMicroseconds: number): void {
    const now = performance.now();
    const ahead = serverMicroseconds / 1000 - now;
    if (now - this.since > BELIEVED_MS) {
      this.before = this.greatest;
      this.greatest = ahead;
      this.since = now;
    } else if (ahead > this.greatest) this.greatest = ahead;
  }

  /** What the server's clock shows when this process's shows that, in microseconds. */
  serversTime(here: number): number {
    const known = Math.max(this.greatest, this.before);
    return Math.round((here + (known === Number.NEGATIVE_INFINITY ? 0 : known)) * 1000);
  }
}
