import { arg, command } from 'taxeon';
import type { Services } from '../../services.js';
import { money } from '../../words.js';
import { byName } from '../lending/_tools.js';

export default function fine({ library }: Services) {
  return command({
    name: 'fine',
    description: 'Charge somebody for a late or broken tool',
    section: 'For stewards',
    in: 'guild',
    args: {
      who: arg.member({ description: 'Who pays' }),
      pence: arg.integer({ description: 'How much, in pence', min: 1, max: 500 }),
      tool: arg.choice(({ guild }) => library.tools(guild.id), {
        ...byName,
        description: 'For which tool',
        optional: true,
      }),
    },
    requires: ({ caller, target, not }) => [
      caller.can('fine'),
      caller.outranks('who'),
      not(target('who').isBot()),
      not(target('who').can('administer')),
    ],
    cooldowns: { user: '3 in 1m' },
    async run({ args, caller, guild, tell }) {
      const { who, pence } = args;
      const tool = args.tool?.name;
      library.charge(guild.id, { who: who.id, pence, ...(tool === undefined ? {} : { tool }) });
      const reason = tool === undefined ? '' : ` for the ${tool}`;
      await tell(who, `${caller.name} has charged you ${money(pence)}${reason} at the ${guild.name}.`);
      return `${who.name} owes ${money(pence)}${reason}, ${money(library.owed(guild.id, who.id))} in all.`;
    },
  });
}
