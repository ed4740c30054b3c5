/** Staying synchronous until something is a promise: awaiting every step costs several times more. */

export type MaybePromise<T> = T | PromiseLike<T>;

export function isThenable<T>(value: MaybePromise<T>): value is PromiseLike<T> {
  return typeof value === 'object' && value !== null && typeof (value as { then?: unknown }).then === 'function';
}
