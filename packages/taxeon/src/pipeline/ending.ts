/** Stage 11: limits settled, uses counted, and whoever listens told how the run ended. */
import { foldName } from '../base/text.js';
import { after } from '../base/time.js';
import type { Outcome } from '../contract/outcome.js';
import type { StageName } from '../contract/trace.js';
import type { LayerEvents } from '../observe/events.js';
import type { Timings } from '../observe/timings.js';
import { settleLimits } from './limits.js';
import type { Run } from './run-object.js';
import { GRACE_MS } from './waiting.js';

type Ended = Exclude<Outcome, { status: 'ignored' }>;

/** Hot path: bench/dispatch. */
export function endRun(run: Run, outcome: Ended): Outcome {
  const { services, found } = run;
  if (run.handlerSettled === undefined) settleLimits(run, outcome.status === 'completed');
  else settleWhenOver(run, run.handlerSettled);
  if (found !== undefined) services.usage?.count(run.input, run.platform?.name ?? '', found.id, outcome.status);
  run.timings?.mark();
  if (run.timings !== undefined) tellEnded(run, run.timings, outcome);
  services.runEnded();
  return outcome;
}

/** A handler that nobody waits for still runs: its place is kept until it settles, or for a little while. */
function settleWhenOver(run: Run, handlerSettled: Promise<void>): void {
  let isSettled = false;
  const settle = () => {
    cancel();
    if (isSettled) return;
    isSettled = true;
    settleLimits(run, false);
  };
  const cancel = after(run.services.clock, GRACE_MS, settle);
  void handlerSettled.then(settle);
}

function tellEnded(run: Run, timings: Timings, outcome: Ended): void {
  const { events } = run.services;
  if (!events.hearing[outcome.status]) return;
  events.tell(outcome.status, new EndedEvent(run, timings, outcome) as unknown as LayerEvents[typeof outcome.status]);
}

/** What stands behind `Ended` of events.ts; the stages are put together only for whoever reads them. */
class EndedEvent {
  readonly input;
  readonly platform;
  readonly command;
  readonly alias;
  readonly tookMs;

  constructor(
    run: Run,
    private readonly timings: Timings,
    readonly outcome: Ended,
  ) {
    this.input = run.input;
    this.platform = run.platform?.name;
    this.command = run.found?.name;
    this.alias = aliasOf(run);
    this.tookMs = timings.totalMs();
  }

  get stagesMs(): Readonly<Partial<Record<StageName, number>>> {
    return this.timings.stagesMs();
  }
}

/** The alias under which the command was called; `undefined` where it was its own name. */
export function aliasOf({ found, typed }: Run): string | undefined {
  if (found === undefined || typed === found.name) return undefined;
  const folded = foldName(typed);
  return foldName(found.name) === folded
    ? undefined
    : (found.aliases.find((alias) => foldName(alias) === folded) ?? folded);
}
