/** Where several processes are handed the same events: the one that is first to write an event's id into the store takes it. */
import { andThen, isThenable, type MaybePromise, patiently } from '../base/thenable.js';
import type { OutagePolicy } from '../commands/cooldowns.js';
import type { Input } from '../contract/input.js';
import type { Platform } from '../contract/platform.js';
import type { Store } from '../contract/store.js';
import type { SparseLog } from '../observe/sparse-log.js';
import type { Basis } from './basis.js';
import type { MatchResult } from './match-result.js';
import { eventOf } from './recent.js';
import { refused } from './stop.js';

const PREFIX = 'events/';
/** As long as ids are remembered in memory. */
const KEPT_MS = 20 * 60_000;

export interface ClaimNeeds {
  readonly store: Store;
  readonly storePatienceMs: number;
  /** What is done while the store does not answer, and who is told of it. */
  readonly outagePolicy: OutagePolicy;
  readonly outages: SparseLog;
}

/**
 * Where the command's name begins, unless another process has the event; a refusal where nobody knows.
 *
 * @param looks leaves the event to others
 */
export function claimed(
  basis: Basis,
  needs: ClaimNeeds,
  input: Input,
  platform: Platform | undefined,
  looks: boolean,
  nameAt: number,
): MaybePromise<MatchResult> {
  const { store, storePatienceMs } = needs;
  const key = PREFIX + eventOf(platform?.name ?? '', input);
  const heard = (isOurs: unknown): MatchResult => {
    if (typeof isOurs !== 'boolean')
      return unknownClaim(basis, needs, nameAt, new TypeError('The store gave no yes or no'));
    return isOurs ? nameAt : 'repeated';
  };
  try {
    const isOurs = looks ? isFree(store.read(key)) : store.compareAndSet(key, 0, '1', KEPT_MS);
    if (!isThenable(isOurs)) return heard(isOurs);
    return patiently(basis.clock, isOurs, storePatienceMs).then(heard, (error) =>
      unknownClaim(basis, needs, nameAt, error),
    );
  } catch (error) {
    return unknownClaim(basis, needs, nameAt, error);
  }
}

function isFree(stored: MaybePromise<unknown>): MaybePromise<boolean> {
  return andThen(stored, (value) => value === undefined);
}

/** It may have run elsewhere. */
function unknownClaim(
  basis: Basis,
  { outages, outagePolicy }: ClaimNeeds,
  nameAt: number,
  error: unknown,
): MatchResult {
  const reference = basis.reference();
  outages.tell({ reference, error });
  return outagePolicy === 'allow' ? nameAt : refused({ code: 'store.unavailable', parameters: { reference } });
}
