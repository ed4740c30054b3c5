/** What is to be done later, unless the layer closes before: then it is done at once. */
import { after, type Clock } from '../base/time.js';

export class Expiring {
  readonly #waiting = new Map<() => Promise<void>, () => void>();

  readonly #clock: Clock;

  constructor(clock: Clock) {
    this.#clock = clock;
  }

  later(ms: number, remove: () => Promise<void>): void {
    const cancel = after(this.#clock, ms, () => {
      this.#waiting.delete(remove);
      void remove();
    });
    this.#waiting.set(remove, cancel);
  }

  async all(): Promise<void> {
    const waiting = [...this.#waiting];
    this.#waiting.clear();
    await Promise.all(
      waiting.map(([remove, cancel]) => {
        cancel();
        return remove();
      }),
    );
  }
}
