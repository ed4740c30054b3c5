/** The ready help command. It is an ordinary command: a bot may leave it out, rename it, or write another. */
import { type Command, command } from '../../commands/command.js';
import { arg } from '../../commands/index.js';
import type { Visibility } from '../../contract/notice.js';

export interface HelpCommandOptions {
  /** `'help'` by default. */
  readonly name?: string;
  readonly aliases?: readonly string[];
  readonly description?: string;
  readonly section?: string;
  /** `'caller'` by default. */
  readonly visibleTo?: Visibility;
}

interface Asked {
  readonly what?: string | undefined;
  readonly page?: number | undefined;
}

/**
 * `help`, `help fine`, `help overdue remind`, `help --page 2`: what the caller may run here, and how.
 *
 * @example
 * createCommandLayer({ commands: [...mine, helpCommand({ aliases: ['?'] })] });
 */
export function helpCommand(options: HelpCommandOptions = {}): Command<Asked> {
  const { name = 'help', description = 'What you can do here, and how', visibleTo = 'caller', ...rest } = options;
  return command({
    ...rest,
    name,
    description,
    visibleTo,
    args: {
      page: arg.integer({ description: 'Which page of a long list', min: 1, default: 1, flag: true }),
      what: arg.tail({ description: 'Which command or group', optional: true, max: 120 }),
    },
    run: ({ args, helpOn }) => helpOn(args.what, args.page),
  });
}
