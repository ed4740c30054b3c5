/** Stage 9: the handler, inside what runs around it, for as long as it may take. */
import { foldName } from '../base/text.js';
import { afterSince, isThenable, type MaybePromise, promptly } from '../base/thenable.js';
import { after } from '../base/time.js';
import type { Answer } from '../commands/call.js';
import { Pauses } from '../delivery/pauses.js';
import { answerStop, handlerWaitOf, makeCall, thrownStop } from './call.js';
import type { Handlers } from './handlers.js';
import { keepPlaces, type LimitsNeeds, releaseLimits } from './limits.js';
import { groupOverview } from './overview.js';
import type { StageInWords, Step } from './stage.js';
import type { Read, State } from './state.js';
import { failed, type Stop } from './stop.js';

export interface RunNeeds {
  /** How long a handler may take whose command does not say, in milliseconds. */
  readonly timeoutMs: number;
  /** Handlers that are waited for. */
  readonly handlers: Handlers;
  /** What the call has taken of them ends with it. */
  readonly limits: LimitsNeeds;
}

export const run: Step<Read, never, RunNeeds> = {
  kind: 'step',
  name: 'run',
  waitsItself: true,
  take: runHandler,
  passed: () => '',
};

export const runInWords: StageInWords = {
  does: 'runs the handler, inside `around`, for as long as it may take; then gives running limits and uses back',
  stopsWith: [
    'handler.failed',
    'handler.timeout',
    'callback.failed',
    'answer.none',
    'answer.stopped',
    'the handler’s own',
  ],
};

/** Hot path: bench/rows/calls. */
function runHandler(state: Read, needs: RunNeeds): MaybePromise<Stop> {
  const { heard, command, args } = state;
  tellStarted(state);
  heard.asking?.begin(state);
  let stop: Stop;
  try {
    const answer: MaybePromise<Answer | void> =
      command.overviewOf === undefined
        ? command.run(makeCall(heard, command.name, args))
        : groupOverview(heard, command.overviewOf);
    if (isThenable(answer)) return withinTimeout(state, needs, answer);
    stop = answerStop(heard.conversation, answer);
  } catch (error) {
    stop = threw(state, error);
  }
  return over(state, needs, stop);
}

/** The end of the stage, however it came: its questions end, and what it has taken is given back. */
function over(state: Read, { limits }: RunNeeds, stop: Stop): Stop {
  state.heard.asking?.over(state.heard);
  releaseLimits(state.heard, limits, stop);
  return stop;
}

function threw({ heard }: Read, error: unknown): Stop {
  return heard.handler?.unanswered ?? thrownStop(heard.basis, heard.conversation, error);
}

function tellStarted(state: Read): void {
  const { heard, command, args } = state;
  const { events } = heard.basis;
  if (!events.hearing.started) return;
  const { input, platform } = heard;
  events.tell('started', { input, platform: platform?.name, command: command.name, alias: aliasOf(state), args });
}

/** The alias under which the command was called; `undefined` where it was its own name. */
export function aliasOf(state: State): string | undefined {
  if (state.at === 'heard') return undefined;
  const { command, typed } = state;
  if (typed === command.name) return undefined;
  const folded = foldName(typed);
  return foldName(command.name) === folded
    ? undefined
    : (command.aliases.find((alias) => foldName(alias) === folded) ?? folded);
}

/** A handler's answer, or that it did not come in time. Waiting for the platform's pacing does not count. */
function withinTimeout(state: Read, needs: RunNeeds, answer: PromiseLike<Answer | void>): Promise<Stop> {
  const { basis, conversation } = state.heard;
  const since = basis.clock.now();
  conversation.pauses ??= new Pauses(() => basis.steady.now());
  return promptly(
    answer,
    (given) => over(state, needs, stopOf(state, given)),
    (pending) => inPatience(state, needs, pending, since),
  );
}

/** What a handler gives may be nothing that can be said. */
function stopOf(state: Read, given: Answer | void): Stop {
  const unanswered = state.heard.handler?.unanswered;
  if (unanswered !== undefined) return unanswered;
  try {
    return answerStop(state.heard.conversation, given);
  } catch (error) {
    return threw(state, error);
  }
}

/** A handler that takes its time: its places are kept for it, and it is given up where it takes too long. */
function inPatience(state: Read, needs: RunNeeds, answer: Promise<Answer | void>, since: number): Promise<Stop> {
  const { heard, command } = state;
  const { basis, input, conversation } = heard;
  const { clock } = basis;
  const { handlers } = needs;
  const timeoutMs = command.timeoutMs ?? needs.timeoutMs;
  const wait = handlerWaitOf(heard);
  keepPlaces(heard, needs.limits);
  return new Promise((resolve) => {
    const stopWith = (stop: Stop) => resolve(over(state, needs, stop));
    let cancel = (): void => undefined;
    let credited = 0;
    const atEnd = () => giveUp(undefined);
    function check(): void {
      const paused = (conversation.pauses?.totalMs() ?? 0) - credited;
      if (paused <= 0) {
        giveUp(timeoutMs);
        return;
      }
      credited += paused;
      cancel = after(clock, paused, check);
    }
    function giveUp(afterMs: number | undefined): void {
      cancel();
      handlers.delete(atEnd);
      if (wait.isGivenUp) return;
      wait.isGivenUp = true;
      wait.settled = answer.then(
        () => undefined,
        () => undefined,
      );
      const reference = basis.reference();
      basis.log.warn(
        { reference, command: command.name, input: input.id, afterMs },
        afterMs === undefined ? 'A handler was ended, since the layer closes' : 'A handler did not finish in time',
      );
      stopWith(failed({ code: 'handler.timeout', parameters: { afterMs, reference } }));
      wait.abort(`Nobody waits for ${command.name} any more (${reference})`);
    }
    const end = (stop: () => Stop) => {
      cancel();
      handlers.delete(atEnd);
      if (!wait.isGivenUp) stopWith(stop());
    };
    answer.then(
      (given) => end(() => stopOf(state, given)),
      (error) => end(() => threw(state, error)),
    );
    handlers.add(atEnd);
    if (!wait.isGivenUp) cancel = afterSince(clock, timeoutMs, since, check);
  });
}
