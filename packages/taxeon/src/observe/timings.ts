/** How long each stage of one input took. Exists only where there are listeners for how inputs end. */
import type { Clock } from '../base/time.js';
import type { StageName } from '../contract/trace.js';

export class Timings {
  readonly #beganAt: number;
  readonly #names: StageName[] = [];
  readonly #endedAt: number[] = [];

  readonly #clock: Clock;

  constructor(clock: Clock) {
    this.#clock = clock;

    this.#beganAt = this.#elapsed();
  }

  /** A stage has ended, and the next begins. Hot path: bench/rows/calls. */
  mark(name: StageName): void {
    this.#names.push(name);
    this.#endedAt.push(this.#elapsed());
  }

  totalMs(): number {
    return (this.#endedAt.at(-1) ?? this.#beganAt) - this.#beganAt;
  }

  /** Those that were reached, from the first behind the gates on. */
  stagesMs(): Readonly<Partial<Record<StageName, number>>> {
    let before = this.#beganAt;
    return Object.fromEntries(
      this.#names.map((name, index) => {
        const ended = this.#endedAt[index] ?? before;
        const tookMs = ended - before;
        before = ended;
        return [name, tookMs];
      }),
    );
  }

  #elapsed(): number {
    return this.#clock.elapsed?.() ?? this.#clock.now();
  }
}
