/** Calls to a place where commands are registered: each in its time, again where that may help, told while it waits. */
import { inTime, pause, TooLate } from '../base/thenable.js';
import { type Clock, durationInWords } from '../base/time.js';
import { isPlatformError, PlatformError } from '../contract/platform.js';
import { Conflict } from '../contract/registrar.js';
import { RegistrationError } from './errors.js';

/** One step of registering, as it is told on the way. */
export interface RegistrationStep {
  readonly scope: string;
  readonly done: 'created' | 'updated' | 'removed' | 'kept' | 'waiting';
  /** The command, where it is about one. */
  readonly name: string;
  /** What is waited for and how long, or why a command is kept, in words for a person. */
  readonly note: string;
}

/** That nobody else registers meanwhile. */
export interface Claim {
  /** @throws RegistrationError where another process has it by now */
  renew(): Promise<void>;
  release(): Promise<void>;
}

export interface RegistrarCalling {
  readonly clock: Clock;
  onProgress?(step: RegistrationStep): void;
}

/** How long one call to the platform may take. */
const CALL_PATIENCE_MS = 30_000;
const ATTEMPTS = 8;
const FIRST_PAUSE_MS = 500;
const LONGEST_PAUSE_MS = 5 * 60_000;
/** A person who waits wants to be told that it goes on. */
const TOLD_EVERY_MS = 30_000;

/** A call that reads. What is given up may have been done all the same. */
export async function withinPatience<T>({ clock }: RegistrarCalling, what: () => T | PromiseLike<T>): Promise<T> {
  try {
    return await inTime(clock, CALL_PATIENCE_MS, what);
  } catch (error) {
    if (!(error instanceof TooLate)) throw error;
    throw new PlatformError('platform.unreachable', `No answer came within ${durationInWords(CALL_PATIENCE_MS)}`, {
      cause: error,
      mayHaveArrived: true,
    });
  }
}

/** A call that changes one command. Where it may have arrived, the scope must be read again: that is a conflict. */
export async function changing(
  calling: RegistrarCalling,
  claim: Claim,
  scope: string,
  change: () => void | PromiseLike<void>,
): Promise<void> {
  await trying(calling, claim, scope, async () => {
    try {
      await withinPatience(calling, change);
    } catch (error) {
      if (isPlatformError(error) && error.mayHaveArrived) throw new Conflict('It may have arrived', { cause: error });
      throw error;
    }
  });
}

/**
 * Again, as long as the platform asks or with growing pauses, where a second attempt may help.
 *
 * @throws RegistrationError where it does not, and whatever else `what` throws
 */
export async function trying<T>(
  calling: RegistrarCalling,
  claim: Claim,
  scope: string,
  what: () => Promise<T>,
): Promise<T> {
  let last: unknown;
  for (let tried = 0; tried < ATTEMPTS; tried++) {
    await claim.renew();
    try {
      return await what();
    } catch (error) {
      if (!isPlatformError(error) || !passes(error)) throw error;
      last = error;
      const pauseMs = Math.max(error.retryAfterMs ?? 0, FIRST_PAUSE_MS * 2 ** tried);
      if (pauseMs > LONGEST_PAUSE_MS || tried === ATTEMPTS - 1) break;
      // Not in the platform's words, which may hold a credential.
      const why = error.code === 'platform.slowed' ? 'the platform asks to wait' : 'not reached; once more after';
      await waiting(calling, claim, scope, why, pauseMs);
    }
  }
  throw new RegistrationError(
    `The platform did not take it: ${(last as Error).message}. What was registered so far is kept; run it again later.`,
    [],
    { cause: last },
  );
}

function passes({ code }: PlatformError): boolean {
  return code === 'platform.slowed' || code === 'platform.unreachable';
}

/** Waits; the claim is held meanwhile, and a process that looks is told how long it still takes. */
export async function waiting(
  calling: RegistrarCalling,
  claim: Claim,
  scope: string,
  why: string,
  ms: number,
): Promise<void> {
  for (let left = ms; left > 0; left -= TOLD_EVERY_MS) {
    calling.onProgress?.({ scope, done: 'waiting', name: '', note: `${why} ${durationInWords(Math.max(left, 1000))}` });
    await pause(calling.clock, Math.min(left, TOLD_EVERY_MS));
    await claim.renew();
  }
}

/** How long a store may take. */
const STORE_PATIENCE_MS = 10_000;

/** What is asked of a store. */
export function stored<T>(clock: Clock, what: () => T | PromiseLike<T>): Promise<T> {
  return inTime(clock, STORE_PATIENCE_MS, what);
}
