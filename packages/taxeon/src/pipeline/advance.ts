/** Sending an input through the stages, synchronously for as long as nothing has to be waited for. */
import { isThenable, type MaybePromise, patiently } from '../base/thenable.js';
import type { Input } from '../contract/input.js';
import type { Outcome } from '../contract/outcome.js';
import type { Platform } from '../contract/platform.js';
import { reply } from './reply.js';
import type { Services } from './services.js';
import { releaseLimits, settle } from './settle.js';
import type { Hearing } from './stage.js';
import type { AnyStep, Pipeline } from './stages.js';
import { heardOf, type State } from './state.js';
import { failed, type Stop } from './stop.js';
import { stopInWords } from './wording.js';

/** Through the gates, called one by one: a loop would cost as much as all they do. Hot path: bench/rows/calls. */
export function hear(
  gates: Pipeline['gates'],
  services: Services,
  input: Input,
  platform: Platform | undefined,
  looks: boolean,
): MaybePromise<Hearing> {
  const first = gates[0].hear(services, input, platform, looks);
  return typeof first === 'number' ? gates[1].hear(services, input, platform, looks) : first;
}

/** What is done where an input stops: `stop` is absent where no step has stopped it. */
export type AtEnd<T> = (state: State, stop: Stop | undefined) => MaybePromise<T>;

/** Through steps, from the first on. */
export function advance<T>(steps: readonly AnyStep[], state: State, atEnd: AtEnd<T>): MaybePromise<T> {
  return advanceFrom(steps, state, atEnd, 0);
}

/** Hot path: bench/rows/calls. */
function advanceFrom<T>(steps: readonly AnyStep[], begun: State, atEnd: AtEnd<T>, from: number): MaybePromise<T> {
  let state = begun;
  const { recorder, timings } = heardOf(state);
  for (let index = from; index < steps.length; index++) {
    const step = steps[index] as AnyStep;
    let next: MaybePromise<State | Stop>;
    try {
      next = step.take(state);
    } catch (error) {
      next = callbackFailed(state, step, error);
    }
    // Looked at in this order since most steps give a state, and many the same.
    if (next !== state) {
      if (isState(next)) state = next;
      else if (isThenable(next)) return wait(steps, state, atEnd, index, next);
      else return halt(state, step, next, atEnd);
    }
    if (timings !== undefined) timings.mark(step.name);
    if (recorder !== undefined) pass(state, step);
  }
  return atEnd(state, undefined);
}

function isState(next: MaybePromise<State | Stop>): next is State {
  return typeof (next as Partial<State>).at === 'string';
}

function wait<T>(
  steps: readonly AnyStep[],
  state: State,
  atEnd: AtEnd<T>,
  index: number,
  pending: PromiseLike<State | Stop>,
): PromiseLike<T> {
  const step = steps[index] as AnyStep;
  const { recorder, timings, services } = heardOf(state);
  const settled = step.waitsItself === true ? pending : patiently(services.clock, pending, services.patienceMs);
  return settled.then(
    (next) => {
      if (!isState(next)) return halt(state, step, next, atEnd);
      timings?.mark(step.name);
      if (recorder !== undefined) pass(next, step);
      return advanceFrom(steps, next, atEnd, index + 1);
    },
    (error) => halt(state, step, callbackFailed(state, step, error), atEnd),
  );
}

function pass(state: State, { name, passed }: AnyStep): void {
  heardOf(state).recorder?.passed(name, () => passed(state));
}

function halt<T>(state: State, { name }: AnyStep, stop: Stop, atEnd: AtEnd<T>): MaybePromise<T> {
  const { recorder, timings } = heardOf(state);
  if (timings !== undefined) timings.mark(name);
  if (recorder !== undefined) {
    const inWords = () => stopInWords(state, stop);
    if (name === 'run' && stop.status === 'completed') recorder.passed(name, inWords);
    else recorder.stopped(name, inWords);
  }
  return atEnd(state, stop);
}

/** Something of the developer's, or of the platform, threw on the way: it fails closed. */
function callbackFailed(state: State, { name }: AnyStep, error: unknown): Stop {
  const { services, conversation } = heardOf(state);
  const reference = services.reference();
  services.log.error({ reference, command: conversation.command, stage: name, error }, 'A function of the bot failed');
  return failed({ code: 'callback.failed', parameters: { reference } }, error);
}

/**
 * Through the ends, which every input passes; never throws. Hot path: bench/rows/calls.
 *
 * @param ended is told the outcome
 */
export function conclude(state: State, stop: Stop, ended: (outcome: Outcome) => Outcome): MaybePromise<Outcome> {
  releaseLimits(state, stop);
  return reply.end(state, stop, (answered) => ended(settle.end(answered)));
}
