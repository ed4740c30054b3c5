/** Stage 11: uses counted, listeners told, and the outcome. */
import type { CodeParameters } from '../contract/codes.js';
import type { EndedEvent, LayerEvents } from '../contract/events.js';
import type { Outcome } from '../contract/outcome.js';
import type { SparseLog } from '../observe/sparse-log.js';
import type { Timings } from '../observe/timings.js';
import type { UsageCounter } from '../observe/usage.js';
import { aliasOf } from './run.js';
import type { End, StageInWords } from './stage.js';
import { argsOf, commandOf, type Heard, heardOf, type Stopped } from './state.js';
import { codeOf } from './stop.js';

type Settled = Exclude<Outcome, { status: 'ignored' }>;

export interface SettleNeeds {
  readonly usage: UsageCounter | undefined;
  /** Told of names that no command has. */
  readonly unknown: SparseLog;
}

export const settle: End<Stopped, Outcome, SettleNeeds> = { kind: 'end', name: 'settle', take: settleOutcome };

export const settleInWords: StageInWords = { does: 'counts the use, tells events', stopsWith: [] };

/** Never throws. Hot path: bench/rows/calls. */
function settleOutcome(stopped: Stopped, needs: SettleNeeds): Settled {
  const { state, stop } = stopped;
  const heard = heardOf(state);
  const { recorder, timings, input, platformName } = heard;
  recorder?.passed('settle');
  const outcome = outcomeOf(stopped);
  const command = commandOf(state);
  if (command !== undefined) needs.usage?.count(input, platformName, command.id, outcome.status);
  else if (stop.status === 'refused' && stop.by === 'layer' && stop.code === 'command.unknown')
    tellUnknown(needs, heard, stop.parameters);
  if (timings !== undefined) tellEnded(stopped, timings, outcome);
  return outcome;
}

/** What people look for and do not find. Under one heading: a stranger must not fill a store with names. */
function tellUnknown(
  { usage, unknown }: SettleNeeds,
  { input, platformName, guild }: Heard,
  { name, near }: CodeParameters['command.unknown'],
): void {
  usage?.count(input, platformName, '', 'refused');
  unknown.tell({ name, near, platform: platformName, guild: guild?.id });
}

/** Written out, since spreading costs more than all of it: bench/rows/calls. */
function outcomeOf({ state, stop, reply, delivery, heldBack }: Stopped): Settled {
  const command = commandOf(state)?.name;
  const args = argsOf(state);
  const trace = heardOf(state).recorder?.trace();
  switch (stop.status) {
    case 'completed':
      return { status: 'completed', command, args, reply, delivery, heldBack, trace };
    case 'refused': {
      const { by, code, parameters } = stop;
      return { status: 'refused', by, code, parameters, command, args, reply, delivery, heldBack, trace } as Settled;
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
      } as Settled;
    }
    case 'failed': {
      const { code, parameters } = stop;
      return { status: 'failed', code, parameters, command, args, reply, delivery, heldBack, trace } as Settled;
    }
  }
}

function tellEnded({ state, stop }: Stopped, timings: Timings, outcome: Settled): void {
  const { basis, input, platform } = heardOf(state);
  const { events } = basis;
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
