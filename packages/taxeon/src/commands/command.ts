/** `command`: one declaration from which everything about a command derives. */
import type { MaybePromise } from '../base/thenable.js';
import type { Duration } from '../base/time.js';
import type { Manners, MessageOverrides } from '../contract/codes.js';
import type { Surface } from '../contract/input.js';
import type { Key } from '../contract/key.js';
import type { Audience } from '../contract/notice.js';
import type { Words as LocalWords } from '../contract/words.js';
import type { ArgMap, GivenOf, ValuesOf, WhenMissing } from './arg.js';
import type { Answer, AroundHook, Blame, Call, RefusalHook, Whereabouts } from './call.js';
import type { Cooldowns, RunningLimits } from './cooldowns.js';
import type { ListOfRequirements, RequirementBuilder } from './requirements.js';
import type { AnyWords, Vocabulary } from './words.js';

/** A member, a role, a channel or a guild's own thing is a guild's, so an argument that reads one implies a guild. */
type EffectiveIn<Args extends ArgMap, In extends Whereabouts> = [GuildBound<Args>] extends [never] ? In : 'guild';

type GuildBound<Args extends ArgMap> = {
  [Name in keyof Args]: Args[Name] extends { readonly type: `${string}${'member' | 'role' | 'channel' | 'in guild'}` }
    ? Name
    : never;
}[keyof Args];

type ScopeName<Words extends AnyWords> = 'everywhere' | Words['scope'] | Key;

/** `'everywhere'`, a set of guilds by name, a guild such as `irc/#oddmere`, or several of them. */
export type Scope<Words extends AnyWords = AnyWords> = ScopeName<Words> | readonly ScopeName<Words>[];

/** A command's name and descriptions in another language. */
export interface Localized {
  readonly name?: string;
  readonly description?: string;
  /** Descriptions of arguments, by their names. */
  readonly args?: Readonly<Record<string, string>>;
}

/** By locale. */
export type AllLocalized = Readonly<Record<string, Localized>>;

/** What a developer writes. */
export interface Declaration<Args extends ArgMap, In extends Whereabouts, Words extends AnyWords = AnyWords> {
  /** What people type: letters, digits, `-` and `_`, at most 40. */
  readonly name: string;
  /** Other names for the same command; they share its cooldowns. */
  readonly aliases?: readonly string[];
  /** What it does, in one line. */
  readonly description: string;
  /** Stable across a rename; the name by default. */
  readonly id?: string;
  /** Where it may be called; `'anywhere'` by default, `'guild'` where an argument is a member. */
  readonly in?: In;
  /** How it is reached; text and slash by default, and the console with text. */
  readonly surfaces?: readonly Exclude<Surface, 'program'>[];
  /** The arguments, in the order in which they are typed. */
  readonly args?: Args;
  /** Who may run it: every requirement must hold. */
  readonly requires?: (builder: RequirementBuilder<Args, Words>) => ListOfRequirements;
  /** How often it may be used, by whom it counts. */
  readonly cooldowns?: Cooldowns<Args, Words>;
  /** How many calls may run at once, by whom they count. */
  readonly running?: RunningLimits;
  /** Whether a required argument that is missing or wrong is asked for; as the group or the layer says by default. */
  readonly whenMissing?: WhenMissing;
  /**
   * What the caller must say yes to before anything is taken of its limits: a question, or what makes one of the
   * arguments. The bot's own code is not asked.
   */
  confirm?: string | ((args: ValuesOf<Args>, words: LocalWords) => string);
  /** A check across arguments: `blame` one of them, with what is wrong with it, or give nothing. */
  together?(
    args: ValuesOf<Args>,
    blame: (argument: keyof Args & string, reason: string) => Blame,
  ): MaybePromise<Blame | undefined>;
  /**
   * Who sees what the handler says; `'everyone'` by default. `'caller'` is strict: where the platform cannot hide it, the
   * caller is told directly, or it is not said. With `'caller-if-possible'` it is said in the place there.
   */
  readonly visibleTo?: Audience;
  /** How long the handler may take; as the layer says by default. Waiting for the platform's pacing does not count. */
  readonly timeout?: Duration;
  /** Own words for codes, in place of the layer's. */
  readonly messages?: MessageOverrides;
  /** Who sees what is said for a code, and for how long, in place of what the layer says. */
  readonly manners?: Manners;
  /**
   * Where it is registered, and so where it may be called at all: `'everywhere'`, the name of a set of guilds that the
   * layer has in `scopes`, a guild's id, or several of them. As the layer says by default.
   */
  readonly scope?: Scope<Words>;
  /**
   * What people see of it in other languages, in help and where slash commands are registered: by locale, or a function
   * of the words of each of the layer's languages.
   */
  readonly localized?: AllLocalized | ((words: LocalWords) => Localized);
  /** The heading under which help lists it. */
  readonly section?: string;
  /** The module that it is in, by which a guild can switch it off; `loadModules` says it. */
  readonly module?: string;
  /** Lines that show how it is used, without prefix and name: `drill 2 days`. Their form is checked. */
  readonly examples?: readonly string[];
  /**
   * Who calls the bot by its name, and says no command of it, is pointed here; to the first of several. The ready help
   * command says so of itself.
   */
  readonly isHelp?: boolean;
  /** Runs around the handler, inside the groups' and the layer's own. */
  readonly around?: AroundHook;
  /** Called for every call of the command that does not complete; in place of its group's and the layer's own hook. */
  readonly onRefusal?: RefusalHook;
  run(call: Call<ValuesOf<Args>, EffectiveIn<Args, In>>): HandlerResult;
}

/** What a handler gives: what it says, a refusal, or nothing; at once or later. */
export type HandlerResult = MaybePromise<Answer> | MaybePromise<void>;

declare const givenArgs: unique symbol;

/** A declared command. `Given` is what `layer.invoke` takes for its arguments. */
export interface Command<Given = unknown> {
  readonly declaration: AnyDeclaration;
  /** To which words it is held, where it was made by a `vocabulary`. */
  readonly words?: Vocabulary;
  readonly [givenArgs]?: Given;
}

/** A declaration whose argument types are no longer known. */
export interface AnyDeclaration extends Omit<Declaration<ArgMap, Whereabouts>, 'run' | 'together' | 'confirm'> {
  confirm?: string | ((args: Call['args'], words: LocalWords) => string);
  together?(args: Call['args'], blame: (argument: string, reason: string) => Blame): MaybePromise<Blame | undefined>;
  run(call: Call): HandlerResult;
}

/**
 * Declares a command. Nothing is checked here: `createCommandLayer` tells all problems of all
 * commands at once.
 *
 * @example
 * const shelf = command({
 *   name: 'shelf',
 *   description: 'What stands on the shelf',
 *   args: { kind: arg.choice(['garden', 'power'], { optional: true }) },
 *   run: ({ args }) => `Everything ${args.kind ?? 'we have'} is here.`,
 * });
 */
export function command<
  const Args extends ArgMap = Readonly<Record<never, never>>,
  const In extends Whereabouts = 'anywhere',
>(declaration: Declaration<Args, In>): Command<GivenOf<Args>> {
  return { declaration: declaration as unknown as AnyDeclaration };
}
