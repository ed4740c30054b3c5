/** Trying again what a platform did not take, for as long as that cannot do it twice. */
import type { MaybePromise } from '../base/thenable.js';
import { after, type Clock } from '../base/time.js';
import type { DeliveryCode } from '../contract/codes.js';
import { isPlatformError, type Platform, type PlatformError } from '../contract/platform.js';

const ATTEMPTS = 5;
const FIRST_PAUSE_MS = 500;
/** A platform that asks for more patience than this is not waited for. */
const LONGEST_PAUSE_MS = 60_000;

/**
 * Tries again what has failed with `error`.
 *
 * @throws whatever the last attempt threw
 */
export async function retry<T>(
  clock: Clock,
  platform: Platform,
  error: unknown,
  attempt: () => MaybePromise<T>,
): Promise<T> {
  let last = error;
  for (let tried = 1; tried < ATTEMPTS && mayTryAgain(platform, last); tried++) {
    const hint = (last as PlatformError).retryAfterMs ?? 0;
    if (hint > LONGEST_PAUSE_MS) break;
    await pause(clock, Math.max(hint, FIRST_PAUSE_MS * 2 ** (tried - 1)));
    try {
      return await attempt();
    } catch (next) {
      last = next;
    }
  }
  throw last;
}

/** Once, and then again where that is safe. */
export async function attempting<T>(clock: Clock, platform: Platform, attempt: () => MaybePromise<T>): Promise<T> {
  try {
    return await attempt();
  } catch (error) {
    return retry(clock, platform, error, attempt);
  }
}

/** Why a platform did not take something. */
export function deliveryCodeOf(error: unknown): DeliveryCode {
  return isPlatformError(error) ? error.code : 'platform.failed';
}

function mayTryAgain({ capabilities }: Platform, error: unknown): boolean {
  if (!isPlatformError(error)) return capabilities.idempotencyKeys === true;
  if (error.code === 'platform.forbidden' || error.code === 'platform.gone') return false;
  if (error.mayHaveArrived || error.code === 'platform.failed') return capabilities.idempotencyKeys === true;
  return true;
}

function pause(clock: Clock, ms: number): Promise<void> {
  return new Promise((done) => void after(clock, ms, done));
}
