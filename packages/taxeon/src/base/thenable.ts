/** Staying synchronous until something is a promise: awaiting every step costs several times more. */
import { after, type Clock } from './time.js';

export type MaybePromise<T> = T | PromiseLike<T>;

export function isThenable<T>(value: MaybePromise<T>): value is PromiseLike<T> {
  return typeof value === 'object' && value !== null && typeof (value as { then?: unknown }).then === 'function';
}

/** Nothing came in time; it may have happened all the same. */
export class TooLate extends Error {
  override readonly name = 'TooLate';
}

/** The same promise, rejected with `TooLate` where nothing comes of it in time. */
export function patiently<T>(clock: Clock, promise: PromiseLike<T>, withinMs: number): Promise<T> {
  return new Promise((resolve, reject) => {
    const cancel = after(clock, withinMs, () => reject(new TooLate(`Nothing came within ${withinMs} ms`)));
    promise.then(resolve, reject).then(cancel);
  });
}

/** Rejects what a function throws, too. */
export async function promised<T>(what: () => MaybePromise<T>): Promise<T> {
  return what();
}
