import { arg, command, refuse } from 'taxeon';
import type { Services } from '../../services.js';
import { period } from '../../words.js';
import { toolArg } from './_tools.js';

const WEEK_MS = 7 * 86_400_000;

export default function reserve({ library }: Services) {
  return command({
    name: 'reserve',
    description: 'Reserve a tool for a time to come',
    section: 'Lending',
    in: 'guild',
    args: {
      tool: toolArg(library, 'anywhere'),
      from: arg.datetime({ description: 'From when', example: 'tomorrow 9:00', min: 'now', max: { fromNow: '60d' } }),
      to: arg.datetime({ description: 'Until when' }),
      with: arg.list(arg.member(), { description: 'Who shares it', optional: true, max: 3 }),
      tentative: arg.boolean({ description: 'Give way to others', flag: { short: 't' } }),
      note: arg.text({ description: 'What it is for', flag: true, optional: true, max: 100 }),
    },
    requires: ({ caller }) => [caller.can('borrow')],
    together({ from, to }, blame) {
      if (to <= from) return blame('to', 'A reservation ends after it begins.');
      return to.getTime() - from.getTime() > WEEK_MS ? blame('to', 'Seven days are the most.') : undefined;
    },
    run({ args, caller, guild }) {
      const { tool } = args;
      const [from, to] = [args.from.getTime(), args.to.getTime()];
      const clash = args.tentative ? undefined : library.clash(guild.id, tool, from, to);
      if (clash !== undefined) {
        return refuse('tool.reserved', `The ${tool.name} is reserved from ${period(clash.from, clash.to)}.`);
      }
      const friends = args.with ?? [];
      library.reserve(guild.id, {
        tool: tool.name,
        holder: caller.id,
        from,
        to,
        together: friends.map(({ id }) => id),
        tentative: args.tentative,
        ...(args.note === undefined ? {} : { note: args.note }),
      });
      const who = [caller.name, ...friends.map(({ name }) => name)].join(', ');
      return {
        tone: 'success',
        heading: `${args.tentative ? 'Pencilled in' : 'Reserved'}: ${tool.name}`,
        body: `${period(from, to)}, for ${who}.`,
        ...(args.note === undefined ? {} : { details: [args.note] }),
      };
    },
  });
}
