/** The one runner: sends an input through the stages of a list, synchronously until something has to be waited for. */
import { isThenable, type MaybePromise, patiently } from '../base/thenable.js';
import type { Input } from '../contract/input.js';
import type { Ignored, Outcome } from '../contract/outcome.js';
import type { Platform } from '../contract/platform.js';
import type { StageName } from '../contract/trace.js';
import type { Course, WiredStage } from './stage.js';
import { type Heard, heardOf, type State, type Stopped, stoppedAt } from './state.js';
import { failed, type Stop } from './stop.js';
import { stopInWords } from './wording.js';

type GateResult = Heard | Stopped | Ignored['because'];

/** Through all stages; never throws and never rejects. Ordinary chat gives one shared promise. */
export function handle(course: Course, input: Input, platform: Platform | undefined): Promise<Outcome> {
  try {
    const hearing = hear(course, input, platform);
    if (typeof hearing === 'string') return ignored[hearing];
    if (!isThenable(hearing)) return Promise.resolve(goOn(course, hearing));
    return Promise.resolve(hearing.then((one) => (typeof one === 'string' ? ignored[one] : goOn(course, one)))).catch(
      (error) => malformed(course, error),
    );
  } catch (error) {
    return malformed(course, error);
  }
}

function malformed(course: Course, problem: unknown): Promise<Outcome> {
  course.malformed.tell({ problem });
  return ignored.malformed;
}

function goOn(course: Course, hearing: Heard | Stopped): MaybePromise<Outcome> {
  course.current.open.inputs += 1;
  heardOf(hearing).isOpen = true;
  return pass(course, hearing) as MaybePromise<Outcome>;
}

/** Through the gates, called one by one: a loop would cost as much as all they do. Hot path: bench/rows/calls. */
export function hear(course: Course, input: Input, platform: Platform | undefined): MaybePromise<GateResult> {
  const { stages } = course;
  const second = stages[1] as AnyGate;
  return ((stages[0] as AnyGate).take(course, input, platform, undefined) ??
    second.take(course, input, platform, second.needs)) as MaybePromise<GateResult>;
}

/** Through some of the stages once more, for a query. */
export function check(course: Course, state: State, names: readonly StageName[]): MaybePromise<State | Stopped> {
  const stages = course.stages.filter(({ name }) => names.includes(name));
  const through = { ...course, stages, endsAt: stages.length, watch: undefined };
  return steps(through, heardOf(state), state, 0) as MaybePromise<State | Stopped>;
}

/** Through what is behind the gates: what the last stage of the list gives. */
export function pass(course: Course, hearing: Heard | Stopped): MaybePromise<State | Stopped | Outcome> {
  return hearing.at === 'stopped' ? end(course, hearing) : steps(course, hearing, hearing, 2);
}

/** Hot path: bench/rows/calls. */
function steps(course: Course, heard: Heard, begun: State, from: number): MaybePromise<State | Stopped | Outcome> {
  let state = begun;
  const { recorder, timings } = heard;
  const { stages, endsAt } = course;
  for (let index = from; index < endsAt; index++) {
    const step = stages[index] as AnyStep;
    let next: MaybePromise<State | Stop>;
    try {
      next = step.take(state, step.needs);
    } catch (error) {
      next = callbackFailed(heard, step, error);
    }
    // Looked at in this order since most steps give a state, and many the same.
    if (next !== state) {
      if (isState(next)) state = next;
      else if (isThenable(next)) return wait(course, heard, state, index, next);
      else return halt(course, heard, state, step, next);
    }
    if (timings !== undefined) timings.mark(step.name);
    if (recorder !== undefined) recordPassed(heard, state, step);
  }
  return state;
}

function isState(next: MaybePromise<State | Stop>): next is State {
  return typeof (next as Partial<State>).at === 'string';
}

function wait(
  course: Course,
  heard: Heard,
  state: State,
  index: number,
  pending: PromiseLike<State | Stop>,
): PromiseLike<State | Stopped | Outcome> {
  const { clock, patienceMs } = heard.basis;
  const step = course.stages[index] as AnyStep;
  heard.endWatch ??= course.watch?.(heard);
  const settled = step.waitsItself === true ? pending : patiently(clock, pending, patienceMs);
  return settled.then(
    (next) => {
      if (!isState(next)) return halt(course, heard, state, step, next);
      heard.timings?.mark(step.name);
      if (heard.recorder !== undefined) recordPassed(heard, next, step);
      return steps(course, heard, next, index + 1);
    },
    (error) => halt(course, heard, state, step, callbackFailed(heard, step, error)),
  );
}

type AnyGate = Extract<WiredStage, { kind: 'gate' }>;
type AnyStep = Extract<WiredStage, { kind: 'step' }>;
type AnyEnd = Extract<WiredStage, { kind: 'end' }>;

function recordPassed({ recorder }: Heard, state: State, { name, passed }: AnyStep): void {
  recorder?.passed(name, () => passed(state));
}

function halt(
  course: Course,
  heard: Heard,
  state: State,
  { name }: AnyStep,
  stop: Stop,
): MaybePromise<Stopped | Outcome> {
  const { recorder, timings } = heard;
  if (timings !== undefined) timings.mark(name);
  if (recorder !== undefined) {
    const inWords = () => stopInWords(state, stop);
    if (name === 'run' && stop.status === 'completed') recorder.passed(name, inWords);
    else recorder.stopped(name, inWords);
  }
  heard.endWatch?.();
  return end(course, stoppedAt(state, stop));
}

/** Something of the developer's, or of the platform, threw on the way: it fails closed. */
function callbackFailed({ basis, conversation }: Heard, { name }: AnyStep, error: unknown): Stop {
  const reference = basis.reference();
  basis.log.error({ reference, command: conversation.command, stage: name, error }, 'A function of the bot failed');
  return failed({ code: 'callback.failed', parameters: { reference } }, error);
}

/** Through what every input passes, wherever it stopped. */
export function end(course: Course, stopped: Stopped): MaybePromise<Stopped | Outcome> {
  return ends(course, heardOf(stopped), stopped, course.endsAt);
}

/** Hot path: bench/rows/calls. */
function ends(course: Course, heard: Heard, from: unknown, at: number): MaybePromise<Stopped | Outcome> {
  const { stages } = course;
  let now = from;
  for (let index = at; index < stages.length; index++) {
    const stage = stages[index] as AnyEnd;
    const next = stage.take(now, stage.needs);
    if (isThenable(next)) return waitAtEnd(course, heard, now, index, next);
    now = next;
  }
  if (heard.isOpen) close(course, heard);
  return now as Stopped | Outcome;
}

function close({ current: { open } }: Course, heard: Heard): void {
  heard.isOpen = false;
  open.inputs -= 1;
  if (open.inputs === 0) open.none?.();
}

function waitAtEnd(
  course: Course,
  heard: Heard,
  from: unknown,
  index: number,
  pending: PromiseLike<unknown>,
): PromiseLike<Stopped | Outcome> {
  const stage = course.stages[index] as AnyEnd;
  return pending.then(
    (given) => ends(course, heard, stage.came?.(from, given, stage.needs), index + 1),
    (error) => ends(course, heard, stage.failed?.(from, error), index + 1),
  );
}

function sharedly(because: Ignored['because']): Promise<Ignored> {
  return Promise.resolve({ status: 'ignored', because });
}

/** Shared, so that ordinary chat allocates nothing. */
const ignored: Readonly<Record<Ignored['because'], Promise<Ignored>>> = {
  chat: sharedly('chat'),
  bot: sharedly('bot'),
  repeated: sharedly('repeated'),
  malformed: sharedly('malformed'),
  answer: sharedly('answer'),
};
