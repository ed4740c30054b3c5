/** What a stage is. The order of all of them is in stages.ts; what sends inputs through them in runner.ts. */
import type { MaybePromise } from '../base/thenable.js';
import type { Code } from '../contract/codes.js';
import type { Input } from '../contract/input.js';
import type { Ignored } from '../contract/outcome.js';
import type { Platform } from '../contract/platform.js';
import type { StageName } from '../contract/trace.js';
import type { SparseLog } from '../observe/sparse-log.js';
import type { CourseOpening, Heard, State, Stopped } from './state.js';
import type { Stop } from './stop.js';

interface StageBase {
  readonly name: StageName;
}

/** For the table in docs/architecture.md. Apart from the stage, so that no bot carries it along. */
export interface StageInWords {
  readonly does: string;
  readonly stopsWith: readonly (Code | 'ignored' | 'waiting' | 'the handler’s own')[];
}

/** Through what inputs are sent, and how: made once a layer. */
export interface Course extends CourseOpening {
  /** Told of what a platform gave that is no input. */
  readonly malformed: SparseLog;
  readonly stages: readonly WiredStage[];
  /** Where those begin that every input passes, wherever it stopped. */
  readonly endsAt: number;
  /** Keeps what is waited for alive in the chat; gives what ends that. */
  readonly watch: ((heard: Heard) => (() => void) | undefined) | undefined;
}

/** Before there is a state: most inputs are ordinary chat, and leave here. */
export interface Gate<Needs = undefined> extends StageBase {
  readonly kind: 'gate';
  /** The last gate gives a state, or where it stopped; one before it nothing. Hot path: bench/rows/calls. */
  take(
    course: Course,
    input: Input,
    platform: Platform | undefined,
    needs: Needs,
  ): MaybePromise<Heard | Stopped | Ignored['because'] | undefined>;
  /** In words for the bot's developer. */
  passed(heard: Heard): string;
}

/** Gives the next state, or why the input goes no further. */
export interface Step<From extends State, To extends State, Needs = undefined> extends StageBase {
  readonly kind: 'step';
  take(state: From, needs: Needs): MaybePromise<To | Stop>;
  /** In words for the bot's developer. */
  passed(state: To): string;
  /** Waits on its own terms; any other step is waited for as long as the layer's patience says. */
  readonly waitsItself?: true;
}

/** What every input passes, wherever it stopped; never throws. */
export interface End<From, To, Needs, Came = never> extends StageBase {
  readonly kind: 'end';
  take(from: From, needs: Needs): To | PromiseLike<Came>;
  /** With what it waited for: the runner waits, so that a call makes one promise. */
  came?(from: From, given: Came, needs: Needs): To;
  failed?(from: From, error: unknown): To;
}

// biome-ignore lint/suspicious/noExplicitAny: what goes in and out of each is checked where they are put in order
export type AnyStage = Gate<any> | Step<any, any, any> | End<any, any, any, any>;

/** With what it needs of this layer. */
export type WiredStage = AnyStage & { readonly needs: unknown };
