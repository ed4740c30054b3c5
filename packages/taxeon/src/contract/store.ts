/** The contract between the layer and whatever remembers uses, values and messages. */
import type { MaybePromise } from '../base/thenable.js';

/** How many uses a key may have in any window `(t − windowMs, t]`, by the store's clock. */
export interface Limit {
  /** Distinguishes the limit in the store: `irc/induct/user`. */
  readonly id: string;
  readonly uses: number;
  readonly windowMs: number;
}

export interface Grant {
  readonly granted: true;
  /** The store's time of the uses, in milliseconds; what `giveBack` is told. */
  readonly at: number;
}

export interface Denial {
  readonly granted: false;
  /** Which of the limits said no; where several did, the one that ends last. */
  readonly index: number;
  /** From now to `endsAt`, at least 1. */
  readonly retryAfterMs: number;
  /** When the limit would grant again, in milliseconds since 1970-01-01 UTC. */
  readonly endsAt: number;
}

export type Verdict = Grant | Denial;

/** A value with the number of times it was written. */
export interface Versioned {
  readonly value: string;
  readonly version: number;
}

/** A key with uses that still count. */
export interface LiveLimit {
  readonly id: string;
  readonly key: string;
  readonly uses: number;
  /** When the last of them stops counting, in milliseconds since 1970-01-01 UTC. */
  readonly endsAt: number;
}

/**
 * Remembers uses, values and messages. A store of one's own is proved by `storeTrials` of `taxeon/testing`.
 *
 * `limits[i]` is counted under `keys[i]` and takes `costs[i]` uses; all lists are as long, and without
 * `costs` each takes one. Time never goes back: a store whose clock steps back goes on from the latest
 * time it has seen. A store that cannot answer throws or rejects, or does not settle; the layer waits
 * only so long.
 */
export interface Store {
  /** Takes the uses of every limit, or of none. */
  acquire(limits: readonly Limit[], keys: readonly string[], costs?: readonly number[]): MaybePromise<Verdict>;
  /** What `acquire` would say now; takes nothing. */
  look(limits: readonly Limit[], keys: readonly string[], costs?: readonly number[]): MaybePromise<Verdict>;
  /** Undoes the uses that were taken `at` that time; nothing where they are gone already. */
  giveBack(
    limits: readonly Limit[],
    keys: readonly string[],
    at: number,
    costs?: readonly number[],
  ): MaybePromise<void>;
  /** All keys with live uses, in no order. */
  live(): MaybePromise<readonly LiveLimit[]>;
  /** Forgets a key's uses; whether there were any. */
  reset(id: string, key: string): MaybePromise<boolean>;

  /** The value under a key. */
  read(key: string): MaybePromise<Versioned | undefined>;
  /**
   * Writes a value, if the key's version is still the expected one; 0 expects that there is none.
   *
   * @param expiresInMs after how long the value is gone; never by default
   * @returns whether it was written
   */
  compareAndSet(key: string, expected: number, value: string, expiresInMs?: number): MaybePromise<boolean>;
  /** Adds to a number and gives the sum. A key that was not there begins at 0. */
  increment(key: string, by: number): MaybePromise<number>;

  /** All values whose keys begin so, in no order: `[key, value]`. */
  entries(prefix: string): MaybePromise<readonly (readonly [key: string, value: string])[]>;

  /** Tells all who have subscribed to a topic, in every process that shares the store. */
  publish(topic: string, message: string): MaybePromise<void>;
  /** @returns ends the subscription */
  subscribe(topic: string, listener: (message: string) => void): () => void;
  /** Lets go of files, connections and timers. */
  close(): MaybePromise<void>;
}
