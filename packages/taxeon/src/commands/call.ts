/** What a handler gets, and what it may give back. */
import { bears, mark } from '../base/mark.js';
import type { MaybePromise } from '../base/thenable.js';
import type { Actor, GuildActor } from '../contract/actors.js';
import type { Code, Coded } from '../contract/codes.js';
import type { Input, Surface } from '../contract/input.js';
import type { Notice, Saying } from '../contract/notice.js';
import type { Channel, Guild, Place } from '../contract/places.js';
import type { Platform } from '../contract/platform.js';
import type { Words } from '../contract/words.js';
import type { Arg } from './arg.js';
import type { Worded, Wording } from './worded.js';

/** Where a command may be called. */
export type Whereabouts = 'guild' | 'direct' | 'anywhere';

/**
 * One running use of a command. A value of its own: it can be spread, taken apart and passed on, and its data can be
 * written as JSON.
 */
export interface Call<Args = Readonly<Record<string, unknown>>, In extends Whereabouts = Whereabouts> {
  readonly args: Args;
  readonly caller: In extends 'guild' ? GuildActor : Actor;
  readonly guild: In extends 'guild' ? Guild : In extends 'direct' ? undefined : Guild | undefined;
  /** Absent at the console, unless its input names a guild's. */
  readonly channel: In extends 'guild' ? Channel : Channel | undefined;
  readonly place: Place;
  /** The platform's name, of which all ids are; empty where the input came without one. */
  readonly platform: string;
  readonly surface: Surface;
  /** The base name, whichever alias was typed. */
  readonly command: string;
  /** The platform's event id, where it has one. */
  readonly inputId: string | undefined;
  /** The language that the caller is answered in; BCP 47. */
  readonly locale: string;
  /** Lists, numbers, durations and dates in that language. */
  readonly words: Words;
  /** The layer's time when the call began, in milliseconds. */
  readonly now: number;
  /** Aborted when nobody waits for the handler any more: its time is up, or the layer closes. */
  readonly signal: () => AbortSignal;
  /** One short line on whose doing this is, for a platform's own record. */
  readonly attribution: () => string;
  /**
   * Says something now: the first time the reply, then further messages. What the handler gives back comes
   * after it. Once nobody waits for the handler any more, it is dropped and logged.
   *
   * @throws PlatformError where it was not taken.
   */
  readonly reply: (saying: Sayable) => Promise<Said>;
  /**
   * Asks the caller for a value, in the place of the call, and waits for their answer. The handler's time stands still
   * meanwhile. Without an answer the call ends as refused, with `answer.none` or `answer.stopped`.
   *
   * @throws what ends the call; a handler that catches it cannot complete the call any more
   */
  readonly ask: <Value>(wanted: Arg<Value>, question: Sayable) => Promise<Value>;
  /**
   * Asks the caller for a yes; a no ends the call as `ask` does.
   *
   * @throws what ends the call
   */
  readonly confirm: (question: Sayable) => Promise<void>;
  /** How far the handler is, from 0 to 1, shown where a message can be edited, and not more often than is pleasant. */
  readonly progress: (fraction: number, doing?: string) => void;
  /**
   * Says something to a person alone. Best effort; never throws. The caller is told the same thing only once, and
   * what is no person is unreachable.
   */
  readonly tell: (person: Actor, saying: Sayable) => Promise<'delivered' | 'unreachable'>;
  /**
   * Says something in a channel.
   *
   * @throws PlatformError where it was not taken.
   */
  readonly post: (channel: Channel, saying: Sayable) => Promise<void>;
  /** Takes the caller's message away, where the platform can. Best effort; whether it is gone. */
  readonly removeInput: () => Promise<boolean>;
  /**
   * The text that mentions a person, or the name of what is no person. Only who was named through this is pinged,
   * whatever else a reply says.
   */
  readonly mention: (person: Actor) => string;
  /** For queries and adapters, which find the input through it; a spread keeps it. */
  readonly [callOrigin]: CallOrigin;
}

export const callOrigin: unique symbol = Symbol.for('taxeon.call');

/** What the platform has given. */
export interface CallOrigin {
  readonly input: Input;
  readonly platform: Platform | undefined;
  /** Where in the text the command's name begins, behind the prefix. */
  readonly nameAt: number;
}

/** What can be said: a sentence, a notice, or a message of one's own in the caller's language. */
export type Sayable = string | Saying | Worded;

/** Something that was said. */
export interface Said {
  /** Changes it; whether the platform did. */
  edit(saying: Sayable): Promise<boolean>;
  /** Takes it away; whether the platform did. */
  remove(): Promise<boolean>;
}

/** A handler's own no: the call was understood and is declined. */
export class Refusal {
  readonly [mark] = 'refusal';

  constructor(
    readonly code: string,
    /** A sentence, or what makes one in the caller's language. */
    readonly reason: string | Wording,
    readonly parameters: Readonly<Record<string, unknown>> = {},
  ) {}
}

declare const codeOfTheLayer: unique symbol;

/** Nothing is of this type: a compiler names it where a bot refuses with a code that is the layer's. */
export interface LayerCode<C> {
  readonly [codeOfTheLayer]: C;
}

/**
 * Declines a call for a reason of the bot's own; return it, or throw it from deeper down.
 *
 * @param code dotted and stable, for logs and tests: `'tool.out'`; none of the layer's own
 * @param reason the sentence that the caller reads
 *
 * @example
 * const run = () => refuse('tool.out', 'The drill is with Wren.');
 */
export function refuse<const C extends `${string}.${string}`>(
  code: C extends Code ? LayerCode<C> : C,
  reason: string,
): Refusal {
  return new Refusal(code as string, reason);
}

export function isRefusal(value: unknown): value is Refusal {
  return bears(value, 'refusal');
}

/** What a check across arguments finds wrong, and with which of them. */
export class Blame {
  readonly [mark] = 'blame';

  constructor(
    readonly argument: string,
    readonly reason: string,
  ) {}
}

export function isBlame(value: unknown): value is Blame {
  return bears(value, 'blame');
}

/** What a hook on refusals is told: `by` says whether the code is the layer's or the handler's own. */
export type RefusalTold = {
  readonly status: 'refused' | 'invalid' | 'failed';
  /** What the caller would read; `undefined` where nothing would be said. */
  readonly notice: Notice | undefined;
} & (
  | (Coded<Code> & { readonly by: 'layer' })
  | { readonly by: 'handler'; readonly code: string; readonly parameters: { readonly reason: string } }
);

/**
 * Called for every input that does not complete. What it gives is said in place of the catalogue's notice, to whom and
 * for how long that would have been, unless it says so itself; where it gives nothing, or throws, the catalogue's is.
 */
export type RefusalHook = (refusal: RefusalTold, call: Call) => MaybePromise<Sayable | undefined>;

/**
 * Runs around a handler: before `next()`, after it, or in its place. What it gives is the answer.
 * `next` gives what the handler gave, and may be called once.
 */
export type AroundHook = (call: Call, next: () => Promise<Answer>) => MaybePromise<Answer>;

/** What a handler may give back: something to say, its own refusal, or nothing. */
export type Answer = Sayable | Refusal | undefined;
