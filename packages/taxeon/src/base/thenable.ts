/** Staying synchronous until something is a promise: awaiting every step costs several times more. */

export type MaybePromise<T> = T | PromiseLike<T>;

export function isThenable<T>(value: MaybePromise<T>): value is PromiseLike<T> {
  return typeof value === 'object' && value !== null && typeof (value as { then?: unknown }).then === 'function';
}

/** Nothing came in time; it may have happened all the same. */
export class TooLate extends Error {
  override readonly name = 'TooLate';
}

/** The same promise, rejected with `TooLate` where nothing comes of it in time. */
export function patiently<T>(promise: PromiseLike<T>, withinMs: number): Promise<T> {
  return new Promise((resolve, reject) => {
    const timer = setTimeout(() => reject(new TooLate(`Nothing came within ${withinMs} ms`)), withinMs);
    promise.then(resolve, reject).then(() => clearTimeout(timer));
  });
}
