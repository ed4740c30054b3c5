import { arg, command } from 'taxeon';
import { kinds } from '../../library.js';
import type { Services } from '../../services.js';
import { whenDue } from '../../words.js';

export default function shelf({ library, home }: Services) {
  return command({
    name: 'shelf',
    description: 'See what is on the shelf',
    section: 'Lending',
    args: { kind: arg.choice(kinds, { description: 'Only tools of this kind', optional: true }) },
    run({ args, guild, now }) {
      const at = guild?.id ?? home;
      const lines = library.tools(at, args.kind).map((tool) => {
        const loan = library.loanOf(at, tool);
        return loan === undefined ? tool.name : `${tool.name} (out until ${whenDue(loan.until, now)})`;
      });
      return {
        tone: 'info',
        heading: args.kind === undefined ? 'On the shelf' : `On the shelf, ${args.kind}`,
        body: lines.join(', '),
      };
    },
  });
}
