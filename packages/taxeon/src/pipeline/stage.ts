/** What a stage is. The order of all of them is in stages.ts. */
import type { MaybePromise } from '../base/thenable.js';
import type { Code } from '../contract/codes.js';
import type { Input } from '../contract/input.js';
import type { Ignored, Outcome } from '../contract/outcome.js';
import type { Platform } from '../contract/platform.js';
import type { StageName } from '../contract/trace.js';
import type { Services } from './services.js';
import type { Heard, State } from './state.js';
import type { RefusedStop, Stop } from './stop.js';

interface Named {
  readonly name: StageName;
}

/** For the table in docs/architecture.md. Apart from the stage, so that no bot carries it along. */
export interface StageInWords {
  readonly does: string;
  readonly stopsWith: readonly (Code | 'ignored' | 'waiting' | 'the handler’s own')[];
}

/** Something that was asked for is answered: the input that the answer makes of the one that asked. */
export interface Answering {
  readonly status: 'answering';
  readonly input: Input;
  readonly nameAt: number;
}

/** Where the command's name begins, why nobody is answered, or why the caller is refused; or what is answered. */
export type Hearing = number | Ignored['because'] | RefusedStop | Answering;

/** Before there is a state: most inputs are ordinary chat, and leave here. */
export interface Gate extends Named {
  readonly kind: 'gate';
  /**
   * Hot path: bench/rows/calls.
   *
   * @param looks nothing is to be remembered of the input
   */
  hear(services: Services, input: Input, platform: Platform | undefined, looks: boolean): MaybePromise<Hearing>;
  /** In words for the bot's developer. */
  passed(heard: Heard): string;
}

/** Gives the next state, or why the input goes no further. */
export interface Step<From extends State, To extends State> extends Named {
  readonly kind: 'step';
  take(state: From): MaybePromise<To | Stop>;
  /** In words for the bot's developer. */
  passed(state: To): string;
  /** Waits on its own terms; any other step is waited for as long as the layer's patience says. */
  readonly waitsItself?: true;
}

/** From a stop on, which every input passes, wherever it stopped. */
export interface ReplyEnd<To> extends Named {
  readonly kind: 'end';
  /** @param use takes what it comes to, for as long as that is synchronous without a promise in between */
  end<T>(state: State, stop: Stop, use: (to: To) => T): MaybePromise<T>;
}

/** To the outcome. */
export interface SettleEnd<From> extends Named {
  readonly kind: 'end';
  end(from: From): Outcome;
}

// biome-ignore lint/suspicious/noExplicitAny: what goes in and out of each is checked where they are put in order
export type AnyStage = Gate | Step<any, any> | ReplyEnd<any> | SettleEnd<any>;
