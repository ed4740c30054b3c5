/** Staying synchronous until something is a promise: awaiting every step costs several times more. */
import { after, type Clock } from './time.js';

/** A value that is there, or comes. */
export type MaybePromise<T> = T | PromiseLike<T>;

export function isThenable<T>(value: MaybePromise<T>): value is PromiseLike<T> {
  return typeof value === 'object' && value !== null && typeof (value as { then?: unknown }).then === 'function';
}

/** Goes on with a value: at once where it is there. */
export function andThen<T, R>(value: MaybePromise<T>, use: (value: T) => MaybePromise<R>): MaybePromise<R> {
  return isThenable(value) ? value.then(use) : use(value);
}

/** Nothing came in time; it may have happened all the same. */
export class TooLate extends Error {
  override readonly name = 'TooLate';
}

/** What a function is to give at once: where it is a promise all the same, its rejection ends no process. */
export function atOnce<T>(given: T): T {
  if (isThenable(given)) given.then(undefined, ignored);
  return given;
}

/** What must be a text, of what is given at once. */
export function textAtOnce(given: unknown): string | undefined {
  return typeof atOnce(given) === 'string' ? (given as string) : undefined;
}

const atHand = Promise.resolve();

function ignored(): void {}

/**
 * What a promise gives, or `TooLate` where nothing comes in time. Most of what is waited for is there already, so a timer
 * is made only for what is not. Hot path: bench/rows/calls.
 */
export function patiently<T>(clock: Clock, promise: PromiseLike<T>, withinMs: number): Promise<T> {
  const since = clock.now();
  return promptly(
    promise,
    (value) => value,
    (pending) => waitFor(clock, pending, withinMs, since),
  );
}

/**
 * What a function gives, also where it throws; rejects with `TooLate` where nothing comes in time.
 *
 * @example
 * const answer = await inTime(systemClock, 5000, () => fetch('https://chat.oddmere.example/posts'));
 */
export function inTime<T>(clock: Clock, withinMs: number, what: () => MaybePromise<T>): Promise<T> {
  return patiently(clock, promised(what), withinMs);
}

/** Uses what a promise has given already; what is still to come, a failure included, is waited for by `wait`. */
export function promptly<T, R>(
  promise: PromiseLike<T>,
  use: (value: T) => R,
  wait: (pending: Promise<T>) => Promise<R>,
): Promise<R> {
  // The same, unless it is another library's: those may call back twice, or throw.
  const own = Promise.resolve(promise);
  let isThere = false;
  let value: T | undefined;
  own.then((given) => {
    isThere = true;
    value = given;
  }, ignored);
  return atHand.then(() => (isThere ? use(value as T) : wait(own)));
}

/** `TooLate` where nothing comes within a time that began at `since`. */
export function waitFor<T>(clock: Clock, promise: Promise<T>, withinMs: number, since: number): Promise<T> {
  return new Promise((resolve, reject) => {
    const cancel = afterSince(clock, withinMs, since, () => reject(new TooLate(`Nothing came within ${withinMs} ms`)));
    promise.then(resolve, reject).then(cancel);
  });
}

/** Calls back once so much has passed since a moment, which may be now. */
export function afterSince(clock: Clock, withinMs: number, since: number, then: () => void): () => void {
  const leftMs = withinMs - Math.max(0, clock.now() - since);
  if (leftMs > 0) return after(clock, leftMs, then);
  then();
  return ignored;
}

export function pause(clock: Clock, ms: number): Promise<void> {
  return new Promise((done) => void after(clock, ms, done));
}

/** Rejects what a function throws, too. */
export async function promised<T>(what: () => MaybePromise<T>): Promise<T> {
  return what();
}
