/** Recording the stages of one input, for a trace. Exists only when a trace was asked for. */
import type { Clock } from '../base/time.js';
import { type ReadToken, type StageName, stageNames, type Trace, type TracedStage } from '../contract/trace.js';

/** A reason is put into words only when somebody reads the trace. */
type Reason = () => string;

interface Recorded extends Omit<TracedStage, 'reason'> {
  readonly reason: Reason | undefined;
}

export class Recorder {
  readonly tokens: ReadToken[] = [];
  private readonly stages: Recorded[] = [];
  private since: number;

  constructor(private readonly clock: Clock) {
    this.since = this.elapsed();
  }

  passed(name: StageName, reason?: Reason): void {
    this.record(name, 'passed', reason);
  }

  /** Ends the way: what lies between the stage and `reply` is skipped. */
  stopped(name: StageName, reason: Reason): void {
    this.record(name, 'stopped', reason);
    const last = stageNames.indexOf('reply');
    for (let next = stageNames.indexOf(name) + 1; next < last; next++) {
      this.stages.push({ name: stageNames[next] as StageName, verdict: 'skipped', reason: undefined, tookMs: 0 });
    }
  }

  trace(): Trace {
    const { stages: recorded, tokens } = this;
    let stages: readonly TracedStage[] | undefined;
    return {
      get stages() {
        stages ??= recorded.map(({ reason, ...stage }) => ({ ...stage, reason: reason?.() ?? '' }));
        return stages;
      },
      tokens,
    };
  }

  private elapsed(): number {
    return this.clock.elapsed?.() ?? this.clock.now();
  }

  private record(name: StageName, verdict: 'passed' | 'stopped', reason: Reason | undefined): void {
    const now = this.elapsed();
    this.stages.push({ name, verdict, reason, tookMs: now - this.since });
    this.since = now;
  }
}
