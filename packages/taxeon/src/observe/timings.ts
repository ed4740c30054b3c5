/** How long each stage of one input took. Exists only where somebody listens to how inputs end. */
import type { Clock } from '../base/time.js';
import type { StageName } from '../contract/trace.js';

export class Timings {
  private readonly beganAt: number;
  private readonly names: StageName[];
  private readonly endedAt: number[];
  private count = 0;

  /** @param most as many stages as may be marked */
  constructor(
    private readonly clock: Clock,
    most: number,
  ) {
    this.names = new Array(most);
    this.endedAt = new Array(most);
    this.beganAt = this.elapsed();
  }

  /** A stage has ended, and the next begins. Hot path: bench/rows/calls. */
  mark(name: StageName): void {
    this.names[this.count] = name;
    this.endedAt[this.count] = this.elapsed();
    this.count += 1;
  }

  totalMs(): number {
    return (this.endedAt[this.count - 1] ?? this.beganAt) - this.beganAt;
  }

  /** Those that were reached, from the first behind the gates on. */
  stagesMs(): Readonly<Partial<Record<StageName, number>>> {
    let before = this.beganAt;
    return Object.fromEntries(
      this.names.slice(0, this.count).map((name, index) => {
        const ended = this.endedAt[index] ?? before;
        const tookMs = ended - before;
        before = ended;
        return [name, tookMs];
      }),
    );
  }

  private elapsed(): number {
    return this.clock.elapsed?.() ?? this.clock.now();
  }
}
