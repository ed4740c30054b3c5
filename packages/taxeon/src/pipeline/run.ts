/** Stage 9: the handler, inside what runs around it, for as long as it may take. */
import { foldName } from '../base/text.js';
import { Deadline, isThenable, type MaybePromise } from '../base/thenable.js';
import type { Answer } from '../commands/call.js';
import { Pauses } from '../delivery/pauses.js';
import { answerStop, thrownStop } from './answer.js';
import { handlerWaitOf, makeCall } from './call.js';
import { keepPlaces } from './limits.js';
import { groupOverview } from './overview.js';
import type { Step } from './stage.js';
import type { Charged, Read, State } from './state.js';
import { failed, type Stop } from './stop.js';

export const run: Step<Read | Charged, never> = {
  kind: 'step',
  name: 'run',
  does: 'runs the handler, inside `around`, for as long as it may take',
  stopsWith: ['handler.failed', 'handler.timeout', 'callback.failed', 'the handler’s own'],
  waitsItself: true,
  take,
  passed: () => '',
};

/** Hot path: bench/dispatch. */
function take(state: Read | Charged): MaybePromise<Stop> {
  const { heard, command, args } = state;
  tellStarted(state);
  try {
    const answer: MaybePromise<Answer | void> =
      command.overviewOf === undefined
        ? command.run(makeCall(heard, command.name, args))
        : groupOverview(heard, command.overviewOf);
    return isThenable(answer) ? inTime(state, answer) : answerStop(heard.conversation, answer);
  } catch (error) {
    return threw(state, error);
  }
}

function threw({ heard }: Read | Charged, error: unknown): Stop {
  return thrownStop(heard.services, heard.conversation, error);
}

function tellStarted(state: Read | Charged): void {
  const { heard, command, args } = state;
  const { events } = heard.services;
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
function inTime(state: Read | Charged, answer: PromiseLike<Answer | void>): Promise<Stop> {
  const { heard, command } = state;
  const { services, conversation, input } = heard;
  const { clock, steady } = services;
  const timeoutMs = command.timeoutMs ?? services.timeoutMs;
  const wait = handlerWaitOf(heard);
  const pauses = new Pauses(() => steady.now());
  conversation.pauses = pauses;
  if (state.at === 'charged') keepPlaces(state);
  return new Promise((resolve) => {
    let timer = new Deadline(clock, timeoutMs, check);
    let credited = 0;
    const one = { giveUp: () => giveUp(undefined) };
    services.handlers.add(one);
    function check(): void {
      const paused = pauses.totalMs() - credited;
      if (paused <= 0) {
        giveUp(timeoutMs);
        return;
      }
      credited += paused;
      timer = new Deadline(clock, paused, check);
    }
    function giveUp(afterMs: number | undefined): void {
      timer.end();
      services.handlers.delete(one);
      if (wait.isGivenUp) return;
      wait.isGivenUp = true;
      wait.settled = Promise.resolve(answer).then(
        () => undefined,
        () => undefined,
      );
      const reference = services.reference();
      services.log.warn(
        { reference, command: command.name, input: input.id, afterMs },
        afterMs === undefined ? 'A handler was ended, since the layer closes' : 'A handler did not finish in time',
      );
      resolve(failed({ code: 'handler.timeout', parameters: { afterMs, reference } }));
      wait.abort(`Nobody waits for ${command.name} any more (${reference})`);
    }
    const end = (stop: () => Stop) => {
      timer.end();
      services.handlers.delete(one);
      if (wait.isGivenUp) return;
      try {
        resolve(stop());
      } catch (error) {
        resolve(threw(state, error));
      }
    };
    answer.then(
      (given) => end(() => answerStop(conversation, given)),
      (error) => end(() => threw(state, error)),
    );
  });
}
