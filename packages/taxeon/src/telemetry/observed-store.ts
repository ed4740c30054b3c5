/** A store whose answers are timed. */
import { isThenable } from '../base/thenable.js';
import type { Store } from '../contract/store.js';

type Timed = Exclude<keyof Store, 'outlivesProcess' | 'live' | 'subscribe' | 'close'>;

/** @param told of each answer: the operation, how long it took in milliseconds, and what it failed with */
export function observedStore(store: Store, told: (operation: Timed, tookMs: number, error?: unknown) => void): Store {
  const timed = <Name extends Timed>(operation: Name): Store[Name] => {
    const ask = store[operation].bind(store) as (...given: readonly unknown[]) => unknown;
    const asked = (...given: readonly unknown[]) => {
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
    return asked as Store[Name];
  };
  // One by one: those of a class are not its own.
  return {
    ...(store.outlivesProcess === undefined ? {} : { outlivesProcess: store.outlivesProcess }),
    acquire: timed('acquire'),
    look: timed('look'),
    giveBack: timed('giveBack'),
    renew: timed('renew'),
    live: () => store.live(),
    reset: timed('reset'),
    read: timed('read'),
    compareAndSet: timed('compareAndSet'),
    increment: timed('increment'),
    entries: timed('entries'),
    publish: timed('publish'),
    subscribe: (topic, listener, missed) => store.subscribe(topic, listener, missed),
    close: () => store.close(),
  };
}
