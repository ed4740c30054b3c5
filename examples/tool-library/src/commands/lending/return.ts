import { command } from 'taxeon';
import { refuse } from '../../messages.js';
import type { Services } from '../../services.js';
import { toolArg } from './_tools.js';

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
      const { tool } = args;
      const loan = library.loanOf(guild.id, tool);
      if (loan === undefined) return refuse('tool.in', { tool: tool.name });
      if (loan.borrower !== caller.id) return refuse('loan.not-yours', { tool: tool.name });
      library.takeBack(guild.id, tool);
      return loan.until < now
        ? `The ${tool.name} is back, a little late. Thank you, ${caller.name}.`
        : `The ${tool.name} is back on the shelf. Thank you, ${caller.name}.`;
    },
  });
}
