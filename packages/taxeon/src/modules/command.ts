/** Seeing and reloading modules from the chat. */

import { aFunction, checkFields } from '../base/fields.js';
import { type Refusal, refuse } from '../commands/call.js';
import { command } from '../commands/command.js';
import { type Group, type GroupDeclaration, group } from '../commands/group.js';
import { text } from '../commands/kinds/text.js';
import type { Notice } from '../contract/notice.js';
import type { Modules, Reloaded } from './modules.js';
import { ModulesError } from './problems.js';

export interface ModulesCommandOptions {
  /** Who may; the bot's owners by default. */
  readonly requires?: GroupDeclaration['requires'];
}

/**
 * A group `modules` with `modules list` and `modules reload`, which tells what became of it.
 *
 * @throws TypeError for an option that there is not
 *
 * @example
 * const modules = await loadModules(folder, { commands: () => [modulesCommand(modules)] });
 */
export function modulesCommand(modules: Modules, options: ModulesCommandOptions = {}): Group {
  checkFields(options, { requires: aFunction }, (field, problem) => {
    throw new TypeError(`modulesCommand, ${field || 'options'}: ${problem}`);
  });
  const { requires = ({ caller }) => [caller.ownsBot()] } = options;
  const list = command({
    name: 'list',
    description: 'Which modules there are, with their commands',
    run: (): Notice => ({
      tone: 'info',
      heading: 'Modules',
      body: modules.list.length === 0 ? 'There are none.' : '',
      details: modules.list.map(({ id, commands }) => `${id}: ${commands.join(', ') || 'no commands'}`),
    }),
  });
  const reload = command({
    name: 'reload',
    description: 'Read what has changed anew, or one module',
    args: {
      module: text({
        description: 'Which one',
        optional: true,
        max: 200,
        complete: () => modules.list.map(({ id }) => id),
      }),
    },
    run: async ({ args }): Promise<Notice | Refusal> => {
      const id = args.module;
      if (id !== undefined && !modules.list.some((one) => one.id === id))
        return refuse('modules.unknown', `There is no module “${id}”.`);
      try {
        return told(await modules.reload(id));
      } catch (error) {
        if (!(error instanceof ModulesError)) throw error;
        const lines = error.message.split('\n').map((line) => line.trim());
        return refuse('modules.wrong', `Nothing was reloaded. ${lines.join('\n')}`);
      }
    },
  });
  return group({
    name: 'modules',
    description: 'The files that the commands are in',
    requires,
    commands: [list, reload],
  });
}

function told({ changed, added, removed, toRegister }: Reloaded): Notice {
  const parts = [
    ['Reloaded', changed],
    ['New', added],
    ['Gone', removed],
    ['To be registered', toRegister],
  ] as const;
  const details = parts.flatMap(([what, ids]) => (ids.length === 0 ? [] : [`${what}: ${ids.join(', ')}`]));
  return details.length === 0 ? { tone: 'info', body: 'Nothing has changed.' } : { tone: 'success', body: '', details };
}
