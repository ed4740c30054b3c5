/** The contract between the layer and whatever remembers uses. */
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
  /** The store's time of the use, in milliseconds; what `giveBack` is told. */
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

/**
 * Remembers uses. `limits[i]` is counted under `keys[i]`; both lists are as long.
 * Time never goes back: a store whose clock steps back goes on from the latest time it has seen.
 */
export interface Store {
  /** Takes one use of every limit, or of none. */
  acquire(limits: readonly Limit[], keys: readonly string[]): MaybePromise<Verdict>;
  /** What `acquire` would say now; takes nothing. */
  look(limits: readonly Limit[], keys: readonly string[]): MaybePromise<Verdict>;
  /** Undoes the use that was taken `at` that time; nothing where it is gone already. */
  giveBack(limits: readonly Limit[], keys: readonly string[], at: number): MaybePromise<void>;
  /** The value under a key. */
  read(key: string): MaybePromise<Versioned | undefined>;
  /**
   * Writes a value, if the key's version is still the expected one; 0 expects that there is none.
   *
   * @returns whether it was written
   */
  compareAndSet(key: string, expected: number, value: string): MaybePromise<boolean>;
}
