/** What was given, by a post or by a function of the developer's. */
import type { MaybePromise } from 'taxeon';

export function isThenable<T>(value: MaybePromise<T>): value is PromiseLike<T> {
  return typeof Object(value).then === 'function';
}

/** What is to be there at once: where it is a promise all the same, its rejection ends no process. */
export function atOnce<T>(given: T): T {
  if (isThenable(given)) given.then(undefined, () => undefined);
  return given;
}

export function isObject(value: unknown): value is Readonly<Record<string, unknown>> {
  return typeof value === 'object' && value !== null && !Array.isArray(value);
}

/** A value, in a word. */
export function shown(value: unknown): string {
  if (typeof value === 'string') return JSON.stringify(value.slice(0, 40));
  if (Array.isArray(value)) return 'a list';
  return isObject(value) ? 'an object' : typeof value === 'function' ? 'a function' : String(value);
}
