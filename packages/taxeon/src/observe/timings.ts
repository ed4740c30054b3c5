/** How long each stage of a run took. Exists only where somebody listens to how runs end. */
import type { Clock } from '../base/time.js';
import { type StageName, stageNames } from '../contract/trace.js';

export class Timings {
  private readonly beganAt: number;
  private readonly endedAt: number[] = [];

  constructor(private readonly clock: Clock) {
    this.beganAt = this.elapsed();
  }

  /** The next stage has ended; the last one is the reply, wherever the run stopped. */
  mark(): void {
    this.endedAt.push(this.elapsed());
  }

  totalMs(): number {
    return (this.endedAt.at(-1) ?? this.beganAt) - this.beganAt;
  }

  /** The stages that were reached: `resolve` and on, and the reply, which every run has. */
  stagesMs(): Readonly<Partial<Record<StageName, number>>> {
    const stages: Partial<Record<StageName, number>> = {};
    let before = this.beganAt;
    const last = this.endedAt.length - 1;
    for (const [index, ended] of this.endedAt.entries()) {
      const name = index === last ? 'reply' : stageNames[index + FIRST];
      if (name !== undefined) stages[name] = ended - before;
      before = ended;
    }
    return stages;
  }

  private elapsed(): number {
    return this.clock.elapsed?.() ?? this.clock.now();
  }
}

const FIRST = stageNames.indexOf('resolve');
