/** Time that a call has spent waiting for the platform's pacing, which does not count against its handler. */
export class Pauses {
  #since: number | undefined = undefined;
  #waiting = 0;
  #total = 0;

  readonly #now: () => number;

  constructor(now: () => number) {
    this.#now = now;
  }

  begin(): void {
    if (this.#waiting === 0) this.#since = this.#now();
    this.#waiting += 1;
  }

  end(): void {
    this.#waiting -= 1;
    if (this.#waiting > 0 || this.#since === undefined) return;
    this.#total += this.#now() - this.#since;
    this.#since = undefined;
  }

  totalMs(): number {
    return this.#total + (this.#since === undefined ? 0 : this.#now() - this.#since);
  }
}
