/** `taxeon usage`: what was used how often, from a store's file. */
import colors from 'picocolors';
import { readUsage, type UsageCount } from 'taxeon';
import { UsageError } from './errors.js';
import { openExistingStore } from './open-store.js';
import { tableLines } from './table.js';

export interface UsageOptions {
  readonly store: string;
  readonly in?: string;
  readonly since?: string;
  readonly format: 'table' | 'csv' | 'json';
}

export async function showUsage({ store: path, in: guild, since, format }: UsageOptions): Promise<void> {
  if (since !== undefined && !/^\d{4}-\d{2}-\d{2}$/.test(since)) {
    throw new UsageError(`"${since}" is no day; write it as 2026-05-09.`);
  }
  const store = await openExistingStore(path, 'its counts');
  try {
    const counts = (await readUsage(store)).filter(
      (one) => (guild === undefined || one.guild === guild) && (since === undefined || one.day >= since),
    );
    console.log(written(counts, format));
  } finally {
    await store.close();
  }
}

function written(counts: readonly UsageCount[], format: UsageOptions['format']): string {
  switch (format) {
    case 'json':
      return JSON.stringify(counts, null, 2);
    case 'csv':
      return ['day,platform,guild,command,status,count', ...counts.map(csvRow)].join('\n');
    case 'table':
      return counts.length === 0 ? '\n  Nothing was counted.\n' : tables(counts);
  }
}

function csvRow({ day, platform, guild, command, status, count }: UsageCount): string {
  return [day, platform, guild, command, status, String(count)].map(csvField).join(',');
}

/** Quoted where it must be (RFC 4180), and never a formula where a spreadsheet opens it. */
function csvField(text: string): string {
  const safe = /^[=+\-@\t\r]/.test(text) ? `'${text}` : text;
  return /[",\r\n]/.test(safe) ? `"${safe.replaceAll('"', '""')}"` : safe;
}

/** The outcomes in the order of a bar, each with a sign of its own for eyes without colour. */
const parts = [
  { sign: '■', paint: colors.green, statuses: ['completed'] },
  { sign: '▒', paint: colors.yellow, statuses: ['refused', 'invalid'] },
  { sign: '░', paint: colors.cyan, statuses: ['waiting'] },
  { sign: '×', paint: colors.red, statuses: ['failed'] },
] as const;

const WIDTH = 30;
/** What people looked for and did not find is counted under no command. */
function nameOf(command: string): string {
  return command === '' ? '(unknown name)' : command;
}

const HEAD = ['command', 'in all', 'done', 'refused', 'invalid', 'asked', 'failed'];

/** One table a guild: the commands by how often they were used, with a bar for how that ended. */
function tables(counts: readonly UsageCount[]): string {
  const days = counts.map(({ day }) => day).sort();
  const [first, last] = [days[0], days.at(-1)];
  const lines = ['', `  ${colors.dim(first === last ? `on ${first}` : `${first} to ${last}`)}`];
  const guilds = groupBy(counts, ({ guild }) => guild).sort((a, b) => total(b) - total(a));
  const scale: Scale = {
    most: Math.max(...guilds.flatMap((here) => groupBy(here, ({ command }) => command).map(total))),
    nameWidth: Math.max(...counts.map(({ command }) => nameOf(command).length)),
  };
  for (const here of guilds) {
    const guild = here[0]?.guild ?? '';
    lines.push(
      '',
      `  ${colors.bold(colors.underline(guild === '' ? 'in no guild' : guild))}`,
      ...guildTable(here, scale),
    );
  }
  lines.push('');
  const legend = parts.map(({ sign, paint, statuses }) => `${paint(sign)} ${legends[statuses[0]]}`);
  return [...lines, `  ${legend.join('   ')}`, ''].join('\n');
}

const legends = { completed: 'done', refused: 'refused or invalid', waiting: 'asked', failed: 'failed' };

/** What all tables share, so that their columns and bars compare. */
interface Scale {
  readonly most: number;
  readonly nameWidth: number;
}

function groupBy(counts: readonly UsageCount[], keyOf: (count: UsageCount) => string): UsageCount[][] {
  const groups = new Map<string, UsageCount[]>();
  for (const one of counts) groups.set(keyOf(one), [...(groups.get(keyOf(one)) ?? []), one]);
  return [...groups.values()];
}

function guildTable(counts: readonly UsageCount[], { most, nameWidth }: Scale): string[] {
  const commands = groupBy(counts, ({ command }) => command).sort((a, b) => total(b) - total(a));
  const rows = commands.map((own) => [
    nameOf(own[0]?.command ?? ''),
    String(total(own)),
    ...['completed', 'refused', 'invalid', 'waiting', 'failed'].map((status) =>
      number(total(own.filter((one) => one.status === status))),
    ),
  ]);
  const [head = '', ...lines] = tableLines(HEAD, rows, [1, 2, 3, 4, 5, 6], nameWidth);
  return [head, ...lines.map((line, index) => `${line}  ${bar(commands[index] ?? [], most)}`)];
}

function total(counts: readonly UsageCount[]): number {
  return counts.reduce((sum, { count }) => sum + count, 0);
}

function number(count: number): string {
  return count === 0 ? '·' : String(count);
}

function bar(counts: readonly UsageCount[], most: number): string {
  return parts
    .map(({ sign, paint, statuses }) => {
      const count = total(counts.filter(({ status }) => (statuses as readonly string[]).includes(status)));
      return count === 0 ? '' : paint(sign.repeat(Math.max(1, Math.round((count / most) * WIDTH))));
    })
    .join('');
}
