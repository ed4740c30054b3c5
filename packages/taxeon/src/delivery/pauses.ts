/** Time that a call has spent waiting for the platform's pacing, which does not count against its handler. */
export class Pauses {
  private since: number | undefined = undefined;
  private waiting = 0;
  private total = 0;

  constructor(private readonly now: () => number) {}

  begin(): void {
    if (this.waiting === 0) this.since = this.now();
    this.waiting += 1;
  }

  end(): void {
    this.waiting -= 1;
    if (this.waiting > 0 || this.since === undefined) return;
    this.total += this.now() - this.since;
    this.since = undefined;
  }

  totalMs(): number {
    return this.total + (this.since === undefined ? 0 : this.now() - this.since);
  }
}
