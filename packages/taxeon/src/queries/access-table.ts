/** Who may run what in a guild, as data: commands × roles, and what the bot itself needs. */

import { type AccessRefusal, refusalOf } from '../access/algebra.js';
import { accessContextOf, checkCaller, isExcused, lookUpBot } from '../access/check.js';
import { fillIn } from '../base/template.js';
import { visibleText } from '../base/text.js';
import type { CompiledCommand } from '../catalogue/catalogue.js';
import type { Member, Role } from '../contract/actors.js';
import type { Missing } from '../contract/codes.js';
import type { GuildPlace } from '../contract/places.js';
import type { Platform } from '../contract/platform.js';
import type { CommandLayer } from '../layer/command-layer.js';
import { insideOf } from '../layer/inside.js';
import { isInScope } from '../pipeline/reach.js';
import type { Viewer } from '../pipeline/state.js';
import { messageIn } from '../replies/messages.js';

/** What a table says of one command and one role or person. */
export interface AccessCell {
  /** `depends`: on whom it is done to, or on a condition of the bot's own. */
  readonly verdict: 'allowed' | 'refused' | 'depends' | 'off';
  /** Why, in words; empty where it is plainly allowed. */
  readonly because: string;
}

/** A command, and what holds for each column. */
export interface AccessRow {
  /** The command's base name. */
  readonly command: string;
  readonly cells: readonly AccessCell[];
}

/** Who may run what in a guild, as data. */
export interface AccessTable {
  readonly guild: string;
  /** What each cell of a row is about: everyone, the roles from the highest down, and the person asked for. */
  readonly columns: readonly string[];
  readonly rows: readonly AccessRow[];
}

/**
 * Who may run what in a guild: commands × roles, and a person's own column where one is named.
 *
 * @example
 * const { columns, rows } = await accessTableOf(layer, place, platform, ines);
 */
export async function accessTableOf(
  layer: CommandLayer,
  place: GuildPlace,
  platform: Platform,
  person?: Member,
): Promise<AccessTable> {
  const { guilds, basis, beginning, current } = insideOf(layer);
  const { compiled: settings } = await guilds.read(platform.name, place.guild.id);
  const roles = await platform.directory.roles(place.guild);
  const bot = await lookUpBot(place.guild, platform.directory);
  const everyone = standing('everyone', []);
  const callers = [
    everyone,
    ...byRank(roles).map((role) => standing(role.name, [role])),
    ...(person === undefined ? [] : [person]),
  ];
  const { clock } = basis;
  const { rights } = beginning;
  const here = { platformName: platform.name, guild: place.guild, place, now: clock.now(), rights, settings };
  const rows = current.catalogue.commands
    .filter((command) => command.in !== 'direct')
    .map((command) => ({
      command: command.name,
      cells: callers.map((caller) => accessCell(command, { ...here, caller }, bot)),
    }));
  const columns = callers.map(({ id, name }) => visibleText(name) || visibleText(id));
  return { guild: visibleText(place.guild.name), columns, rows };
}

function byRank(roles: readonly Role[]): Role[] {
  return [...roles].sort((a, b) => (b.rank ?? 0) - (a.rank ?? 0));
}

/** A person who holds just these roles. */
export function standing(name: string, roles: readonly Role[]): Member {
  const permissions = new Set(roles.flatMap((role) => [...(role.permissions ?? [])]));
  return { kind: 'member', id: ` ${name}`, name, roles, permissions, rank: roles[0]?.rank ?? 0, ownsGuild: false };
}

function accessCell(command: CompiledCommand, viewer: Omit<Viewer, 'surface'>, bot: Member | 'absent'): AccessCell {
  const standing = standingOf(command, viewer, bot);
  switch (standing.verdict) {
    case 'off':
      return { verdict: 'off', because: standing.because === 'off' ? 'switched off' : 'not for this guild' };
    case 'refused':
      return refusedCell(standing.refusal);
    case 'depends':
      return { verdict: 'depends', because: standing.on.join('; ') };
    case 'allowed':
      return { verdict: 'allowed', because: standing.isExcused ? 'granted' : '' };
  }
}

function refusedCell(refusal: AccessRefusal): AccessCell {
  return { verdict: 'refused', because: refusalInWords(refusal) };
}

/** For the reader of the table, not for the caller. */
function refusalInWords(refusal: AccessRefusal): string {
  switch (refusal.code) {
    case 'permission.caller': {
      const { denied, missing } = refusal.parameters;
      return denied
        ? 'denied by the guild'
        : missing.map((one) => fillIn(missingTexts[one.what][one.without ? 1 : 0], one)).join(' and ');
    }
    case 'permission.bot':
      return `the bot needs the permission ${refusal.parameters.name}`;
    default:
      return messageIn(undefined, refusal);
  }
}

const missingTexts: Readonly<Record<Missing['what'], readonly [lacks: string, has: string]>> = {
  permission: ['needs the permission {name}', 'not with the permission {name}'],
  role: ['needs the role {name}', 'not with the role {name}'],
  ownership: ['only for the bot’s owners', 'not for the bot’s owners'],
};

/** What access says of a command before it is called. */
type AccessStanding =
  | { readonly verdict: 'allowed'; readonly isExcused: boolean }
  | { readonly verdict: 'depends'; readonly on: readonly string[] }
  | { readonly verdict: 'refused'; readonly refusal: AccessRefusal }
  | { readonly verdict: 'off'; readonly because: 'off' | 'scope' };

function standingOf(command: CompiledCommand, viewer: Omit<Viewer, 'surface'>, bot: Member | 'absent'): AccessStanding {
  const { settings } = viewer;
  if (!isInScope(command.scope, { ...viewer, surface: 'text' })) return { verdict: 'off', because: 'scope' };
  if (settings.isOff(command.ids)) return { verdict: 'off', because: 'off' };
  const refusal = checkCaller(command, viewer);
  if (refusal !== undefined) return { verdict: 'refused', refusal };
  const context = accessContextOf(viewer, undefined, bot);
  const excused = isExcused(command, viewer);
  const open: string[] = [];
  for (const { requirement, grantable } of command.requires) {
    const decided = requirement.decide(context);
    if (decided === 'later') open.push(requirement.english.plain);
    else if (typeof decided === 'object' && !(grantable && excused)) {
      return { verdict: 'refused', refusal: refusalOf(decided) };
    }
  }
  return open.length === 0 ? { verdict: 'allowed', isExcused: excused } : { verdict: 'depends', on: open };
}
