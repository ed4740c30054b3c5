/** A guild's rules, compiled for looking up. */
import type { Actor, Member, Role } from '../contract/actors.js';
import type { Place } from '../contract/places.js';
import type { GuildSettings } from './settings.js';

type Verdict = 'grant' | 'deny';

/** One command's rules, a level each. */
interface CommandRules {
  readonly member: Map<string, Verdict>;
  readonly role: Map<string, Verdict>;
  readonly channel: Map<string, Verdict>;
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
  ruleFor(ids: readonly string[], caller: Actor, place: Place): Verdict | undefined;
  /** The guild's role for one of the bot's own role names: the mapped one, or the one of the same name. */
  isRole(role: Role, logical: string): boolean;
}

export function compileSettings(settings: GuildSettings): CompiledSettings {
  const commands = new Map<string, CommandRules>();
  for (const rule of settings.rules ?? []) {
    const rules = commands.get(rule.command) ?? { member: new Map(), role: new Map(), channel: new Map() };
    commands.set(rule.command, rules);
    if (rule.member !== undefined) add(rules.member, rule.member, rule.verdict);
    else if (rule.role !== undefined) add(rules.role, rule.role, rule.verdict);
    else add(rules.channel, rule.channel, rule.verdict);
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
    isRole({ id, name }, logical) {
      const wanted = mapped.get(logical) ?? logical;
      return id === wanted || name === wanted;
    },
  };
}

function verdictFor(rules: CommandRules, caller: Actor, place: Place): Verdict | undefined {
  const ofMember = rules.member.get(caller.id);
  if (ofMember !== undefined) return ofMember;
  const ofRoles = caller.kind === 'member' ? roleVerdict(rules.role, caller) : undefined;
  return ofRoles ?? (place.kind === 'guild' ? rules.channel.get(place.channel.id) : undefined);
}

function add(level: Map<string, Verdict>, subject: string, verdict: Verdict): void {
  if (level.get(subject) !== 'deny') level.set(subject, verdict);
}

function roleVerdict(level: ReadonlyMap<string, Verdict>, { roles }: Member): Verdict | undefined {
  if (level.size === 0) return undefined;
  let found: Verdict | undefined;
  for (const { id, name } of roles) {
    for (const key of id === name ? [id] : [id, name]) {
      const verdict = level.get(key);
      if (verdict === 'deny') return 'deny';
      found ??= verdict;
    }
  }
  return found;
}

/** What holds where a guild has no settings of its own. */
export const noSettings: CompiledSettings = compileSettings({});
