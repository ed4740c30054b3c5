/** Deciding requirements in three values: what holds, what does not, and what is not known yet. */
import type { ConditionResult, Requirement } from '../commands/requirements.js';
import type { Actor, Member } from '../contract/actors.js';
import type { Coded, CodeParameters, Missing } from '../contract/codes.js';
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
  /** Ids of the bot's owners. */
  readonly owners: ReadonlySet<string>;
  /** For each permission, the bot's own roles that give it. */
  readonly rolesGiving: ReadonlyMap<string, readonly string[]>;
}

/** What a requirement is decided on. */
export interface AccessScene {
  readonly caller: Actor;
  readonly settings: CompiledSettings;
  readonly rights: Rights;
  /** `undefined` before the bot was looked up: what is asked of it is then not known yet. */
  readonly bot: Member | 'absent' | undefined;
  /** `undefined` before the arguments were read. */
  readonly args: Readonly<Record<string, unknown>> | undefined;
  /** What the developer's own checks gave, by requirement; `undefined` before they ran. */
  readonly checked: ReadonlyMap<Requirement, ConditionResult> | undefined;
}

export type AccessRefusal = Coded<
  'permission.caller' | 'permission.bot' | 'permission.rank' | 'permission.target' | 'requirement.failed'
>;

/** Why a requirement does not hold: every condition on the shortest way to pass that is not met. */
export interface Failure {
  readonly unmet: readonly Unmet[];
}

/** One unmet condition; one that is `final` refuses under `not`, too. */
export interface Unmet {
  readonly refusal: AccessRefusal;
  readonly final: boolean;
}

/** `'void'` is a condition on somebody who was not named: it passes, also under `not`. */
export type Finding = 'yes' | 'later' | 'void' | Failure;

/** Hot path: bench/dispatch. */
export function decide(requirement: Requirement, scene: AccessScene): Finding {
  switch (requirement.kind) {
    case 'can':
      return requirement.of === 'caller'
        ? callerCan(requirement.permission, scene)
        : botCan(requirement.permission, scene);
    case 'holds':
      return callerHolds(scene.caller, requirement.role, scene) ? 'yes' : lacks('role', requirement.role);
    case 'owns-bot':
      return ownsBot(scene) ? 'yes' : lacks('ownership', '');
    case 'outranks':
      return rank(requirement, scene);
    case 'target-can':
    case 'target-is-bot':
      return target(requirement, scene);
    case 'own':
      return own(requirement, scene);
    case 'all':
      return all(requirement.of, scene);
    case 'any':
      return any(requirement.of, scene);
    case 'not':
      return not(requirement.of, scene);
  }
}

function failure(refusal: AccessRefusal, final = false): Failure {
  return { unmet: [{ refusal, final }] };
}

function lacks(what: Missing['what'], name: string): Failure {
  return failure({
    code: 'permission.caller',
    parameters: { missing: [{ what, name, without: false }], denied: false },
  });
}

export function ownsBot({ caller, rights }: Pick<AccessScene, 'caller' | 'rights'>): boolean {
  if (caller.kind === 'console' || caller.kind === 'program') return rights[caller.kind].ownsBot === true;
  return rights.owners.has(caller.id);
}

function callerCan(permission: string, scene: AccessScene): Finding {
  const { caller, rights } = scene;
  switch (caller.kind) {
    case 'member':
      return memberCan(caller, permission, scene) ? 'yes' : lacks('permission', permission);
    case 'user':
      return lacks('permission', permission);
    case 'console':
    case 'program': {
      const { can } = rights[caller.kind];
      return can === 'everything' || can?.includes(permission) === true ? 'yes' : lacks('permission', permission);
    }
  }
}

/** By the platform, or by one of the bot's own roles. */
export function memberCan(
  member: Member,
  permission: string,
  { rights, settings }: Pick<AccessScene, 'rights' | 'settings'>,
): boolean {
  if (member.permissions.has(permission)) return true;
  const giving = rights.rolesGiving.get(permission);
  return giving?.some((logical) => member.roles.some((role) => settings.isRole(role, logical))) === true;
}

function callerHolds(caller: Actor, logical: string, { rights, settings }: AccessScene): boolean {
  if (caller.kind === 'member') return caller.roles.some((role) => settings.isRole(role, logical));
  if (caller.kind === 'user') return false;
  return rights[caller.kind].holds?.includes(logical) === true;
}

function botCan(permission: string, scene: AccessScene): Finding {
  const { bot } = scene;
  if (bot === undefined) return 'later';
  if (bot !== 'absent' && memberCan(bot, permission, scene)) return 'yes';
  return failure({ code: 'permission.bot', parameters: { name: permission } });
}

type RankRequirement = Extract<Requirement, { kind: 'outranks' }>;
type NotAbove = CodeParameters['permission.rank']['because'];

function rank({ of, argument, orSelf, orBot }: RankRequirement, { caller, args, bot, rights }: AccessScene): Finding {
  if (args === undefined || bot === undefined) return 'later';
  const target = args[argument] as Member | undefined;
  if (target === undefined) return 'void';
  const self = bot === 'absent' ? undefined : bot;
  if (target.id === self?.id && !orBot) return aboutTarget(argument, target, 'the-bot', true);
  const because = of === 'bot' ? below(self, target) : callerBelow(caller, target, orSelf, rights);
  if (because === undefined) return 'yes';
  // Who cannot tell ranks cannot tell that somebody does not rank above, either.
  return failure(
    { code: 'permission.rank', parameters: { of, argument, who: target.name, because } },
    because === 'unknown',
  );
}

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

type TargetRequirement = Extract<Requirement, { kind: 'target-can' | 'target-is-bot' }>;

function target(requirement: TargetRequirement, scene: AccessScene): Finding {
  if (scene.args === undefined) return 'later';
  const member = scene.args[requirement.argument] as Member | undefined;
  if (member === undefined) return 'void';
  if (requirement.kind === 'target-is-bot') {
    return member.isBot === true ? 'yes' : aboutTarget(requirement.argument, member, 'no-bot');
  }
  return memberCan(member, requirement.permission, scene)
    ? 'yes'
    : aboutTarget(requirement.argument, member, 'lacks', false, requirement.permission);
}

function aboutTarget(
  argument: string,
  { name: who }: Member,
  because: CodeParameters['permission.target']['because'],
  final = false,
  permission = '',
): Failure {
  return failure({ code: 'permission.target', parameters: { argument, who, because, permission } }, final);
}

function own(requirement: Requirement, { checked }: AccessScene): Finding {
  const result = checked?.get(requirement);
  if (result === undefined) return 'later';
  return result === true
    ? 'yes'
    : failure({ code: 'requirement.failed', parameters: { argument: undefined, reason: result } });
}

function all(requirements: readonly Requirement[], scene: AccessScene): Finding {
  const unmet: Unmet[] = [];
  let later = false;
  for (const requirement of requirements) {
    const finding = decide(requirement, scene);
    if (finding === 'later') later = true;
    else if (typeof finding === 'object') unmet.push(...finding.unmet);
  }
  if (unmet.length > 0) return { unmet };
  return later ? 'later' : 'yes';
}

/** Of several ways that all fail, the one with the least missing is told. */
function any(requirements: readonly Requirement[], scene: AccessScene): Finding {
  let shortest: Failure | undefined;
  let later = false;
  for (const requirement of requirements) {
    const finding = decide(requirement, scene);
    if (finding === 'yes' || finding === 'void') return finding;
    if (finding === 'later') later = true;
    else if (shortest === undefined || finding.unmet.length < shortest.unmet.length) shortest = finding;
  }
  return later ? 'later' : (shortest ?? 'yes');
}

function not(requirement: Requirement, scene: AccessScene): Finding {
  const finding = decide(requirement, scene);
  if (finding === 'later' || finding === 'void') return finding;
  if (finding === 'yes') return unwanted(requirement, scene);
  const final = finding.unmet.filter((unmet) => unmet.final);
  return final.length > 0 ? { unmet: final } : 'yes';
}

/** What is told where something holds that must not. */
function unwanted(requirement: Requirement, scene: AccessScene): Failure {
  switch (requirement.kind) {
    case 'can':
      if (requirement.of === 'caller') return mustBeWithout('permission', requirement.permission);
      break;
    case 'holds':
      return mustBeWithout('role', requirement.role);
    case 'owns-bot':
      return mustBeWithout('ownership', '');
    case 'target-can':
    case 'target-is-bot': {
      const member = scene.args?.[requirement.argument] as Member;
      const because = requirement.kind === 'target-can' ? 'can' : 'a-bot';
      const permission = requirement.kind === 'target-can' ? requirement.permission : '';
      return aboutTarget(requirement.argument, member, because, false, permission);
    }
    case 'not':
      return failureOf(decide(requirement.of, scene));
  }
  return failure({
    code: 'requirement.failed',
    parameters: { argument: undefined, reason: 'That cannot be done as things are.' },
  });
}

function failureOf(finding: Finding): Failure {
  return typeof finding === 'object' ? finding : { unmet: [] };
}

function mustBeWithout(what: Missing['what'], name: string): Failure {
  return failure({
    code: 'permission.caller',
    parameters: { missing: [{ what, name, without: true }], denied: false },
  });
}

/** One refusal for all that is missing: the first decides the code, and further ones of the caller's join it. */
export function refusalOf({ unmet }: Failure): AccessRefusal {
  const [first] = unmet;
  if (first === undefined) throw new Error('A requirement failed for no reason');
  if (first.refusal.code !== 'permission.caller') return first.refusal;
  const missing = unmet.flatMap(({ refusal }) =>
    refusal.code === 'permission.caller' ? refusal.parameters.missing : [],
  );
  return { code: 'permission.caller', parameters: { missing, denied: false } };
}
