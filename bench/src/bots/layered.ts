/** The same bot on a command layer. */
import {
  type AroundHook,
  arg,
  type Clock,
  type CommandLayer,
  command,
  createCommandLayer,
  type GuildSettings,
  guildSettings,
  memoryStore,
} from 'taxeon';
import { guild, quiet } from './oddmere.js';

interface LayeredOptions {
  readonly around?: AroundHook;
  readonly clock: Clock;
  /** Whether the handler gives a promise. */
  readonly isAsync?: boolean;
}

const declared = {
  name: 'fine',
  aliases: ['charge'],
  description: 'Charge a late return',
  args: {
    who: arg.member({ description: 'Who was late' }),
    pence: arg.integer({ description: 'How much', min: 1, max: 500 }),
    note: arg.tail({ description: 'What for', optional: true }),
  },
} as const;

const owes = (who: string, pence: number, note: string | undefined) =>
  `${who} owes ${pence} pence${note === undefined ? '' : ` (${note})`}.`;

export function layeredBot({ clock, isAsync = false, around }: LayeredOptions): CommandLayer {
  const fine = command({
    ...declared,
    requires: ({ caller, bot }) => [caller.can('fine'), bot.can('fine'), caller.outranks('who')],
    cooldowns: { user: '3 in 1m' },
    run: isAsync
      ? async ({ args: { who, pence, note } }) => owes(who.name, pence, note)
      : ({ args: { who, pence, note } }) => owes(who.name, pence, note),
  });
  return createCommandLayer({
    commands: [fine],
    prefixes: ['!'],
    clock,
    log: quiet,
    ...(around === undefined ? {} : { around }),
  });
}

/** With settings of guilds from a store, a running limit, two cooldowns; listeners and event ids come with the calls. */
export function everythingLayered(clock: Clock, settings: GuildSettings): CommandLayer {
  const store = memoryStore({ clock });
  const fine = command({
    ...declared,
    requires: ({ caller, bot }) => [caller.can('fine'), bot.can('fine'), caller.outranks('who')],
    cooldowns: { user: '3 in 1m', userHere: '3 in 1m' },
    running: { guild: 1000 },
    run: ({ args: { who, pence, note } }) => owes(who.name, pence, note),
  });
  const book = guildSettings({ store, guilds: { [`bench/${guild.id}`]: settings } });
  return createCommandLayer({ commands: [fine], prefixes: ['!'], clock, log: quiet, store, settings: book });
}
