import { arg, command, refuse as decline } from 'taxeon';
import { kinds, type Tool, type ToolLibrary } from '../library.js';
import { refuse } from '../messages.js';
import { period, whenDue } from '../words.js';

/** A tool by its name; what is in `where` is offered while somebody types. */
function toolArg(library: ToolLibrary, where: 'on the shelf' | 'lent' | 'anywhere') {
  return arg.text({
    description: 'Which tool',
    max: 40,
    example: 'drill',
    complete: (_, { place }) => {
      if (place.kind !== 'guild') return [];
      const { id } = place.guild;
      const isOffered = (tool: Tool) =>
        where === 'anywhere' || (library.loanOf(id, tool) === undefined) === (where === 'on the shelf');
      return library
        .tools(id)
        .filter(isOffered)
        .map(({ name, kind }) => ({ value: name, description: kind }));
    },
  });
}

export function borrow(library: ToolLibrary) {
  return command({
    name: 'borrow',
    aliases: ['take'],
    examples: ['drill', 'ladder 2 days for the gutters', '"hedge trimmer"'],
    description: 'Borrow a tool',
    localized: {
      pl: {
        name: 'wypożycz',
        description: 'Wypożycz narzędzie',
        args: { tool: 'Które narzędzie', keep: 'Na jak długo' },
      },
      ja: { description: '道具を借りる' },
    },
    section: 'Lending',
    in: 'guild',
    args: {
      tool: toolArg(library, 'on the shelf'),
      keep: arg.duration({ description: 'For how long', min: '1h', max: '14d', default: '3d' }),
      note: arg.tail({ description: 'What it is for', optional: true, max: 200 }),
    },
    requires: ({ caller }) => [caller.can('borrow')],
    cooldowns: { user: '2 in 10m' },
    run({ args, caller, guild, now }) {
      const found = pickTool(library.findTools(guild.id, args.tool), args.tool);
      if ('reason' in found) return found;
      const loan = library.loanOf(guild.id, found);
      if (loan !== undefined) return refuse('tool.out', { tool: found.name, until: loan.until });
      if (found.badge !== undefined && !library.hasBadge(guild.id, caller.id, found.badge, now)) {
        return refuse('badge.missing', { tool: found.name });
      }
      const until = now + args.keep;
      library.lend(guild.id, {
        tool: found.name,
        borrower: caller.id,
        until,
        ...(args.note === undefined ? {} : { note: args.note }),
      });
      return `The ${found.name} is yours, ${caller.name}. Please bring it back by ${whenDue(until, now)}.`;
    },
  });
}

export function giveBack(library: ToolLibrary) {
  return command({
    name: 'return',
    aliases: ['back'],
    description: 'Bring a tool back',
    section: 'Lending',
    in: 'guild',
    args: { tool: toolArg(library, 'lent') },
    whenMissing: 'ask',
    run({ args, caller, guild, now }) {
      const found = pickTool(library.findTools(guild.id, args.tool), args.tool);
      if ('reason' in found) return found;
      const loan = library.loanOf(guild.id, found);
      if (loan === undefined) return refuse('tool.in', { tool: found.name });
      if (loan.borrower !== caller.id) return refuse('loan.not-yours', { tool: found.name });
      library.takeBack(guild.id, found);
      return loan.until < now
        ? `The ${found.name} is back, a little late. Thank you, ${caller.name}.`
        : `The ${found.name} is back on the shelf. Thank you, ${caller.name}.`;
    },
  });
}

export function reserve(library: ToolLibrary) {
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
      const found = pickTool(library.findTools(guild.id, args.tool), args.tool);
      if ('reason' in found) return found;
      const [from, to] = [args.from.getTime(), args.to.getTime()];
      const clash = args.tentative ? undefined : library.clash(guild.id, found, from, to);
      if (clash !== undefined) {
        return decline('tool.reserved', `The ${found.name} is reserved from ${period(clash.from, clash.to)}.`);
      }
      const friends = args.with ?? [];
      library.reserve(guild.id, {
        tool: found.name,
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
        heading: `${args.tentative ? 'Pencilled in' : 'Reserved'}: ${found.name}`,
        body: `${period(from, to)}, for ${who}.`,
        ...(args.note === undefined ? {} : { details: [args.note] }),
      };
    },
  });
}

const WEEK_MS = 7 * 86_400_000;

/** @param home the guild whose shelf is shown where somebody asks in a direct message */
export function shelf(library: ToolLibrary, home: string) {
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

function pickTool(found: readonly Tool[], asked: string) {
  const [first, ...others] = found;
  if (first === undefined) return refuse('tool.unknown', { asked });
  if (others.length === 0) return first;
  return refuse('tool.several', { tools: found.map(({ name }) => name) });
}
