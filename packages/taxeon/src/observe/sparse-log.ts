/** One log line a minute, for what may fail many times a second. */
import type { Clock } from '../base/time.js';
import type { Log } from '../contract/log.js';

const ONCE_A_MS = 60_000;

export class SparseLog {
  #toldAt = Number.NEGATIVE_INFINITY;
  #untold = 0;

  readonly #log: Log;
  readonly #clock: Clock;
  readonly #message: string;
  readonly #level: 'error' | 'warn' | 'info' = 'error';

  constructor(log: Log, clock: Clock, message: string, level: 'error' | 'warn' | 'info' = 'error') {
    this.#log = log;
    this.#clock = clock;
    this.#message = message;
    this.#level = level;
  }

  tell(fields: Readonly<Record<string, unknown>>): void {
    const now = this.#clock.now();
    if (now - this.#toldAt < ONCE_A_MS && now >= this.#toldAt) {
      this.#untold += 1;
      return;
    }
    this.#log[this.#level]?.({ ...fields, alsoSince: this.#untold }, this.#message);
    this.#toldAt = now;
    this.#untold = 0;
  }
}
