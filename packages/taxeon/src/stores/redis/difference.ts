/** For so long a difference of the clocks is believed: it may have changed since. */
const BELIEVED_MS = 30_000;

/**
 * How far the server's clock is ahead of this process's, which no step of the machine's time of day moves. What is
 * answered late makes it less than it is, so the greatest of the last while counts.
 */
export class ClockDifference {
  private greatest = Number.NEGATIVE_INFINITY;
  private before = Number.NEGATIVE_INFINITY;
  private since = 0;

  learn(serverMicroseconds: number): void {
    const now = performance.now();
    const ahead = serverMicroseconds / 1000 - now;
    if (now - this.since > BELIEVED_MS) {
      this.before = this.greatest;
      this.greatest = ahead;
      this.since = now;
    } else if (ahead > this.greatest) this.greatest = ahead;
  }

  /** What the server's clock shows when this process's shows that, in microseconds. */
  serversTime(here: number): number {
    const known = Math.max(this.greatest, this.before);
    return Math.round((here + (known === Number.NEGATIVE_INFINITY ? 0 : known)) * 1000);
  }
}
