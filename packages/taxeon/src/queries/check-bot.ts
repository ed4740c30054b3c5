/** What looks wrong with a bot that opens: nothing that keeps it from running, and probably not meant. */
import { nearNames } from '../base/near.js';
import type { CompiledCommand } from '../catalogue/catalogue.js';
import { holdsMembers } from '../commands/arg.js';
import { leavesOf, type Requirement } from '../commands/requirements.js';
import type { Platform } from '../contract/platform.js';
import type { CommandLayer } from '../layer/command-layer.js';
import { insideOf } from '../layer/inside.js';

/** Something to look at, with what mends it. */
export interface BotWarning {
  /** The command's base name. */
  readonly command: string;
  readonly warning: string;
}

/**
 * Looks for commands on members that ask too little, and for permissions that nothing gives.
 *
 * @param platform knows which permissions there are, where it has a list of them
 *
 * @example
 * for (const { command, warning } of checkBot(layer)) console.warn(`${command}: ${warning}`);
 */
export function checkBot(layer: CommandLayer, platform?: Platform): readonly BotWarning[] {
  const { catalogue, rights } = insideOf(layer).services;
  const known =
    platform?.permissions === undefined ? undefined : [...platform.permissions, ...rights.rolesGiving.keys()];
  return catalogue.commands.flatMap((command) => {
    const leaves = command.requires.flatMap(({ requirement }) => [...leavesOf<Requirement>(requirement)]);
    const warnings = [
      ...targetWarnings(command, leaves),
      ...(known === undefined ? [] : permissionWarnings(leaves, known)),
    ];
    return [...new Set(warnings)].map((warning) => ({ command: command.name, warning }));
  });
}

function* targetWarnings({ slots }: CompiledCommand, leaves: readonly Requirement[]): Iterable<string> {
  const targets = slots.all.filter(holdsMembers);
  const named = targets.map(({ name }) => `“${name}”`).join(' and ');
  if (targets.length === 0) return;
  if (leaves.length === 0) {
    yield `names a member, ${named}, and everybody may run it; say in \`requires\` who may`;
    return;
  }
  for (const { name } of targets) {
    if (leaves.some(({ traits }) => traits.ranks === true && traits.argument === name)) continue;
    yield `asks for no rank: who may run it may do it to people above them; add caller.outranks('${name}')`;
  }
  if (!leaves.some(({ traits }) => traits.permissionOf === 'bot')) {
    yield `asks for no permission of the bot; if it changes ${named} on the platform, add bot.can('…')`;
  }
}

function* permissionWarnings(leaves: readonly Requirement[], known: readonly string[]): Iterable<string> {
  for (const { traits } of leaves) {
    const { permission } = traits;
    if (permission === undefined || known.includes(permission)) continue;
    const [near] = nearNames(permission, known);
    const mend = near === undefined ? 'give it to one of the bot’s roles in `roles`' : `did you mean ${near}?`;
    yield `asks for the permission ${permission}, which no role gives and the platform does not know; ${mend}`;
  }
}
