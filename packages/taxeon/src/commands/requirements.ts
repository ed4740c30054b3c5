/** Requirements: conditions as data, so that one declaration serves the check, the help and the tables. */
import type { MaybePromise } from '../base/thenable.js';
import type { Actor } from '../contract/actors.js';
import type { Guild, Place } from '../contract/places.js';
import type { ArgMap, MemberNames, ValuesOf } from './arg.js';

/** What a condition of the developer's own may look at. */
export interface ConditionContext<Args = Readonly<Record<string, unknown>>> {
  readonly caller: Actor;
  readonly args: Args;
  readonly guild: Guild | undefined;
  readonly place: Place;
  /** The layer's time, in milliseconds. */
  readonly now: number;
}

/** Whether it holds, or the sentence that tells the caller why not. */
export type ConditionResult = true | string;

/** One condition of who may run a command. */
export type Requirement =
  | { readonly kind: 'can'; readonly of: 'caller' | 'bot'; readonly permission: string }
  | { readonly kind: 'holds'; readonly role: string }
  | { readonly kind: 'owns-bot' }
  | {
      readonly kind: 'outranks';
      readonly of: 'caller' | 'bot';
      readonly argument: string;
      readonly orSelf: boolean;
      readonly orBot: boolean;
    }
  | { readonly kind: 'target-can'; readonly argument: string; readonly permission: string }
  | { readonly kind: 'target-is-bot'; readonly argument: string }
  | {
      readonly kind: 'own';
      /** What it asks, in words: `the library is open`. */
      readonly words: string;
      readonly holds: (context: ConditionContext) => MaybePromise<ConditionResult>;
    }
  | { readonly kind: 'all'; readonly of: readonly Requirement[] }
  | { readonly kind: 'any'; readonly of: readonly Requirement[] }
  | { readonly kind: 'not'; readonly of: Requirement };

export interface RankOptions {
  /** Whether the caller may name themselves. */
  readonly orSelf?: boolean;
  /** Whether the bot may be named, if it ranks below. */
  readonly orBot?: boolean;
}

/** What a `requires` function builds its list from. Requirements exist only there. */
export interface RequirementBuilder<Args extends ArgMap> {
  readonly caller: {
    /** The platform, or one of the bot's own roles, gives the caller this permission here. */
    can(permission: string): Requirement;
    /** The caller has this role in the guild, by the bot's own name for it. */
    holds(role: string): Requirement;
    /** The caller is one of the bot's owners. */
    ownsBot(): Requirement;
    /** The caller's rank is above that of the member argument; equal is not above. */
    outranks(argument: MemberNames<Args>, options?: RankOptions): Requirement;
  };
  readonly bot: {
    can(permission: string): Requirement;
    outranks(argument: MemberNames<Args>, options?: Pick<RankOptions, 'orBot'>): Requirement;
  };
  /** The member that an argument names; an argument that is absent passes, either way. */
  target(argument: MemberNames<Args>): {
    can(permission: string): Requirement;
    isBot(): Requirement;
  };
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

const can =
  (of: 'caller' | 'bot') =>
  (permission: string): Requirement => ({ kind: 'can', of, permission });

const outranks =
  (of: 'caller' | 'bot') =>
  (argument: string, { orSelf = false, orBot = false }: RankOptions = {}): Requirement => ({
    kind: 'outranks',
    of,
    argument,
    orSelf,
    orBot,
  });

/** The one builder there is; its type narrows the argument names for each command. */
export const requirementBuilder: RequirementBuilder<ArgMap> = {
  caller: {
    can: can('caller'),
    holds: (role) => ({ kind: 'holds', role }),
    ownsBot: () => ({ kind: 'owns-bot' }),
    outranks: outranks('caller'),
  },
  bot: { can: can('bot'), outranks: outranks('bot') },
  target: (argument) => ({
    can: (permission) => ({ kind: 'target-can', argument, permission }),
    isBot: () => ({ kind: 'target-is-bot', argument }),
  }),
  allOf: (...of) => ({ kind: 'all', of }),
  anyOf: (...of) => ({ kind: 'any', of }),
  not: (of) => ({ kind: 'not', of }),
  condition: (words, holds) => ({
    kind: 'own',
    words,
    holds: holds as (context: ConditionContext) => MaybePromise<ConditionResult>,
  }),
};

/** All conditions in a requirement that are not made of others. */
export function* leavesOf(requirement: Requirement): Iterable<Requirement> {
  if (requirement.kind === 'all' || requirement.kind === 'any') for (const one of requirement.of) yield* leavesOf(one);
  else if (requirement.kind === 'not') yield* leavesOf(requirement.of);
  else yield requirement;
}

/** `caller can fine`, `who is no bot`. */
export function requirementInWords(requirement: Requirement): string {
  switch (requirement.kind) {
    case 'can':
      return `${requirement.of} can ${requirement.permission}`;
    case 'holds':
      return `caller holds ${requirement.role}`;
    case 'owns-bot':
      return 'caller owns the bot';
    case 'outranks':
      return `${requirement.of} outranks ${requirement.argument}`;
    case 'target-can':
      return `${requirement.argument} can ${requirement.permission}`;
    case 'target-is-bot':
      return `${requirement.argument} is a bot`;
    case 'own':
      return requirement.words;
    case 'all':
      return requirement.of.map(requirementInWords).join(' and ');
    case 'any':
      return requirement.of.map(requirementInWords).join(' or ');
    case 'not':
      return oppositeInWords(requirement.of);
  }
}

function oppositeInWords(requirement: Requirement): string {
  switch (requirement.kind) {
    case 'can':
      return `${requirement.of} cannot ${requirement.permission}`;
    case 'holds':
      return `caller does not hold ${requirement.role}`;
    case 'target-can':
      return `${requirement.argument} cannot ${requirement.permission}`;
    case 'target-is-bot':
      return `${requirement.argument} is no bot`;
    default:
      return `not (${requirementInWords(requirement)})`;
  }
}
