/** Sides of a comparison whose operation is a call: each person calls in turn, and each call must be answered. */
import type { CommandLayer, HandleOptions, Member, Outcome } from 'taxeon';
import type { Input, Platform, Reply } from 'taxeon/platform';
import type { ByHand } from '../bots/by-hand.js';
import {
  CALLERS,
  callersLike,
  invocation,
  type MovableClock,
  message,
  movableClock,
  rememberingPlatform,
  steward,
} from '../bots/oddmere.js';
import type { Side } from './compare.js';

/** When everybody has called, cooldowns end. */
const ROUND_MS = 61_000;
export const CALLS = 2_000;

type Call = (input: Input, platform: Platform) => unknown;

export interface CallsOptions {
  readonly name: string;
  /** Makes the side's bot, on a clock of its own. */
  call(clock: MovableClock): Call;
  /** The code, or the status where there is none, of every call. */
  readonly expected: string;
  readonly inputs?: readonly Input[];
  /** Whether every call has an event id of its own. */
  readonly withIds?: boolean;
}

export const textCalls = (caller: Member = steward): readonly Input[] =>
  callersLike(caller).map((one, index) =>
    message(`!charge [p:person-0000000000002] ${1 + (index % 500)} the saw came back late`, one),
  );

export const slashCalls = (): readonly Input[] =>
  callersLike(steward).map((one, index) =>
    invocation({ who: '[p:person-0000000000002]', pence: 1 + (index % 500), note: 'the saw came back late' }, one),
  );

/** Awaits one call after the other. */
export function callsOf({ name, call, expected, inputs = textCalls(), withIds = false }: CallsOptions): Side {
  const clock = movableClock();
  const ask = call(clock);
  const replies: Reply[] = [];
  const platform = rememberingPlatform({ replies });
  let at = 0;
  let ids = 0;
  let batch: readonly Input[] = [];
  return {
    name,
    prepare(size) {
      if (at + size > CALLERS) {
        at = 0;
        clock.moveOn(ROUND_MS);
      }
      batch = inputs.slice(at, at + size);
      at += size;
      if (withIds) batch = batch.map((input) => ({ ...input, id: `e${++ids}` }));
      replies.length = 0;
    },
    async batch(size) {
      for (let index = 0; index < size; index++) {
        const result = await ask(batch[index] as Input, platform);
        if (codeOf(result) !== expected) throw new Error(`${name}: ${JSON.stringify(result)}`);
      }
      if (replies.length !== size) throw new Error(`${name} answered ${replies.length} of ${size} calls`);
    },
  };
}

function codeOf(result: unknown): unknown {
  if (typeof result !== 'object' || result === null) return result;
  const outcome = result as Outcome;
  return 'code' in outcome ? outcome.code : outcome.status;
}

/** Calls of a bot that is written by hand. */
export function byHand(name: string, make: (now: () => number) => ByHand<unknown>, inputs?: readonly Input[]): Side {
  return callsOf({
    name,
    call(clock) {
      const bot = make(clock.now);
      return (input, platform) => bot.onMessage(input, platform);
    },
    expected: 'completed',
    ...(inputs === undefined ? {} : { inputs }),
  });
}

/** Calls of a layer. */
export function layered(
  name: string,
  make: (clock: MovableClock) => CommandLayer,
  { options, ...rest }: Partial<CallsOptions> & { readonly options?: HandleOptions } = {},
): Side {
  return callsOf({
    name,
    call(clock) {
      const layer = make(clock);
      return (input, platform) => layer.handle(input, platform, options);
    },
    expected: 'completed',
    ...rest,
  });
}
