/** What a call has taken of its limits, so that it can be settled. */
import type { Counted } from '../catalogue/compile-limits.js';
import type { Limit } from '../contract/store.js';

export interface TakenUses {
  readonly counted: readonly Counted[];
  readonly limits: readonly Limit[];
  readonly keys: readonly string[];
  readonly costs: readonly number[] | undefined;
  /** The store's time of the uses. */
  readonly at: number;
  /** The time of each, where they differ. */
  readonly each: readonly number[] | undefined;
}
