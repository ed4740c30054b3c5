/** What requirements are decided on. */
import type { ConditionResult, Requirement } from '../commands/requirements.js';
import type { Actor, Member, Person } from '../contract/actors.js';
import type { IdsByPlatform } from '../contract/key.js';
import type { CompiledSettings } from './rules.js';

/** What the console or the bot's own code may do. Nothing is assumed: what is not named is refused. */
export interface ActorRights {
  readonly can?: readonly string[] | 'everything';
  /** The bot's own role names. */
  readonly holds?: readonly string[];
  /** `'everyone'` puts the actor above every member but the guild's owner. */
  readonly outranks?: 'everyone';
  readonly ownsBot?: boolean;
}

/** What is configured for the whole bot. */
export interface Rights {
  readonly console: ActorRights;
  readonly program: ActorRights;
  readonly owners: IdsByPlatform;
  /** For each permission, the bot's own roles that give it. */
  readonly rolesGiving: ReadonlyMap<string, readonly string[]>;
}

export interface AccessContext {
  readonly caller: Actor;
  /** The name of the platform that the caller is of. */
  readonly platformName: string;
  readonly settings: Pick<CompiledSettings, 'isRole'>;
  readonly rights: Rights;
  /** `undefined` before the bot was looked up: what is asked of it is then not known yet. */
  readonly bot: Member | 'absent' | undefined;
  /** `undefined` before the arguments were read. */
  readonly args: Readonly<Record<string, unknown>> | undefined;
  /** What the developer's own conditions gave; `undefined` before they ran. */
  readonly conditions: ReadonlyMap<Requirement, ConditionGave> | undefined;
}

/** What a condition gave, or the reference of its failure. */
export type ConditionGave = ConditionResult | { readonly reference: string };

export function ownsBot({
  caller,
  platformName,
  rights,
}: Pick<AccessContext, 'caller' | 'platformName' | 'rights'>): boolean {
  if (caller.kind === 'console' || caller.kind === 'program') return rights[caller.kind].ownsBot === true;
  return caller.isGuest !== true && rights.owners.get(platformName)?.has(caller.id) === true;
}

/** The bot, or the guild where they are: nobody keeps them out. */
export function ownsAnything(asking: Pick<AccessContext, 'caller' | 'platformName' | 'rights'>): boolean {
  return (asking.caller as Partial<Member>).ownsGuild === true || ownsBot(asking);
}

/** By the platform, or by one of the bot's own roles. */
export function memberCan(
  member: Member,
  permission: string,
  { rights, settings }: Pick<AccessContext, 'rights' | 'settings'>,
): boolean {
  if (member.permissions.has(permission)) return true;
  const giving = rights.rolesGiving.get(permission);
  return giving?.some((logical) => member.roles.some((role) => settings.isRole(role, logical))) === true;
}

/** The member that an argument names; of a list, one after the other is looked at. */
export function memberIn(args: Readonly<Record<string, unknown>>, argument: string): Member | undefined {
  return args[argument] as Member | undefined;
}

/** Whether an id means one person alone. What a platform gives is not trusted to be of its type. */
export function isUnique(actor: object): boolean {
  const { sharesId } = actor as Partial<Person>;
  return sharesId === undefined || sharesId === false;
}
