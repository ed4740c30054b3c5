/** Sends a run through the stages, synchronously for as long as nothing has to be waited for. */
import { isThenable, type MaybePromise, patiently } from '../base/thenable.js';
import { passedBecause, stoppedBecause } from './reasons.js';
import type { Run } from './run-object.js';
import { type Stage, type Stop, stages } from './stages.js';

/** Where and why a run stopped. Every run stops: the last stage is the handler. */
export function advance(run: Run): MaybePromise<Stop> {
  return advanceFrom(run, 0);
}

/** Hot path: bench/dispatch. */
function advanceFrom(run: Run, from: number): MaybePromise<Stop> {
  for (let index = from; index < stages.length; index++) {
    const stage = stages[index] as Stage;
    try {
      const stop = stage.step(run);
      if (isThenable(stop)) {
        return waitFor(run, stage, stop).then(
          (settled) => (settled === undefined ? goOn(run, stage, index) : halt(run, stage, settled)),
          (error) => halt(run, stage, callbackFailed(run, stage, error)),
        );
      }
      if (stop !== undefined) return halt(run, stage, stop);
    } catch (error) {
      return halt(run, stage, callbackFailed(run, stage, error));
    }
    if (run.timings !== undefined) run.timings.mark();
    if (run.recorder !== undefined) run.recorder.passed(stage.name, passedBecause(stage.name, run));
  }
  throw new Error('The last stage let a run pass');
}

/** A handler may take its time, and a store has its own; any other function of the developer's is waited for only so long. */
function waitFor(run: Run, { name }: Stage, stop: PromiseLike<Stop | undefined>): PromiseLike<Stop | undefined> {
  return name === 'run' || name === 'limits' ? stop : patiently(stop, run.services.patienceMs);
}

function goOn(run: Run, stage: Stage, index: number): MaybePromise<Stop> {
  run.timings?.mark();
  run.recorder?.passed(stage.name, passedBecause(stage.name, run));
  return advanceFrom(run, index + 1);
}

function halt(run: Run, { name }: Stage, stop: Stop): Stop {
  run.timings?.mark();
  if (run.recorder !== undefined) {
    const because = () => stoppedBecause(stop, run);
    const isRun = name === 'run' && (stop.status === 'completed' || stop.status === 'runs');
    if (isRun) run.recorder.passed(name, because);
    else run.recorder.stopped(name, because);
  }
  return stop;
}

/** Something of the developer's, or of the platform, threw on the way: it fails closed. */
function callbackFailed({ services, found }: Run, { name }: Stage, error: unknown): Stop {
  const reference = services.reference();
  services.log.error({ reference, command: found?.name, stage: name, error }, 'A function of the bot failed');
  return { status: 'failed', code: 'callback.failed', parameters: { reference } };
}
