/** What is to be done later, unless the layer closes before: then it is done at once. */
import { after, type Clock } from '../base/time.js';

export interface Expiring {
  later(ms: number, remove: () => Promise<void>): void;
  all(): Promise<void>;
}

export function expiring(clock: Clock): Expiring {
  const waiting = new Map<() => Promise<void>, () => void>();
  return {
    later(ms, remove) {
      const cancel = after(clock, ms, () => {
        waiting.delete(remove);
        void remove();
      });
      waiting.set(remove, cancel);
    },
    async all() {
      const left = [...waiting];
      waiting.clear();
      await Promise.all(
        left.map(([remove, cancel]) => {
          cancel();
          return remove();
        }),
      );
    },
  };
}
