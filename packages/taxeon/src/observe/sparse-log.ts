/** Once a minute, for what may happen many times a second. */
import { BoundedMap } from '../base/bounded-map.js';
import type { Clock } from '../base/time.js';
import type { Log } from '../contract/log.js';

const ONCE_A_MS = 60_000;
const MOST_KEYS = 10_000;

/** Whether something may be told: once a minute for each key. */
export type OnceAMinute = (key: string) => boolean;

export function onceAMinute(clock: Clock): OnceAMinute {
  const told = new BoundedMap<string, number>(MOST_KEYS);
  return (key) => {
    const now = clock.now();
    const last = told.get(key);
    if (last !== undefined && now >= last && now - last < ONCE_A_MS) return false;
    told.set(key, now);
    return true;
  };
}

/** A log of one message, once a minute at most. */
export interface SparseLog {
  /** The next line says how many were left out since. */
  tell(fields: Readonly<Record<string, unknown>>): void;
}

/**
 * One log line a minute, for what strangers can make happen many times a second.
 *
 * @example
 * const refused = sparseLog(safeLog(), systemClock, 'A post was refused', 'warn');
 * refused.tell({ reason: 'it is too long' });
 */
export function sparseLog(
  log: Log,
  clock: Clock,
  message: string,
  level: 'error' | 'warn' | 'info' = 'error',
): SparseLog {
  const mayTell = onceAMinute(clock);
  let unlogged = 0;
  return {
    tell(fields) {
      if (!mayTell('')) {
        unlogged += 1;
        return;
      }
      log[level]?.({ ...fields, alsoSince: unlogged }, message);
      unlogged = 0;
    },
  };
}
