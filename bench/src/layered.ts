/** The same bot on a command layer. */
import { arg, type CommandLayer, command, createCommandLayer } from 'taxeon';

const fine = command({
  name: 'fine',
  aliases: ['charge'],
  description: 'Charge a late return',
  args: {
    who: arg.member({ description: 'Who was late' }),
    pence: arg.integer({ description: 'How much', min: 1, max: 500 }),
    note: arg.tail({ description: 'What for', optional: true }),
  },
  requires: ({ caller, bot }) => [caller.can('fine'), bot.can('fine'), caller.outranks('who')],
  cooldowns: { user: '3 in 1m' },
  run: ({ args }) => `${args.who.name} owes ${args.pence} pence${args.note === undefined ? '' : ` (${args.note})`}.`,
});

export function layeredBot(now: () => number): CommandLayer {
  return createCommandLayer({ commands: [fine], prefixes: ['!'], clock: { now } });
}
