/** Calling a platform: given up where it does not answer in time, and tried again where that cannot do it twice. */
import { isThenable, type MaybePromise, pause, promptly, TooLate, waitFor } from '../base/thenable.js';
import type { DeliveryCode } from '../contract/codes.js';
import { isPlatformError, type Platform, PlatformError } from '../contract/platform.js';
import type { DeliveryServices } from './conversation.js';

const ATTEMPTS = 5;
const FIRST_PAUSE_MS = 500;
/** A platform that asks for more patience than this is not waited for. */
const LONGEST_PAUSE_MS = 60_000;
/** Of a platform's reply deadline: what is said instead must still come before it. */
const PART_OF_DEADLINE = 0.5;

/** What one call to a platform needs to know. */
export interface PlatformCalling {
  readonly platform: Pick<Platform, 'name' | 'capabilities'>;
  readonly services: Pick<DeliveryServices, 'clock' | 'platformPatienceMs'>;
  /** How many calls in a row were given up: each is waited for half as long as the one before, so that all end soon. */
  silences: number;
  /** The platform's reply deadline counts no more. */
  readonly isHeld: boolean;
}

/**
 * A platform's answer, which was not at hand, or that none came in time, so that it may have been done all the same. The
 * time began at `since`.
 */
export async function answerInTime<T>(
  calling: PlatformCalling,
  pending: Promise<T>,
  since: number,
  withinMs = Number.POSITIVE_INFINITY,
): Promise<T> {
  const { clock, platformPatienceMs } = calling.services;
  const { capabilities, name } = calling.platform;
  const { replyDeadlineMs = Number.POSITIVE_INFINITY } = capabilities;
  const beforeDeadlineMs = calling.isHeld ? Number.POSITIVE_INFINITY : replyDeadlineMs * PART_OF_DEADLINE;
  const longestMs = Math.min(platformPatienceMs, beforeDeadlineMs, withinMs);
  const patienceMs = Math.floor(longestMs / 2 ** calling.silences);
  try {
    const answer = await waitFor(clock, pending, patienceMs, since);
    calling.silences = 0;
    return answer;
  } catch (error) {
    calling.silences = error instanceof TooLate ? calling.silences + 1 : 0;
    if (!(error instanceof TooLate)) throw error;
    const message = `${name} gave no answer within ${patienceMs} ms`;
    throw new PlatformError('platform.unreachable', message, { cause: error, mayHaveArrived: true });
  }
}

/**
 * Tries again what has failed with `error`, where it surely did not arrive, or has a key by which the platform knows it.
 *
 * @throws what the first attempt threw that may have arrived; else what the last one threw
 */
export async function retry<T>(
  calling: PlatformCalling,
  error: unknown,
  attempt: () => MaybePromise<T>,
  key?: string,
): Promise<T> {
  const isKeyed = key !== undefined && calling.platform.capabilities.idempotencyKeys === true;
  let last = error;
  let lost: unknown;
  for (let tried = 1; tried < ATTEMPTS && mayTryAgain(last, isKeyed); tried++) {
    const hint = (last as PlatformError).retryAfterMs ?? 0;
    if (hint > LONGEST_PAUSE_MS) break;
    await pause(calling.services.clock, Math.max(hint, FIRST_PAUSE_MS * 2 ** (tried - 1)));
    // What may stand there stands there, whatever is said of a later attempt.
    if (mayHaveArrived(last)) lost ??= last;
    try {
      return await attemptOnce(calling, attempt);
    } catch (next) {
      last = next;
    }
  }
  throw lost ?? last;
}

/** Once, and then again where that is safe. */
export async function attempting<T>(
  calling: PlatformCalling,
  attempt: () => MaybePromise<T>,
  key?: string,
): Promise<T> {
  try {
    return await attemptOnce(calling, attempt);
  } catch (error) {
    return retry(calling, error, attempt, key);
  }
}

/** Rejects what the platform throws at once, too. */
export async function attemptOnce<T>(
  calling: PlatformCalling,
  attempt: () => MaybePromise<T>,
  withinMs?: number,
): Promise<T> {
  let given: MaybePromise<T>;
  try {
    given = attempt();
  } catch (error) {
    throw thrownAtOnce(error);
  }
  if (!isThenable(given)) return given;
  const since = calling.services.clock.now();
  return promptly(
    given,
    (value) => value,
    (pending) => answerInTime(calling, pending, since, withinMs),
  );
}

/** What is thrown at once was not done. */
export function thrownAtOnce(error: unknown): PlatformError {
  return isPlatformError(error)
    ? error
    : new PlatformError('platform.failed', 'The platform threw at once', { cause: error });
}

/** Why a platform did not take something. */
export function deliveryCodeOf(error: unknown): DeliveryCode {
  return isPlatformError(error) ? error.code : 'platform.failed';
}

/** Whether it may have been done all the same. An error that is not of a platform's kind says nothing. */
export function mayHaveArrived(error: unknown): boolean {
  return !isPlatformError(error) || error.mayHaveArrived;
}

const hopeless: ReadonlySet<DeliveryCode> = new Set(['platform.forbidden', 'platform.gone']);

/** A platform that gave no answer once is not waited for again and again. */
function mayTryAgain(error: unknown, isKeyed: boolean): boolean {
  if (isPlatformError(error) && (error.cause instanceof TooLate || hopeless.has(error.code))) return false;
  return isKeyed || !(mayHaveArrived(error) || deliveryCodeOf(error) === 'platform.failed');
}
