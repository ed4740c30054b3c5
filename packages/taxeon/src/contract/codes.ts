/** Every code the layer gives, with the parameters its message gets. The one list of them. */
import type { Duration } from '../base/time.js';
import type { Expectation } from './expectation.js';
import type { Surface } from './input.js';
import type { Visibility } from './notice.js';
import type { Words } from './words.js';

/** Why a value was not taken for an argument: it is of another form, a number without its unit, or beyond a bound. */
export type Misfit = 'shape' | 'unit' | 'below' | 'above' | 'own';

/** What a bound is a bound of, so that a message finds the word: too much, too long, too late, too many, too large. */
export type Measure = 'amount' | 'length' | 'moment' | 'count' | 'size';

/** Something a caller does not have, or has and must not. */
export interface Missing {
  readonly what: 'permission' | 'role' | 'ownership';
  readonly name: string;
  readonly without: boolean;
}

/** What each code tells beside its name, for messages and hooks. */
export interface CodeParameters {
  'command.unknown': {
    /** Empty where the bot was called and no name was said. */
    readonly name: string;
    readonly because: 'unknown' | 'unnamed';
    readonly near: readonly string[];
    /** What to write for help, where the bot was called by its name. */
    readonly help: string | undefined;
  };
  /** The command was there when it was registered, and is not any more. */
  'command.changed': { readonly name: string };
  'command.unavailable': {
    readonly command: string;
    /**
     * It is not reached this way, it is switched off in this guild, it is not for this guild, or the platform has no way
     * to look up what it names.
     */
    readonly because: 'surface' | 'off' | 'scope' | 'look-up';
    readonly surface: Surface;
  };
  'place.wrong': { readonly command: string; readonly allowed: 'guild' | 'direct'; readonly atConsole: boolean };
  'permission.caller': {
    /** All that is missing on the shortest way to pass; empty where the guild denies it. */
    readonly missing: readonly Missing[];
    readonly denied: boolean;
  };
  'permission.bot': { readonly name: string };
  'permission.rank': {
    /** Whose rank is too low. */
    readonly of: 'caller' | 'bot';
    readonly argument: string;
    readonly who: string;
    readonly because: 'not-above' | 'self' | 'unknown';
  };
  'permission.target': {
    readonly argument: string;
    readonly who: string;
    /** What the target is, can do, or fails to be. */
    readonly because: 'the-bot' | 'unknown' | 'several' | 'a-bot' | 'no-bot' | 'can' | 'lacks';
    readonly permission: string;
  };
  'argument.missing': { readonly argument: string; readonly expected: Expectation };
  'argument.invalid': {
    readonly argument: string;
    readonly read: string;
    readonly expected: Expectation;
    readonly misfit: Misfit;
    readonly measure: Measure;
    /** Labels like the one that was read. */
    readonly near: readonly string[];
  };
  'argument.ambiguous': { readonly argument: string; readonly read: string; readonly matches: readonly string[] };
  'argument.absent-member': { readonly argument: string; readonly read: string };
  'argument.extra': {
    readonly read: string;
    /** Nothing takes it, or it stands twice. */
    readonly because: 'left-over' | 'twice';
    /** The argument that would not have it, where one was tried. */
    readonly argument: string | undefined;
    readonly expected: Expectation | undefined;
  };
  'argument.unknown': { readonly name: string; readonly near: readonly string[] };
  'input.malformed': { readonly what: 'unclosed-quote' };
  'requirement.failed': {
    /** The argument that is to blame, where one is. */
    readonly argument: string | undefined;
    /** The bot's own words; absent where it has none. */
    readonly reason: string | undefined;
  };
  'cooldown.active': { readonly counts: string; readonly retryAfterMs: number; readonly endsAt: number };
  'running.full': { readonly counts: string; readonly most: number };
  'store.unavailable': { readonly reference: string };
  /** `asked`: the argument that was asked for, or the question. */
  'answer.none': {
    readonly asked: string;
    /** Nobody answered in time, something else is being asked, or nobody can be asked here. */
    readonly because: 'late' | 'busy' | 'nobody';
  };
  'answer.stopped': { readonly asked: string };
  'layer.closing': Readonly<Record<never, never>>;
  'handler.failed': { readonly reference: string };
  /** `afterMs`: how long it was waited for; `undefined` where the layer was closing. */
  'handler.timeout': { readonly afterMs: number | undefined; readonly reference: string };
  'callback.failed': { readonly reference: string };
  'platform.forbidden': { readonly reference: string };
  'platform.gone': { readonly reference: string };
  'platform.unreachable': { readonly reference: string };
  'platform.slowed': { readonly reference: string };
  'platform.failed': { readonly reference: string };
}

/** The stable name of every refusal, mistake and failure of the layer’s. */
export type Code = keyof CodeParameters;

type OfFamily<Family extends string> = Extract<Code, `${Family}.${string}`>;

/** Codes of what does not read. */
export type InvalidCode = OfFamily<'argument' | 'input'>;
/** What a platform says of itself: met inside a handler it fails the call; of a delivery it is told beside the status. */
export type DeliveryCode = OfFamily<'platform'>;
/** Codes of what failed. */
export type FailedCode = OfFamily<'handler' | 'callback' | 'platform'>;
/** Codes of what is refused. */
export type RefusedCode = Exclude<Code, InvalidCode | FailedCode>;

/**
 * Whether something has one of the layer's codes: an outcome, a problem, or what a hook is told. Its parameters are then
 * of that code's type.
 *
 * @example
 * const outcome = await layer.handle(input, platform);
 * if (hasCode(outcome, 'cooldown.active')) console.log(outcome.parameters.retryAfterMs);
 */
export function hasCode<Told extends object, C extends Code>(told: Told, code: C): told is Told & Coded<C> {
  return 'code' in told && told.code === code;
}

/** A bot's own words for codes: a sentence, or a function of the code's parameters. */
export type MessageOverrides = {
  readonly [C in Code]?: string | ((parameters: CodeParameters[C], words: Words) => string);
};

/** Own words for what may be wrong with one argument. */
export type ArgumentMessages = {
  readonly [C in Code as 'argument' extends keyof CodeParameters[C] ? C : never]?: MessageOverrides[C];
};

/** Who sees what is said for a code, and for how long, and what stands under it. */
export interface MannerOptions {
  readonly visibleTo?: Visibility;
  /** After how long it is taken away again, where the platform can. */
  readonly expires?: Duration | 'never';
  /** Whether the command's usage and an example stand under it, where an argument is to blame; yes by default. */
  readonly usage?: boolean;
}

/** By code, codes of the bot's own too, or by family: `'argument.*'`. What is said of a code itself counts first. */
export type Manners = Readonly<Record<string, MannerOptions>>;

/** One of `C`'s codes together with its own parameters, so that a `switch` narrows both. */
export type Coded<C extends Code> = {
  readonly [K in C]: { readonly code: K; readonly parameters: CodeParameters[K] };
}[C];
