/** What every store checks of what it is given. */
import { shown } from '../base/fields.js';

/**
 * For how long a store keeps a value, in milliseconds; `undefined` is for ever.
 *
 * @throws RangeError for what is no length of time
 *
 * @example
 * const endsAt = Date.now() + (lifeOf(60_000) ?? Number.POSITIVE_INFINITY);
 */
export function lifeOf(expiresInMs: number | undefined): number | undefined {
  if (expiresInMs === undefined || expiresInMs >= 1) return expiresInMs;
  throw new RangeError(`A value is to expire in ${shown(expiresInMs)} ms; give at least 1, or nothing for never`);
}

/**
 * What a store's count is when something was added to it.
 *
 * @param kept the value that the store has
 * @throws RangeError where either is no number
 *
 * @example
 * sumOf('3', 2); // 5
 */
export function sumOf(kept: string | undefined, by: number): number {
  const sum = (kept === undefined ? 0 : Number(kept)) + by;
  if (kept?.trim() !== '' && Number.isFinite(sum)) return sum;
  throw new RangeError(`${shown(by)} cannot be added to ${shown(kept)}`);
}
