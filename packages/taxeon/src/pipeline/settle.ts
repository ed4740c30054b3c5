/** Stage 11: limits settled, uses counted, whoever listens told, and the outcome. */

import { after } from '../base/time.js';
import type { CodeParameters } from '../contract/codes.js';
import type { EndedEvent, LayerEvents } from '../contract/events.js';
import type { Outcome } from '../contract/outcome.js';
import type { Timings } from '../observe/timings.js';
import { settleLimits } from './limits.js';
import type { Answered } from './reply.js';
import { aliasOf } from './run.js';
import type { SettleEnd, StageInWords } from './stage.js';
import { argsOf, type Charged, commandOf, type Heard, heardOf, type State } from './state.js';
import { codeOf, type Stop } from './stop.js';

type Ended = Exclude<Outcome, { status: 'ignored' }>;

export const settle: SettleEnd<Answered> = {
  kind: 'end',
  name: 'settle',
  end,
};

export const settleInWords: StageInWords = {
  does: 'gives running limits and uses back, counts the use, tells events',
  stopsWith: [],
};

/** What is left of the running limits after a timeout, should the handler go on. */
const GRACE_MS = 30_000;

/** Never throws. Hot path: bench/rows/calls. */
function end(answered: Answered): Ended {
  const { state, stop } = answered;
  const heard = heardOf(state);
  const { services, recorder, timings, input, platformName } = heard;
  recorder?.passed('settle');
  const outcome = outcomeOf(answered);
  const command = commandOf(state);
  if (command !== undefined) services.usage?.count(input, platformName, command.id, outcome.status);
  else if (stop.status === 'refused' && stop.by === 'layer' && stop.code === 'command.unknown')
    tellUnknown(heard, stop.parameters);
  if (timings !== undefined) tellEnded(answered, timings, outcome);
  return outcome;
}

/** As soon as it is known how an input stops: whatever becomes of the reply, nobody waits for a place. Hot path: bench/rows/calls. */
export function releaseLimits(state: State, stop: Stop): void {
  if (state.at !== 'charged') return;
  const settled = state.heard.handler?.settled;
  // A process that is about to end keeps no places.
  if (settled === undefined || state.heard.services.isClosing) settleLimits(state, stop.status === 'completed');
  else settleWhenOver(state, settled);
}

/** What people look for and do not find. Under one heading: a stranger must not fill a store with names. */
function tellUnknown(
  { services, input, platformName, guild }: Heard,
  { name, near }: CodeParameters['command.unknown'],
): void {
  services.usage?.count(input, platformName, '', 'refused');
  services.unknown.tell({ name, near, platform: platformName, guild: guild?.id });
}

/** A handler that nobody waits for still runs: its place is kept until it settles, or for a little while. */
function settleWhenOver(state: Charged, handlerSettled: Promise<void>): void {
  let isSettled = false;
  const settleOnce = () => {
    cancel();
    if (isSettled) return;
    isSettled = true;
    settleLimits(state, false);
  };
  const cancel = after(state.heard.services.clock, GRACE_MS, settleOnce);
  void handlerSettled.then(settleOnce);
}

/** Written out, since spreading costs more than all of it: bench/rows/calls. */
function outcomeOf({ state, stop, reply, delivery, heldBack }: Answered): Ended {
  const command = commandOf(state)?.name;
  const args = argsOf(state);
  const trace = heardOf(state).recorder?.trace();
  switch (stop.status) {
    case 'completed':
      return { status: 'completed', command, args, reply, delivery, heldBack, trace };
    case 'refused': {
      const { by, code, parameters } = stop;
      return { status: 'refused', by, code, parameters, command, args, reply, delivery, heldBack, trace } as Ended;
    }
    case 'waiting': {
      const { asks, until } = stop;
      return { status: 'waiting', asks, until, command, args, reply, delivery, heldBack, trace };
    }
    case 'invalid': {
      const { problems, code, parameters } = stop;
      return {
        status: 'invalid',
        problems,
        code,
        parameters,
        command,
        args,
        reply,
        delivery,
        heldBack,
        trace,
      } as Ended;
    }
    case 'failed': {
      const { code, parameters } = stop;
      return { status: 'failed', code, parameters, command, args, reply, delivery, heldBack, trace } as Ended;
    }
  }
}

function tellEnded({ state, stop }: Answered, timings: Timings, outcome: Ended): void {
  const { services, input, platform } = heardOf(state);
  const { events } = services;
  timings.mark('reply');
  const { hearing } = events;
  if (!hearing[outcome.status] && !hearing.ended) return;
  const event: EndedEvent = {
    input,
    platform: platform?.name,
    command: commandOf(state)?.name,
    alias: aliasOf(state),
    status: outcome.status,
    code: codeOf(stop),
    outcome,
    error: stop.status === 'failed' ? stop.error : undefined,
    tookMs: timings.totalMs(),
    stagesMs: () => timings.stagesMs(),
  };
  events.tell(outcome.status, event as LayerEvents[typeof outcome.status]);
  events.tell('ended', event);
}
