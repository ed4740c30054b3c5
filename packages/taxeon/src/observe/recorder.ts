/** Recording the stages of one input, for a trace. Exists only when a trace was asked for. */
import { visibleText } from '../base/text.js';
import type { Clock } from '../base/time.js';
import type { ReadToken, StageName, Trace, TracedStage } from '../contract/trace.js';

/** A reason is put into words only when a person reads the trace. */
type Reason = () => string;

interface Recorded extends Omit<TracedStage, 'reason'> {
  readonly reason: Reason | undefined;
}

/** The stages by name, in the order in which an input passes them. */
export interface StageOrder {
  readonly names: readonly StageName[];
  /** Where those begin that every input passes, wherever it stopped. */
  readonly endsAt: number;
}

export class Recorder {
  readonly tokens: ReadToken[] = [];
  readonly #stages: Recorded[] = [];
  readonly #clock: Clock;
  readonly #order: StageOrder;
  #since: number;

  constructor(clock: Clock, order: StageOrder) {
    this.#clock = clock;
    this.#order = order;
    this.#since = this.#elapsed();
  }

  passed(name: StageName, reason?: Reason): void {
    this.#record(name, 'passed', reason);
  }

  /** Ends the way: what lies between the stage and the ends is skipped. */
  stopped(name: StageName, reason: Reason): void {
    this.#record(name, 'stopped', reason);
    const { names, endsAt } = this.#order;
    for (const next of names.slice(names.indexOf(name) + 1, endsAt)) this.skipped(next);
  }

  skipped(name: StageName): void {
    this.#stages.push({ name, verdict: 'skipped', reason: undefined, tookMs: 0 });
  }

  trace(): Trace {
    return new RecordedTrace(this.#stages, this.tokens);
  }

  #elapsed(): number {
    return this.#clock.elapsed?.() ?? this.#clock.now();
  }

  #record(name: StageName, verdict: 'passed' | 'stopped', reason: Reason | undefined): void {
    const now = this.#elapsed();
    this.#stages.push({ name, verdict, reason, tookMs: now - this.#since });
    this.#since = now;
  }
}

const LONGEST_REASON = 1000;

/** Put into words when it is first read. */
class RecordedTrace implements Trace {
  #made: readonly TracedStage[] | undefined = undefined;

  readonly #recorded: readonly Recorded[];

  constructor(
    recorded: readonly Recorded[],
    readonly tokens: readonly ReadToken[],
  ) {
    this.#recorded = recorded;
  }

  get stages(): readonly TracedStage[] {
    this.#made ??= this.#recorded.map(({ name, verdict, reason, tookMs }) => ({
      name,
      verdict,
      reason: visibleText(reason?.() ?? '', LONGEST_REASON),
      tookMs,
    }));
    return this.#made;
  }

  toJSON(): Trace {
    return { stages: this.stages, tokens: this.tokens };
  }
}
