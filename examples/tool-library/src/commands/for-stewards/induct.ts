import { arg, command } from 'taxeon';
import { skills } from '../../library.js';
import type { Services } from '../../services.js';
import { whenDue } from '../../words.js';

export default function induct({ library }: Services) {
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
