/** What does not fit between a bot and a platform it connects to, told in the log. */
import { botNeeds } from '../catalogue/needs.js';
import { isUnfindable } from '../commands/arg.js';
import { leavesOf } from '../commands/requirements.js';
import type { Platform } from '../contract/platform.js';
import type { Wiring } from './wiring.js';

/** A permission, or the look-ups of an argument. */
const UNKNOWN = 'The platform lacks what is required';

type Audited = Pick<Wiring, 'basis' | 'current' | 'beginning' | 'guilds'>;

/** Names unknown permissions, look-ups and roles that are missing, and what the bot is not allowed there. */
export async function auditPlatform({ basis, current, beginning, guilds }: Audited, platform: Platform): Promise<void> {
  const { name, directory, permissions } = platform;
  const { commands } = current.catalogue;
  const { rolesGiving } = beginning.rights;
  const warn = (fields: object, message: string) => basis.log.warn({ platform: name, ...fields }, message);
  const known = permissions && new Set([...permissions, ...rolesGiving.keys()]);
  const logical = new Set([...rolesGiving.values()].flat());
  for (const { name: command, requires, slots } of commands) {
    for (const { requirement } of requires) {
      for (const { parameters } of leavesOf(requirement)) {
        const { permission, role } = parameters;
        if (role !== undefined) logical.add(role);
        if (permission !== undefined && known?.has(permission) === false) warn({ command, permission }, UNKNOWN);
      }
    }
    for (const slot of slots.all) {
      if (isUnfindable(slot, directory)) warn({ command, argument: slot.name }, UNKNOWN);
    }
  }
  for (const guild of (await platform.guilds?.()) ?? []) {
    const { id } = guild;
    try {
      const { compiled } = await guilds.read(name, id);
      const roles = await directory.roles(guild);
      for (const role of logical) {
        if (!roles.some((one) => compiled.isRole(one, role)))
          warn({ guild: id, role }, 'A guild has no role for one of the bot’s own');
      }
      const bot = await directory.self(guild);
      for (const need of botNeeds(commands)) {
        if (bot?.permissions.has(need.permission) !== true)
          warn({ guild: id, ...need }, 'The bot is not allowed what its commands need');
      }
    } catch (error) {
      warn({ guild: id, error }, 'A guild could not be looked at');
    }
  }
}
