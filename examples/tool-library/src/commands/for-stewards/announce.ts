import { arg, command } from 'taxeon';

export default function announce() {
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
