import { command } from 'taxeon';
import { refuse } from '../../messages.js';
import type { Services } from '../../services.js';
import { pickTool, toolArg } from './_tools.js';

export default function giveBack({ library }: Services) {
  return command({
    name: 'return',
    aliases: ['back'],
    description: 'Bring a tool back',
    section: 'Lending',
    in: 'guild',
    args: { tool: toolArg(library, 'lent') },
    whenMissing: 'ask',
    run({ args, caller, guild, now }) {
      const found = pickTool(library.findTools(guild.id, args.tool), args.tool);
      if ('reason' in found) return found;
      const loan = library.loanOf(guild.id, found);
      if (loan === undefined) return refuse('tool.in', { tool: found.name });
      if (loan.borrower !== caller.id) return refuse('loan.not-yours', { tool: found.name });
      library.takeBack(guild.id, found);
      return loan.until < now
        ? `The ${found.name} is back, a little late. Thank you, ${caller.name}.`
        : `The ${found.name} is back on the shelf. Thank you, ${caller.name}.`;
    },
  });
}
