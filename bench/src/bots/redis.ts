/** A command with two cooldowns that never refuse, and a line that calls it. */
import { arg, command } from 'taxeon';
import type { Input } from 'taxeon/platform';

export const borrow = command({
  name: 'borrow',
  aliases: ['take'],
  description: 'Borrow a tool',
  args: { tool: arg.text(), days: arg.integer({ min: 1, max: 14 }), note: arg.tail({ optional: true }) },
  cooldowns: { user: '1000 in 1s', guild: '1000 in 10ms' },
  run: ({ args }) => `${args.tool} is yours for ${args.days} days.`,
});

export function line(person: string, guild: string): Input {
  return {
    surface: 'text',
    text: '!take drill 3 for the shed',
    caller: { kind: 'member', id: person, name: 'Wren', roles: [], rank: 0, permissions: new Set(), ownsGuild: false },
    place: { kind: 'guild', guild: { id: guild, name: 'Oddmere' }, channel: { id: 'counter', name: '#counter' } },
    at: Date.now(),
  };
}
