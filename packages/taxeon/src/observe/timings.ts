/** How long each stage of one input took. Exists only where somebody listens to how inputs end. */
import type { Clock } from '../base/time.js';
import type { StageName } from '../contract/trace.js';

export class Timings {
  private readonly beganAt: number;
  private endedAt: number;
  private readonly stages: Partial<Record<StageName, number>> = {};

  constructor(private readonly clock: Clock) {
    this.beganAt = this.elapsed();
    this.endedAt = this.beganAt;
  }

  /** A stage has ended, and the next begins. */
  mark(name: StageName): void {
    const now = this.elapsed();
    this.stages[name] = now - this.endedAt;
    this.endedAt = now;
  }

  totalMs(): number {
    return this.endedAt - this.beganAt;
  }

  /** Those that were reached, from the first behind the gates on. */
  stagesMs(): Readonly<Partial<Record<StageName, number>>> {
    return this.stages;
  }

  private elapsed(): number {
    return this.clock.elapsed?.() ?? this.clock.now();
  }
}
