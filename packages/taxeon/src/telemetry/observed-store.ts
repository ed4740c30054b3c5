/** A store whose answers are timed. */
import { isThenable } from '../base/thenable.js';
import type { Store } from '../contract/store.js';

const TIMED = [
  'acquire',
  'look',
  'giveBack',
  'renew',
  'reset',
  'read',
  'compareAndSet',
  'increment',
  'entries',
  'publish',
] as const;

type Timed = (typeof TIMED)[number];

/** @param told of each answer: the operation, how long it took in milliseconds, and what it failed with */
export function observedStore(store: Store, told: (operation: Timed, tookMs: number, error?: unknown) => void): Store {
  const timed = (operation: Timed) => {
    const ask = store[operation].bind(store) as (...given: readonly unknown[]) => unknown;
    return (...given: readonly unknown[]) => {
      const begun = performance.now();
      const tell = (error?: unknown) => told(operation, performance.now() - begun, error);
      try {
        const answer = ask(...given);
        if (isThenable(answer)) answer.then(() => tell(), tell);
        else tell();
        return answer;
      } catch (error) {
        tell(error);
        throw error;
      }
    };
  };
  return { ...store, ...Object.fromEntries(TIMED.map((operation) => [operation, timed(operation)])) };
}
