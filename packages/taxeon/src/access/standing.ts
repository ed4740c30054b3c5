/** Deciding requirements: first what the caller alone settles, then what needs arguments or the bot. */
import { isThenable, type MaybePromise } from '../base/thenable.js';
import type { Requirement } from '../commands/requirements.js';
import type { Actor, Member } from '../contract/actors.js';
import type { Coded, CodeParameters } from '../contract/codes.js';
import type { Guild } from '../contract/places.js';
import type { Directory } from '../contract/platform.js';

/** What the console or the bot's own code may do. Nothing is assumed: what is not named is refused. */
export interface ActorRights {
  readonly can?: readonly string[] | 'everything';
  /** `'everyone'` puts the actor above every member but the guild's owner. */
  readonly outranks?: 'everyone';
}

export interface Rights {
  readonly console: ActorRights;
  readonly program: ActorRights;
}

export type AccessRefusal = Coded<'permission.caller' | 'permission.bot' | 'permission.rank' | 'permission.target'>;

/** Requirements that the caller alone settles, and those that need more. */
export interface CompiledRequirements {
  readonly ofCaller: readonly CallerRequirement[];
  readonly later: readonly LaterRequirement[];
}

type CallerRequirement = Extract<Requirement, { kind: 'can' | 'holds' }>;
type LaterRequirement = Extract<Requirement, { kind: 'can' | 'outranks' }>;

export function compileRequirements(requirements: readonly Requirement[]): CompiledRequirements {
  const ofCaller: CallerRequirement[] = [];
  const later: LaterRequirement[] = [];
  for (const requirement of requirements) {
    if (requirement.kind === 'holds') ofCaller.push(requirement);
    else if (requirement.kind === 'can' && requirement.of === 'caller') ofCaller.push(requirement);
    else later.push(requirement);
  }
  return { ofCaller, later };
}

/** The first requirement that is already a no. Hot path: bench/dispatch. */
export function checkCaller(
  requirements: readonly CallerRequirement[],
  caller: Actor,
  rights: Rights,
): AccessRefusal | undefined {
  for (const requirement of requirements) {
    if (requirement.kind === 'can') {
      if (!can(caller, requirement.permission, rights)) return lacks('permission', requirement.permission);
    } else if (!holds(caller, requirement.role)) return lacks('role', requirement.role);
  }
  return undefined;
}

function lacks(what: 'permission' | 'role', name: string): AccessRefusal {
  return { code: 'permission.caller', parameters: { lacks: what, name } };
}

function can(actor: Actor, permission: string, rights: Rights): boolean {
  switch (actor.kind) {
    case 'member':
      return actor.permissions.has(permission);
    case 'user':
      return false;
    case 'console':
    case 'program': {
      const granted = rights[actor.kind].can;
      return granted === 'everything' || granted?.includes(permission) === true;
    }
  }
}

function holds(actor: Actor, role: string): boolean {
  return actor.kind === 'member' && actor.roles.some(({ id, name }) => name === role || id === role);
}

/** What the later requirements look at. */
export interface Standing {
  readonly caller: Actor;
  readonly guild: Guild | undefined;
  readonly directory: Directory | undefined;
  readonly args: Readonly<Record<string, unknown>>;
  readonly rights: Rights;
}

/** The first of the later requirements that does not hold; asks the platform for the bot only when needed. */
export function checkStanding(
  requirements: readonly LaterRequirement[],
  standing: Standing,
): MaybePromise<AccessRefusal | undefined> {
  if (requirements.length === 0) return undefined;
  const { directory, guild } = standing;
  if (directory === undefined || guild === undefined) return firstRefusal(requirements, standing, undefined);
  const self = directory.self(guild);
  return isThenable(self)
    ? self.then((bot) => firstRefusal(requirements, standing, bot))
    : firstRefusal(requirements, standing, self);
}

function firstRefusal(
  requirements: readonly LaterRequirement[],
  standing: Standing,
  bot: Member | undefined,
): AccessRefusal | undefined {
  for (const requirement of requirements) {
    const refusal =
      requirement.kind === 'can' ? botLacks(requirement.permission, bot) : outranked(requirement, standing, bot);
    if (refusal !== undefined) return refusal;
  }
  return undefined;
}

function botLacks(permission: string, bot: Member | undefined): AccessRefusal | undefined {
  if (bot?.permissions.has(permission) === true) return undefined;
  return { code: 'permission.bot', parameters: { lacks: 'permission', name: permission } };
}

type RankRequirement = Extract<Requirement, { kind: 'outranks' }>;

function outranked(
  { of, argument, orSelf }: RankRequirement,
  { caller, args, rights }: Standing,
  bot: Member | undefined,
): AccessRefusal | undefined {
  const target = args[argument] as Member | undefined;
  if (target === undefined) return undefined;
  if (target.id === bot?.id) {
    return { code: 'permission.target', parameters: { argument, who: target.name, because: 'the-bot' } };
  }
  const because = of === 'bot' ? below(bot, target) : callerBelow(caller, target, orSelf, rights);
  if (because === undefined) return undefined;
  return { code: 'permission.rank', parameters: { of, argument, who: target.name, because } };
}

type NotAbove = CodeParameters['permission.rank']['because'];

function callerBelow(caller: Actor, target: Member, orSelf: boolean, rights: Rights): NotAbove | undefined {
  switch (caller.kind) {
    case 'member':
      if (caller.id === target.id) return orSelf ? undefined : 'self';
      return below(caller, target);
    case 'console':
    case 'program':
      return rights[caller.kind].outranks === 'everyone' && !target.ownsGuild ? undefined : 'not-above';
    case 'user':
      return 'unknown';
  }
}

/** Equal is not above; nobody is above the guild's owner, who is above all others. */
function below(actor: Member | undefined, target: Member): NotAbove | undefined {
  if (target.ownsGuild) return 'not-above';
  if (actor?.ownsGuild === true) return undefined;
  if (actor?.rank === undefined || target.rank === undefined) return 'unknown';
  return actor.rank > target.rank ? undefined : 'not-above';
}
