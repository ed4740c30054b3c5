/** What every store checks of what it is given. */
import { shown } from '../base/fields.js';

/** @throws RangeError for what is no length of time */
export function lifeOf(expiresInMs: number | undefined): number | undefined {
  if (expiresInMs === undefined || expiresInMs >= 1) return expiresInMs;
  throw new RangeError(`A value is to expire in ${shown(expiresInMs)} ms; give at least 1, or nothing for never`);
}

/** @throws RangeError where either is no number */
export function sumOf(kept: string | undefined, by: number): number {
  const sum = (kept === undefined ? 0 : Number(kept)) + by;
  if (kept?.trim() !== '' && Number.isFinite(sum)) return sum;
  throw new RangeError(`${shown(by)} cannot be added to ${shown(kept)}`);
}
