/** Requirements as a developer writes them, and what everybody may know of one. How they are decided stands in access/. */
import type { MaybePromise } from '../base/thenable.js';
import type { Actor } from '../contract/actors.js';
import type { Guild, Place } from '../contract/places.js';
import type { ArgMap, MemberNames, ValuesOf } from './arg.js';
import type { AnyWords } from './words.js';

/** What a condition of the developer's own may look at. */
export interface ConditionContext<Args = Readonly<Record<string, unknown>>> {
  readonly caller: Actor;
  readonly args: Args;
  /** The platform's name, of which all ids are; empty where the input came without one. */
  readonly platform: string;
  readonly guild: Guild | undefined;
  readonly place: Place;
  /** The layer's time, in milliseconds. */
  readonly now: number;
}

/** Whether it holds, or the sentence that tells the caller why not. */
export type ConditionResult = boolean | string;

/** One condition of who may run a command: data, which help, tables, manifest and languages read. */
export interface Requirement {
  /** Names its words in other languages, as `requires.KEY`; empty where it has words of the developer's alone. */
  readonly key: string;
  readonly parameters: RequirementParameters;
  /** What it is made of, where it is made of others. */
  readonly operands: readonly Requirement[];
  readonly english: RequirementWords;
  readonly traits: RequirementTraits;
}

/** What a requirement is about. */
export interface RequirementParameters {
  readonly permission?: string;
  /** One of the bot's own roles. */
  readonly role?: string;
  /** The member argument. */
  readonly argument?: string;
}

/** A requirement in words. */
export interface RequirementWords {
  /** For the bot's developer: `caller can fine`. */
  readonly plain: string;
  /** The same under `not`, where it is not that with “not” in front. */
  readonly opposite?: string;
  /** For people, behind "Needs:": `the permission fine`. */
  readonly needed: string;
  /** And that under `not`. */
  readonly unwanted?: string;
}

/** What others must know of a requirement to treat it right. */
export interface RequirementTraits {
  /** Decided by the caller alone, once and for all. */
  readonly byCaller?: true;
  /** A guild's grant, or owning the bot, may stand in for it. */
  readonly grantable?: true;
  /** Its operands are told as a list, joined so. */
  readonly joins?: 'and' | 'or';
  /** Whether it turns what it is made of around. */
  readonly negates?: true;
  /** It compares ranks. */
  readonly ranks?: true;
  /** The bot may be named there. */
  readonly orBot?: boolean;
  /** The caller may not be named there. */
  readonly notSelf?: boolean;
  /** Whose the permission is that it names. */
  readonly permissionOf?: 'caller' | 'bot' | 'target';
}

/** How ranks are compared. */
export interface RankOptions {
  /** Whether the caller may name themselves. */
  readonly orSelf?: boolean;
  /** Whether the bot may be named, if it ranks below. */
  readonly orBot?: boolean;
}

/** What a `requires` function gives; all of them must hold. */
export interface ListOfRequirements extends ReadonlyArray<Requirement> {}

/** What a `requires` function builds its list from. Requirements exist only there. */
export interface RequirementBuilder<Args extends ArgMap, Words extends AnyWords = AnyWords> {
  readonly caller: {
    /** The platform, or one of the bot's own roles, gives the caller this permission here. */
    can(permission: Words['permission']): Requirement;
    /** The caller has this role in the guild, by the bot's own name for it. */
    holds(role: Words['role']): Requirement;
    /** The caller is one of the bot's owners. */
    ownsBot(): Requirement;
    /** The caller's rank is above that of the member argument; equal is not above. */
    outranks(argument: MemberNames<Args>, options?: RankOptions): Requirement;
  };
  readonly bot: {
    can(permission: Words['permission']): Requirement;
    outranks(argument: MemberNames<Args>, options?: Pick<RankOptions, 'orBot'>): Requirement;
  };
  /** The member that an argument names; an argument that is absent passes, either way. */
  target(argument: MemberNames<Args>): { can(permission: Words['permission']): Requirement; isBot(): Requirement };
  allOf(...requirements: readonly Requirement[]): Requirement;
  anyOf(...requirements: readonly Requirement[]): Requirement;
  not(requirement: Requirement): Requirement;
  /**
   * A condition of one's own, decided once the arguments are read.
   *
   * @param words what it asks, for tables and traces: `the library is open`
   * @param holds true, or the sentence that tells the caller why not
   */
  condition(
    words: string,
    holds: (context: ConditionContext<ValuesOf<Args>>) => MaybePromise<ConditionResult>,
  ): Requirement;
}

/** All conditions in a requirement that are not made of others. */
export function* leavesOf<One extends Requirement & { readonly operands: readonly One[] }>(
  requirement: One,
): Iterable<One> {
  if (requirement.operands.length === 0) yield requirement;
  for (const operand of requirement.operands) yield* leavesOf(operand);
}
