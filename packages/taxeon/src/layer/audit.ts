/** What does not fit between a bot and a platform it connects to, told in the log. */
import { botNeeds } from '../catalogue/needs.js';
import { lookUpsOf } from '../commands/arg.js';
import { leavesOf } from '../commands/requirements.js';
import { hasNone } from '../contract/empty-directory.js';
import type { Guild } from '../contract/places.js';
import type { Platform } from '../contract/platform.js';
import type { Wiring } from './wiring.js';

type Audited = Pick<Wiring, 'basis' | 'current' | 'beginning' | 'guilds'>;

/** Names unknown permissions, roles that a guild does not have, and what the bot is not allowed there. */
export async function auditPlatform(audited: Audited, platform: Platform): Promise<void> {
  const { log } = audited.basis;
  const { catalogue } = audited.current;
  const { rolesGiving } = audited.beginning.rights;
  const leaves = catalogue.commands.flatMap(({ name, requires }) =>
    requires.flatMap(({ requirement }) => [...leavesOf(requirement)].map((leaf) => ({ name, leaf }))),
  );
  if (platform.permissions !== undefined) {
    const known = new Set([...platform.permissions, ...rolesGiving.keys()]);
    for (const { name, leaf } of leaves) {
      const { permission } = leaf.traits;
      if (permission !== undefined && !known.has(permission)) {
        log.warn(
          { platform: platform.name, command: name, permission },
          'A permission is required that the platform does not know',
        );
      }
    }
  }
  for (const { name, slots } of catalogue.commands)
    for (const { name: argument, kind } of slots.all) {
      const lookUps = lookUpsOf(kind);
      if (lookUps === undefined || !hasNone(platform.directory, lookUps)) continue;
      log.warn(
        { platform: platform.name, command: name, argument, lookUps },
        'Every call with this argument is refused: the platform’s directory has no such look-up. Give it one, or read the argument with a kind of your own',
      );
    }
  const logical = new Set([
    ...leaves.flatMap(({ leaf }) => leaf.traits.role ?? []),
    ...[...rolesGiving.values()].flat(),
  ]);
  for (const guild of (await platform.guilds?.()) ?? []) {
    try {
      await auditGuild(audited, platform, guild, logical);
    } catch (error) {
      log.warn({ platform: platform.name, guild: guild.id, error }, 'A guild could not be looked at');
    }
  }
}

async function auditGuild(
  { basis: { log }, current, guilds }: Audited,
  { name, directory }: Platform,
  guild: Guild,
  logical: ReadonlySet<string>,
): Promise<void> {
  const { compiled: settings } = await guilds.read(name, guild.id);
  const roles = await directory.roles(guild);
  for (const role of logical) {
    if (!roles.some((one) => settings.isRole(one, role))) {
      log.warn({ platform: name, guild: guild.id, role }, 'A guild has no role for one of the bot’s own');
    }
  }
  const bot = await directory.self(guild);
  for (const { permission, commands } of botNeeds(current.catalogue.commands)) {
    if (bot?.permissions.has(permission) !== true) {
      log.warn(
        { platform: name, guild: guild.id, permission, commands },
        'The bot is not allowed what its commands need',
      );
    }
  }
}
