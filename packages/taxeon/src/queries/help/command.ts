/** The ready help command. It is an ordinary command: a bot may leave it out, rename it, or write another. */
import { type Command, command } from '../../commands/command.js';
import { integer } from '../../commands/kinds/integer.js';
import { tail } from '../../commands/kinds/text.js';
import type { Audience } from '../../contract/notice.js';
import type { CommandLayer } from '../../layer/command-layer.js';
import { helpTexts } from '../../replies/help.js';
import { completeNames } from '../completion/names-for.js';
import { describer } from '../described.js';
import { helpNotice } from './for.js';

/** Names and words of the help command. */
export interface HelpCommandOptions {
  /** `'help'` by default. */
  readonly name?: string;
  readonly aliases?: readonly string[];
  readonly description?: string;
  readonly section?: string;
  /** `'caller-if-possible'` by default. */
  readonly visibleTo?: Audience;
}

/**
 * `help`, `help fine`, `help overdue remind`, `help --page 2`: what the caller may run here, and how.
 *
 * @example
 * createCommandLayer({ commands: (layer) => [borrow, helpCommand(layer, { aliases: ['manual'] })] });
 */
export function helpCommand(layer: CommandLayer, options: HelpCommandOptions = {}): Command {
  if (typeof (layer as Partial<CommandLayer> | undefined)?.handle !== 'function')
    throw new TypeError('helpCommand takes the layer: commands: (layer) => [helpCommand(layer), …]');
  const { name = 'help', visibleTo = 'caller-if-possible', description, ...rest } = options;
  const describe = describer(helpTexts);
  return command({
    ...rest,
    name,
    visibleTo,
    isHelp: true,
    // A description of the bot's own has its own translations.
    ...(description === undefined
      ? describe.command('describe.help', { what: 'describe.help.what', page: 'describe.help.page' })
      : { description }),
    args: {
      page: integer({ ...describe.argument('describe.help.page'), min: 1, default: 1, flag: true }),
      what: tail({
        ...describe.argument('describe.help.what'),
        optional: true,
        max: 120,
        complete: (typed, context) => completeNames(layer, typed, context),
      }),
    },
    run: (call) => helpNotice(layer, call, call.args.what, call.args.page),
  });
}
