import { arg, command } from 'taxeon';
import { refuse } from '../../messages.js';
import type { Services } from '../../services.js';
import { whenDue } from '../../words.js';
import { toolArg } from './_tools.js';

export default function borrow({ library }: Services) {
  return command({
    name: 'borrow',
    aliases: ['take'],
    examples: ['drill', 'ladder 2 days for the gutters', 'hedge trimmer'],
    description: 'Borrow a tool',
    localized: {
      pl: {
        name: 'wypożycz',
        description: 'Wypożycz narzędzie',
        args: { tool: 'Które narzędzie', keep: 'Na jak długo albo do kiedy' },
      },
      ja: { description: '道具を借りる' },
    },
    section: 'Lending',
    in: 'guild',
    args: {
      tool: toolArg(library, 'on the shelf'),
      keep: arg.until({ description: 'For how long, or until when', min: '1h', max: '12d', default: '3d' }),
      note: arg.tail({ description: 'What it is for', optional: true, max: 200 }),
    },
    requires: ({ caller }) => [caller.can('borrow')],
    cooldowns: { user: '2 in 10m' },
    run({ args, caller, guild, now }) {
      const { tool } = args;
      const loan = library.loanOf(guild.id, tool);
      if (loan !== undefined) return refuse('tool.out', { tool: tool.name, until: loan.until });
      if (tool.badge !== undefined && !library.hasBadge(guild.id, caller.id, tool.badge, now)) {
        return refuse('badge.missing', { tool: tool.name });
      }
      const until = args.keep.getTime();
      library.lend(guild.id, {
        tool: tool.name,
        borrower: caller.id,
        until,
        ...(args.note === undefined ? {} : { note: args.note }),
      });
      return `The ${tool.name} is yours, ${caller.name}. Please bring it back by ${whenDue(until, now)}.`;
    },
  });
}
