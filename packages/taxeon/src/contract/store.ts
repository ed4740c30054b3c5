/** The contract between the layer and whatever remembers uses, values and messages. */
import type { MaybePromise } from '../base/thenable.js';

/** How many uses a key may have in any window `(t − windowMs, t]`, by the store's clock. */
export interface Limit {
  /** Distinguishes the limit in the store: `irc/induct/user`. */
  readonly id: string;
  readonly uses: number;
  readonly windowMs: number;
}

/** A store’s yes: a use was taken of every limit. */
export interface Grant {
  readonly granted: true;
  /** The store's time of the uses, in milliseconds: what `giveBack` and `renew` are told. No other use of the same key has it. */
  readonly at: number;
  /** Where limits are counted on several machines, the time of each, in place of `at`. */
  readonly each?: readonly number[];
}

/** What was granted of one limit: `cost` uses at the time `at`. */
export interface Use {
  readonly limit: Limit;
  readonly key: string;
  readonly cost: number;
  readonly at: number;
}

/** What a store tells of uses that were renewed. */
export interface Renewed {
  /** The new time of all that still count. */
  readonly at: number;
  /** Where they are counted on several machines, the time of each, in place of `at`. */
  readonly each?: readonly number[];
  /** Which do not, by index: they had run out, and others took their place. */
  readonly lost: readonly number[];
}

/** A store’s no: some limit is used up. */
export interface Denial {
  readonly granted: false;
  /** Which of the limits said no; where several did, the one that ends last. */
  readonly index: number;
  /** From now to `endsAt`, in whole milliseconds, at least 1. */
  readonly retryAfterMs: number;
  /** When the limit would grant again by the time of day, in milliseconds since 1970-01-01 UTC. */
  readonly endsAt: number;
}

/** What a store answers where uses are asked for. */
export type Verdict = Grant | Denial;

/** A value of a store, with what it takes to change it. */
export interface Versioned {
  readonly value: string;
  /** From 1 on; another with each writing, and never the same again under one key, also after the value was gone. */
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
 * Remembers uses, values and messages. A store of one's own is proved by `storeTrials` of `@taxeon/testing/trials`.
 *
 * `limits[i]` is counted under `keys[i]` and takes `costs[i]` uses; all lists are as long, and without
 * `costs` each takes one. Whatever its clock does, no wait is longer than the window, and a time that is kept and is
 * later than now counts as now. Where a limit comes with another window or another number of uses than before, those
 * that still counted for a key when it is first asked for count on, from their own times. A store that cannot answer
 * throws or rejects, or does not settle; the layer waits only so long.
 */
export interface Store {
  /** Whether what it keeps is there when the process starts again. */
  readonly outlivesProcess?: boolean;
  /** Takes the uses of every limit, or of none. */
  acquire(limits: readonly Limit[], keys: readonly string[], costs?: readonly number[]): MaybePromise<Verdict>;
  /** What `acquire` would say now; takes nothing. */
  look(limits: readonly Limit[], keys: readonly string[], costs?: readonly number[]): MaybePromise<Verdict>;
  /** Undoes uses; nothing where they are gone already, so that it may come a second time. */
  giveBack(uses: readonly Use[]): MaybePromise<void>;
  /** Makes uses count for another window from now on; those that have run out are taken again where there is room. */
  renew(uses: readonly Use[]): MaybePromise<Renewed>;
  /** All keys with live uses, in no order, a page at a time: a look at millions holds nobody up. */
  live(): AsyncIterable<readonly LiveLimit[]>;
  /** Forgets a key's uses; whether there were any. */
  reset(id: string, key: string): MaybePromise<boolean>;

  /** The value under a key. */
  read(key: string): MaybePromise<Versioned | undefined>;
  /**
   * Writes a value, if the key's version is still the expected one; 0 expects that there is none.
   *
   * @param expiresInMs after how long the value is gone, at least 1; never by default
   * @returns whether it was written
   */
  compareAndSet(key: string, expected: number, value: string, expiresInMs?: number): MaybePromise<boolean>;
  /** Adds to a number and gives the sum. A key that was not there begins at 0; rejects where there is a text. */
  increment(key: string, by: number): MaybePromise<number>;

  /** All values whose keys begin so, in no order: `[key, value]`. */
  entries(prefix: string): MaybePromise<readonly (readonly [key: string, value: string])[]>;

  /** Tells all who have subscribed to a topic, in every process that shares the store. */
  publish(topic: string, message: string): MaybePromise<void>;
  /**
   * @param missed called where messages may have been lost, such as when a connection was gone for a while
   * @returns ends the subscription
   */
  subscribe(topic: string, listener: (message: string) => void, missed?: () => void): () => void;
  /** Lets go of files, connections and timers. */
  close(): MaybePromise<void>;
}
