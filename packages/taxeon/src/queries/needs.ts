/** What the bot itself must be allowed. */
import { type BotNeed, botNeeds } from '../catalogue/needs.js';
import type { CommandLayer } from '../layer/command-layer.js';
import { insideOf } from '../layer/inside.js';

/**
 * Over all commands: what to ask for before the bot is invited.
 *
 * @example
 * for (const { permission, commands } of needsOf(layer)) console.log(permission, commands.join(', '));
 */
export function needsOf(layer: CommandLayer): readonly BotNeed[] {
  return botNeeds(insideOf(layer).current.catalogue.commands);
}
