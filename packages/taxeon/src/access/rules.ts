/** A guild's rules, compiled for looking up. */
import { foundOrMade } from '../base/bounded-map.js';
import type { Actor, Member, Role } from '../contract/actors.js';
import type { Place } from '../contract/places.js';
import type { GuildSettings } from '../contract/settings.js';

type RuleVerdict = 'grant' | 'deny';

/** One command's rules, a level each. */
interface CommandRules {
  readonly member: Map<string, RuleVerdict>;
  readonly role: Map<string, RuleVerdict>;
  readonly roleName: Map<string, RuleVerdict>;
  readonly channel: Map<string, RuleVerdict>;
}

/** Settings as the stages use them. */
export interface CompiledSettings {
  readonly settings: GuildSettings;
  /** Whether any of these ids is switched off. */
  isOff(ids: readonly string[]): boolean;
  /**
   * What the guild says of a caller and a command, by its ids from the most specific on; for each the member
   * first, then role, then channel; within a level a denial wins.
   */
  ruleFor(ids: readonly string[], caller: Actor, place: Place): RuleVerdict | undefined;
  /** Whether it is the guild's role for one of the bot's own: the mapped one, or the one of which that is the id. */
  isRole(role: Role, logical: string): boolean;
}

export function compileSettings(settings: GuildSettings): CompiledSettings {
  const commands = new Map<string, CommandRules>();
  for (const rule of settings.rules ?? []) {
    const { command, verdict, member, role, channel } = rule;
    const rules = foundOrMade(commands, command, noRules);
    if (member !== undefined) add(rules.member, member, verdict);
    else if (channel !== undefined) add(rules.channel, channel, verdict);
    else if (typeof role === 'string') add(rules.role, role, verdict);
    else add(rules.roleName, role.name, verdict);
  }
  const off = new Set(settings.off);
  const mapped = new Map(Object.entries(settings.roles ?? {}));
  return {
    settings,
    isOff: (ids) => off.size > 0 && ids.some((id) => off.has(id)),
    ruleFor(ids, caller, place) {
      if (commands.size === 0) return undefined;
      for (const id of ids) {
        const rules = commands.get(id);
        const verdict = rules === undefined ? undefined : verdictFor(rules, caller, place);
        if (verdict !== undefined) return verdict;
      }
      return undefined;
    },
    isRole({ id, name, isProtected }, logical) {
      const wanted = mapped.get(logical) ?? logical;
      return typeof wanted === 'string' ? id === wanted : isProtected === true && name === wanted.name;
    },
  };
}

function noRules(): CommandRules {
  return { member: new Map(), role: new Map(), roleName: new Map(), channel: new Map() };
}

/** Rules are about people: what the console may do is the layer's own, and a person's id may be `console`. */
function verdictFor(rules: CommandRules, caller: Actor, place: Place): RuleVerdict | undefined {
  if (caller.kind === 'console') return undefined;
  const ofMember = caller.kind === 'program' ? undefined : rules.member.get(caller.id);
  if (ofMember !== undefined) return ofMember;
  const ofRoles = caller.kind === 'member' ? roleVerdict(rules, caller) : undefined;
  return ofRoles ?? (place.kind === 'guild' ? rules.channel.get(place.channel.id) : undefined);
}

function add(level: Map<string, RuleVerdict>, subject: string, verdict: RuleVerdict): void {
  if (level.get(subject) !== 'deny') level.set(subject, verdict);
}

/** A denial by name holds for every role that is called so; a grant only for one that nobody else can call so. */
function roleVerdict({ role: byId, roleName: byName }: CommandRules, { roles }: Member): RuleVerdict | undefined {
  if (byId.size === 0 && byName.size === 0) return undefined;
  let found: RuleVerdict | undefined;
  for (const { id, name, isProtected } of roles) {
    const named = byName.get(name);
    if (byId.get(id) === 'deny' || named === 'deny') return 'deny';
    found ??= byId.get(id) ?? (isProtected === true ? named : undefined);
  }
  return found;
}

/** What holds where a guild has no settings of its own. */
export const noSettings: CompiledSettings = compileSettings({});
