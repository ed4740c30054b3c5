import type { Clock } from '../base/time.js';
import type { Log } from './log.js';

const ONCE_A_MS = 60_000;

/** Tells of a store that does not answer, in one log line a minute. */
export class Outages {
  private toldAt = Number.NEGATIVE_INFINITY;
  private untold = 0;

  constructor(
    private readonly log: Log,
    private readonly clock: Clock,
  ) {}

  tell(fields: Readonly<Record<string, unknown>>): void {
    const now = this.clock.now();
    if (now - this.toldAt < ONCE_A_MS && now >= this.toldAt) {
      this.untold += 1;
      return;
    }
    this.log.error({ ...fields, alsoSince: this.untold }, 'The store did not answer');
    this.toldAt = now;
    this.untold = 0;
  }
}
