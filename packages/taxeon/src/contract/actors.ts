/** Who can be behind an input, or be named by one. */

/** A role of a guild. Where the platform has no role ids, `id` is the name. */
export interface Role {
  readonly id: string;
  readonly name: string;
  /**
   * Whether only who manages the guild can make or rename it. Where the platform does not tell, settings never find
   * the role by its name, which anybody might give to another.
   */
  readonly isProtected?: boolean;
  /** What it gives, where the platform tells; for tables of who may run what. */
  readonly permissions?: ReadonlySet<string>;
  /** Higher is above. */
  readonly rank?: number;
}

/** A person the platform knows, outside any guild. */
export interface User {
  readonly kind: 'user';
  /** What the platform can prove: never a name that anybody may take. */
  readonly id: string;
  readonly name: string;
  readonly isBot?: boolean;
  /** The platform cannot prove who it is, so it is never one of the bot's owners, whatever its id. */
  readonly isGuest?: boolean;
  /** Others may have the same id, such as guests behind one address: nobody is told, asked or acted upon by it. */
  readonly sharesId?: boolean;
}

/** A person in a guild, with their standing in the place where the input happened. */
export interface Member {
  readonly kind: 'member';
  /** What the platform can prove: never a name that anybody may take. */
  readonly id: string;
  readonly name: string;
  readonly isBot?: boolean;
  /** The platform cannot prove who it is, so it is never one of the bot's owners, whatever its id. */
  readonly isGuest?: boolean;
  /** Others may have the same id, such as guests behind one address: nobody is told, asked or acted upon by it. */
  readonly sharesId?: boolean;
  readonly roles: readonly Role[];
  readonly permissions: ReadonlySet<string>;
  /** Higher is above; `undefined` where the platform cannot tell. */
  readonly rank: number | undefined;
  readonly ownsGuild: boolean;
}

/** The person at the bot's own console. */
export interface ConsoleActor {
  readonly kind: 'console';
  readonly id: string;
  readonly name: string;
}

/** A named part of the bot's own code that invokes commands. */
export interface ProgramActor {
  readonly kind: 'program';
  readonly id: string;
  readonly name: string;
}

/** A person on a platform, in a guild or outside of it. */
export type Person = User | Member;
/** Who is behind an input. */
export type Actor = Person | ConsoleActor | ProgramActor;

/** Who can be the caller of a command that is `in: 'guild'`. */
export type GuildActor = Member | ConsoleActor | ProgramActor;

/**
 * Whether somebody is a person, and not the console or the bot's own code.
 *
 * @example
 * const nameOf = ({ caller }: Input) => (isPerson(caller) ? caller.name : 'the console');
 */
export function isPerson(actor: Actor): actor is Person {
  return actor.kind === 'member' || actor.kind === 'user';
}
