import { arg, command } from 'taxeon';
import { skills, type ToolLibrary } from '../library.js';
import { money, whenDue } from '../words.js';

export function induct(library: ToolLibrary) {
  return command({
    name: 'induct',
    aliases: ['certify'],
    description: 'Record a safety induction and give the badge for it',
    section: 'For stewards',
    in: 'guild',
    args: {
      who: arg.member({ description: 'Who was shown the machine' }),
      skill: arg.choice(skills, { description: 'Which machine' }),
      valid: arg.duration({ description: 'For how long', min: '30d', max: '365d', default: '180d' }),
      note: arg.tail({ description: 'Anything to remember', optional: true }),
    },
    requires: ({ caller, bot, target, not }) => [
      caller.can('certify'),
      caller.outranks('who'),
      not(target('who').isBot()),
      bot.can('give-badges'),
      bot.outranks('who'),
    ],
    cooldowns: { user: '5 in 1m', guild: '40 in 1h' },
    run({ args, guild, now }) {
      const until = now + args.valid;
      library.award(guild.id, { holder: args.who.id, skill: args.skill, until });
      return `${args.who.name} may use the ${args.skill} until ${whenDue(until, now)}.`;
    },
  });
}

export function fine(library: ToolLibrary) {
  return command({
    name: 'fine',
    description: 'Charge somebody for a late or broken tool',
    section: 'For stewards',
    in: 'guild',
    args: {
      who: arg.member({ description: 'Who pays' }),
      pence: arg.integer({ description: 'How much, in pence', min: 1, max: 500 }),
      tool: arg.text({ description: 'For which tool', optional: true, max: 40 }),
    },
    requires: ({ caller, target, not }) => [
      caller.can('fine'),
      caller.outranks('who'),
      not(target('who').isBot()),
      not(target('who').can('administer')),
    ],
    cooldowns: { user: '3 in 1m' },
    async run({ args, caller, guild, tell }) {
      const { who, pence, tool } = args;
      library.charge(guild.id, { who: who.id, pence, ...(tool === undefined ? {} : { tool }) });
      const reason = tool === undefined ? '' : ` for the ${tool}`;
      await tell(who, `${caller.name} has charged you ${money(pence)}${reason} at the ${guild.name}.`);
      return `${who.name} owes ${money(pence)}${reason}, ${money(library.owed(guild.id, who.id))} in all.`;
    },
  });
}

export function announce() {
  return command({
    name: 'announce',
    description: 'Tell everybody something',
    section: 'For stewards',
    in: 'guild',
    args: { text: arg.tail({ description: 'What to tell', max: 400 }) },
    requires: ({ caller, bot }) => [caller.can('announce'), bot.can('post-notices')],
    cooldowns: { guild: '10m' },
    run: ({ args, caller }) => ({ tone: 'info', heading: `From ${caller.name}`, body: args.text }),
  });
}
