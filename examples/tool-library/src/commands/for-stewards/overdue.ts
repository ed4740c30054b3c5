import { arg, command, group } from 'taxeon';
import type { ModuleContext } from 'taxeon/modules';
import type { Loan, ToolLibrary } from '../../library.js';
import type { Services } from '../../services.js';
import { whenDue } from '../../words.js';

/** What is late: `overdue list`, `overdue remind`, `overdue close`, and the list on the boards each morning. */
export default function overdue({ library, boards }: Services) {
  const listing = list(library);
  const commands = group({
    name: 'overdue',
    aliases: ['late'],
    description: 'Tools that should be back by now',
    section: 'For stewards',
    in: 'guild',
    requires: ({ caller }) => [caller.can('remind')],
    whenMissing: 'ask',
    cooldowns: { user: '10 in 1m' },
    commands: [listing, remind(library), close(library)],
  });

  function opened({ layer, clock, connected, daily }: ModuleContext<Services>): void {
    connected((platform) => {
      daily('8:00', async () => {
        for (const { guild, channel, ...board } of boards) {
          if (board.platform !== platform.name || library.overdue(guild.id, clock.now()).length === 0) continue;
          const place = { kind: 'guild', guild, channel } as const;
          await layer.invoke(listing, { as: 'morning list', args: {}, place, platform });
        }
      });
    });
  }

  return { commands, opened };
}

function list(library: ToolLibrary) {
  return command({
    name: 'list',
    description: 'Which tools are late, and with whom',
    in: 'guild',
    run({ guild, now }) {
      const late = library.overdue(guild.id, now);
      if (late.length === 0) return 'Nothing is late.';
      const details = late.map(({ tool, borrower, until }) => `${tool}: with ${borrower}, due ${whenDue(until, now)}`);
      return { tone: 'info', heading: 'Late', body: '', details };
    },
  });
}

function remind(library: ToolLibrary) {
  return command({
    name: 'remind',
    aliases: ['nudge'],
    description: 'Remind somebody of what they have',
    in: 'guild',
    args: {
      who: arg.member({ description: 'Who has it' }),
      note: arg.tail({ description: 'Anything to add', optional: true, max: 200 }),
    },
    examples: ['Tobias', 'Tobias the workshop needs it on Monday'],
    async run({ args: { who, note }, guild, now, tell }) {
      const late = library.overdue(guild.id, now).filter(({ borrower }) => borrower === who.id);
      if (late.length === 0) return `${who.name} has nothing that is late.`;
      const told = await tell(who, {
        heading: `From the ${guild.name}`,
        body: `Please bring back: ${toolNames(late)}.`,
        ...(note === undefined ? {} : { details: [note] }),
      });
      return told === 'delivered'
        ? `${who.name} is reminded.`
        : `${who.name} takes no messages. Please ask them yourself.`;
    },
  });
}

function close(library: ToolLibrary) {
  return command({
    name: 'close',
    description: 'Take a late tool back for somebody',
    in: 'guild',
    args: {
      tool: arg.choice(({ guild }) => library.overdue(guild.id, Number.POSITIVE_INFINITY), {
        description: 'Which tool',
        in: 'guild',
        name: ({ tool }) => tool,
        describe: ({ borrower }) => `with ${borrower}`,
      }),
    },
    confirm: ({ tool: loan }) => `Is the ${loan.tool} really back on the shelf?`,
    run({ args: { tool: loan }, guild }) {
      library.takeBack(guild.id, { name: loan.tool });
      return `The ${loan.tool} is back. It was with ${loan.borrower}.`;
    },
  });
}

function toolNames(loans: readonly Loan[]): string {
  return loans.map(({ tool }) => tool).join(', ');
}
