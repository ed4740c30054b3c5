/** Seeing and reloading modules from the chat. */

import { aFunction, checkFields } from '../base/fields.js';
import { type Refusal, refuse } from '../commands/call.js';
import { command } from '../commands/command.js';
import { type Group, type GroupDeclaration, group } from '../commands/group.js';
import { text } from '../commands/kinds/text.js';
import type { Notice } from '../contract/notice.js';
import type { Words } from '../contract/words.js';
import { describer } from '../queries/described.js';
import { sayer } from '../replies/texts.js';
import type { Modules, Reloaded } from './modules.js';
import { ModulesError } from './problems.js';
import { modulesTexts } from './texts.js';

const say = sayer(modulesTexts);
const describe = describer(modulesTexts);

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
 * const modules: Modules = await loadModules(folder, { commands: () => [modulesCommand(modules)] });
 */
export function modulesCommand(modules: Modules, options: ModulesCommandOptions = {}): Group {
  checkFields(options, { requires: aFunction }, (field, problem) => {
    throw new TypeError(`modulesCommand, ${field || 'options'}: ${problem}`);
  });
  const { requires = ({ caller }) => [caller.ownsBot()] } = options;
  const list = command({
    name: 'list',
    ...describe.command('describe.modules.list'),
    run: ({ words }): Notice => ({
      tone: 'info',
      heading: say(words, 'modules.heading'),
      body: modules.list.length === 0 ? say(words, 'modules.none') : '',
      details: modules.list.map(({ id, commands }) => (commands.length === 0 ? id : `${id}: ${commands.join(', ')}`)),
    }),
  });
  const reload = command({
    name: 'reload',
    ...describe.command('describe.modules.reload', { module: 'describe.modules.module' }),
    args: {
      module: text({
        ...describe.argument('describe.modules.module'),
        optional: true,
        max: 200,
        complete: () => modules.list.map(({ id }) => id),
      }),
    },
    run: async ({ args, words }): Promise<Notice | Refusal> => {
      const id = args.module;
      if (id !== undefined && !modules.list.some((one) => one.id === id))
        return refuse('modules.unknown', say(words, 'modules.unknown', { module: id }));
      try {
        return reloadNotice(await modules.reload(id), words);
      } catch (error) {
        if (!(error instanceof ModulesError)) throw error;
        const lines = error.message.split('\n').map((line) => line.trim());
        return refuse('modules.wrong', `${say(words, 'modules.wrong')} ${lines.join('\n')}`);
      }
    },
  });
  return group({ name: 'modules', ...describe.command('describe.modules'), requires, commands: [list, reload] });
}

function reloadNotice({ changed, added, removed, toRegister }: Reloaded, words: Words): Notice {
  const parts = [
    ['modules.reloaded', changed],
    ['modules.new', added],
    ['modules.gone', removed],
    ['modules.to-register', toRegister],
  ] as const;
  const details = parts.flatMap(([what, ids]) => {
    const listed = ids.join(', ');
    return ids.length === 0 ? [] : [say(words, what, { modules: listed, commands: listed })];
  });
  return details.length === 0
    ? { tone: 'info', body: say(words, 'modules.unchanged') }
    : { tone: 'success', body: '', details };
}
