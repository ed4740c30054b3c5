/** One log line a minute, for what may fail many times a second. */
import type { Clock } from '../base/time.js';
import type { Log } from '../contract/log.js';

const ONCE_A_MS = 60_000;

export class SparseLog {
  private toldAt = Number.NEGATIVE_INFINITY;
  private untold = 0;

  constructor(
    private readonly log: Log,
    private readonly clock: Clock,
    private readonly message: string,
    private readonly level: 'error' | 'warn' | 'info' = 'error',
  ) {}

  tell(fields: Readonly<Record<string, unknown>>): void {
    const now = this.clock.now();
    if (now - this.toldAt < ONCE_A_MS && now >= this.toldAt) {
      this.untold += 1;
      return;
    }
    this.log[this.level]?.({ ...fields, alsoSince: this.untold }, this.message);
    this.toldAt = now;
    this.untold = 0;
  }
}
