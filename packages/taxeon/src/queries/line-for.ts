/** The line that calls a command. */
import type { Command } from '../commands/command.js';
import type { Platform } from '../contract/platform.js';
import type { CommandLayer } from '../layer/command-layer.js';
import { insideOf } from '../layer/inside.js';
import { writeLine } from '../reading/write.js';

/**
 * The line that a person would type to call a command with these values, without prefix. It reads back as the same values.
 *
 * @throws TypeError where the command is not in the layer, a value's kind says no way to write it, or no line
 * would read as these values.
 *
 * @param platform where it is to be typed; needed where people are mentioned
 *
 * @example
 * lineFor(layer, fine, { who: wren, pence: 50 }); // 'fine Wren 50'
 */
export function lineFor<Given>(
  layer: CommandLayer,
  command: Command<Given>,
  args: NoInfer<Given>,
  platform?: Platform,
): string {
  const compiled = insideOf(layer).current.catalogue.of(command);
  if (compiled === undefined) throw new TypeError(`${command.declaration.name} is not in this layer`);
  return writeLine(compiled.name, compiled.slots, args as Record<string, unknown>, platform?.directory);
}
