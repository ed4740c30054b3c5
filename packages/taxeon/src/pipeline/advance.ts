/** Sending an input through the stages, synchronously for as long as nothing has to be waited for. */
import { isThenable, type MaybePromise, patiently } from '../base/thenable.js';
import type { Input } from '../contract/input.js';
import type { Outcome } from '../contract/outcome.js';
import type { Platform } from '../contract/platform.js';
import type { Services } from './services.js';
import type { Hearing } from './stage.js';
import type { AnyStep, Pipeline } from './stages.js';
import { heardOf, type State, type Stopped } from './state.js';
import { failed, type Stop } from './stop.js';
import { stopInWords } from './wording.js';

/** Through the gates. Hot path: bench/dispatch. */
export function hear(
  { gates }: Pipeline,
  services: Services,
  input: Input,
  platform: Platform | undefined,
  looks: boolean,
  from = 0,
): MaybePromise<Hearing> {
  let hearing: MaybePromise<Hearing> = 0;
  for (let index = from; index < gates.length; index++) {
    hearing = (gates[index] as (typeof gates)[number]).hear(services, input, platform, looks);
    if (typeof hearing === 'number') continue;
    if (!isThenable(hearing) || index === gates.length - 1) return hearing;
    return goOnHearing(hearing, index + 1);
  }
  return hearing;

  function goOnHearing(pending: PromiseLike<Hearing>, next: number): PromiseLike<Hearing> {
    return pending.then((settled) =>
      typeof settled === 'number' ? hear({ gates } as Pipeline, services, input, platform, looks, next) : settled,
    );
  }
}

/** Through steps, from the first on: where it stopped, or the last state where none of them stops it. */
export function advance(steps: readonly AnyStep[], state: State): MaybePromise<Stopped | State> {
  return advanceFrom(steps, state, 0);
}

/** Hot path: bench/dispatch. */
function advanceFrom(steps: readonly AnyStep[], begun: State, from: number): MaybePromise<Stopped | State> {
  let state = begun;
  const { recorder, timings } = heardOf(state);
  for (let index = from; index < steps.length; index++) {
    const step = steps[index] as AnyStep;
    try {
      const next: MaybePromise<State | Stop> = step.take(state);
      if (isThenable(next)) return wait(steps, state, index, next);
      if ('status' in next) return halt(state, step, next);
      state = next;
    } catch (error) {
      return halt(state, step, callbackFailed(state, step, error));
    }
    timings?.mark(step.name);
    if (recorder !== undefined) pass(state, step);
  }
  return state;
}

function wait(
  steps: readonly AnyStep[],
  state: State,
  index: number,
  pending: PromiseLike<State | Stop>,
): PromiseLike<Stopped | State> {
  const step = steps[index] as AnyStep;
  const { recorder, timings, services } = heardOf(state);
  const settled = step.waitsItself === true ? pending : patiently(pending, services.patienceMs);
  return settled.then(
    (next) => {
      if ('status' in next) return halt(state, step, next);
      timings?.mark(step.name);
      if (recorder !== undefined) pass(next, step);
      return advanceFrom(steps, next, index + 1);
    },
    (error) => halt(state, step, callbackFailed(state, step, error)),
  );
}

function pass(state: State, { name, passed }: AnyStep): void {
  heardOf(state).recorder?.passed(name, () => passed(state));
}

function halt(state: State, { name }: AnyStep, stop: Stop): Stopped {
  const { recorder, timings } = heardOf(state);
  timings?.mark(name);
  if (recorder !== undefined) {
    const inWords = () => stopInWords(state, stop);
    if (name === 'run' && stop.status === 'completed') recorder.passed(name, inWords);
    else recorder.stopped(name, inWords);
  }
  return { state, stop };
}

/** Something of the developer's, or of the platform, threw on the way: it fails closed. */
function callbackFailed(state: State, { name }: AnyStep, error: unknown): Stop {
  const { services, conversation } = heardOf(state);
  const reference = services.reference();
  services.log.error({ reference, command: conversation.command, stage: name, error }, 'A function of the bot failed');
  return failed({ code: 'callback.failed', parameters: { reference } });
}

/** Through the ends, which every input passes; never throws. */
export function conclude({ ends }: Pipeline, stopped: Stopped): MaybePromise<Outcome> {
  return concludeFrom(ends, stopped, 0);
}

function concludeFrom(ends: Pipeline['ends'], from: unknown, index: number): MaybePromise<Outcome> {
  const end = ends[index];
  if (end === undefined) return from as Outcome;
  const next: MaybePromise<unknown> = end.end(from);
  return isThenable(next)
    ? next.then((settled) => concludeFrom(ends, settled, index + 1))
    : concludeFrom(ends, next, index + 1);
}
