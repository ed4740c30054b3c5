/** `taxeon usage`: what was used how often, from a store. */

import colors from 'picocolors';
import { visibleText } from 'taxeon/platform';
import { type UsageCount, usageIn } from 'taxeon/queries';
import { csvLine } from './csv.js';
import { UsageError } from './errors.js';
import { printJson } from './json.js';
import { openExistingStore, type StorePlace } from './open-store.js';
import { print } from './print.js';
import { tableRows } from './table.js';
import { terminalWidth, widthOf } from './terminal.js';

export interface UsageOptions extends StorePlace {
  readonly in?: string;
  readonly since?: string;
  readonly format: 'table' | 'csv';
  readonly json: boolean;
}

export async function showUsage({ in: guild, since, format, json, ...place }: UsageOptions): Promise<void> {
  if (since !== undefined && !/^\d{4}-\d{2}-\d{2}$/.test(since)) {
    throw new UsageError(`"${since}" is no day; write it as 2026-05-09.`);
  }
  const store = await openExistingStore(place, 'its counts');
  try {
    const counts = (await usageIn(store)).filter(
      (one) => (guild === undefined || one.guild === guild) && (since === undefined || one.day >= since),
    );
    if (json) printJson({ usage: counts });
    else print(writtenUsage(counts, format));
  } finally {
    await store.close();
  }
}

function writtenUsage(counts: readonly UsageCount[], format: UsageOptions['format']): string {
  switch (format) {
    case 'csv':
      return ['day,platform,guild,command,status,count', ...counts.map(csvRow)].join('\n');
    case 'table':
      return counts.length === 0 ? '\n  Nothing was counted.\n' : usageText(counts);
  }
}

function csvRow({ day, platform, guild, command, status, count }: UsageCount): string {
  return csvLine([day, platform, guild, command, status, String(count)]);
}

/** The outcomes in the order of a bar, each with a sign of its own for eyes without colour. */
const parts = [
  { sign: '■', paint: colors.green, statuses: ['completed'] },
  { sign: '▒', paint: colors.yellow, statuses: ['refused', 'invalid'] },
  { sign: '░', paint: colors.cyan, statuses: ['waiting'] },
  { sign: '×', paint: colors.red, statuses: ['failed'] },
] as const;

/** A narrow terminal has less room for a bar, or none. */
const LONGEST_BAR = 30;
const SHORTEST_BAR = 8;

/** What people looked for and did not find is counted under no command. */
function commandName(command: string): string {
  return command === '' ? '(unknown name)' : command;
}

const HEAD = ['command', 'in all', 'done', 'refused', 'invalid', 'asked', 'failed'];
/** Of the columns behind the first two. */
const STATUSES = ['completed', 'refused', 'invalid', 'waiting', 'failed'];

/** One table a guild: the commands by how often they were used, with a bar for how that ended. */
function usageText(counts: readonly UsageCount[]): string {
  const days = counts.map(({ day }) => day).sort();
  const [first, last] = [days[0], days.at(-1)];
  const lines = ['', `  ${colors.dim(first === last ? `on ${first}` : `${first} to ${last}`)}`];
  const guilds = groupBy(counts, ({ guild }) => guild).sort((a, b) => total(b) - total(a));
  const nameWidth = Math.max(...counts.map(({ command }) => widthOf(commandName(command))));
  const tables = guilds.map((here) => guildTable(here, nameWidth));
  const scale = scaleOf(tables);
  for (const table of tables) {
    const { guild } = table;
    const title = guild === '' ? 'in no guild' : visibleText(guild);
    lines.push('', `  ${colors.bold(colors.underline(title))}`, ...tableWithBars(table, scale));
  }
  lines.push('');
  if (scale.length === 0) return lines.join('\n');
  const legend = parts.map(({ sign, paint, statuses }) => `${paint(sign)} ${legends[statuses[0]]}`);
  return [...lines, `  ${legend.join('   ')}`, ''].join('\n');
}

const legends = { completed: 'done', refused: 'refused or invalid', waiting: 'asked', failed: 'failed' };

function groupBy(counts: readonly UsageCount[], keyOf: (count: UsageCount) => string): UsageCount[][] {
  const groups = new Map<string, UsageCount[]>();
  for (const one of counts) groups.set(keyOf(one), [...(groups.get(keyOf(one)) ?? []), one]);
  return [...groups.values()];
}

/** The commands of a guild by how often they were used, each with the lines of its row. */
interface GuildTable {
  readonly guild: string;
  readonly commands: readonly (readonly UsageCount[])[];
  readonly head: readonly string[];
  readonly rows: readonly (readonly string[])[];
}

function guildTable(counts: readonly UsageCount[], nameWidth: number): GuildTable {
  const commands = groupBy(counts, ({ command }) => command).sort((a, b) => total(b) - total(a));
  const endings = (own: readonly UsageCount[]) =>
    STATUSES.map((status) => total(own.filter((one) => one.status === status)));
  const cells = commands.map((own) => [
    commandName(own[0]?.command ?? ''),
    String(total(own)),
    ...endings(own).map((count) => (count === 0 ? '·' : String(count))),
  ]);
  const numeric = HEAD.map((_, column) => column).slice(1);
  const isNarrow = widthOf(HEAD.slice(1).join('  ')) + nameWidth + 4 > terminalWidth();
  const [head = [], ...rows] = isNarrow
    ? tableRows(
        ['command', 'in all', 'how they ended'],
        commands.map((own) => [commandName(own[0]?.command ?? ''), String(total(own)), endedInWords(endings(own))]),
        { numeric: [1], firstWidth: nameWidth },
      )
    : tableRows(HEAD, cells, { numeric, firstWidth: nameWidth });
  return { guild: counts[0]?.guild ?? '', commands, head, rows };
}

/** `3 done, 13 refused`, where there is no room for a column of each. */
function endedInWords(counts: readonly number[]): string {
  return counts.flatMap((count, index) => (count === 0 ? [] : [`${count} ${HEAD[index + 2]}`])).join(', ');
}

/** What all bars share, so that they compare. */
interface Scale {
  readonly most: number;
  /** How long the longest may be; 0 where there is no room. */
  readonly length: number;
}

function scaleOf(tables: readonly GuildTable[]): Scale {
  const widest = Math.max(...tables.flatMap(({ rows }) => rows.flat().map(widthOf)));
  const room = Math.min(LONGEST_BAR, terminalWidth() - widest - 2);
  const most = Math.max(...tables.flatMap(({ commands }) => commands.map(total)));
  return { most, length: room < SHORTEST_BAR ? 0 : room };
}

function tableWithBars({ commands, head, rows }: GuildTable, scale: Scale): string[] {
  const withBar = ([first = '', ...more]: readonly string[], index: number) => [
    `${first}  ${usageBar(commands[index] ?? [], scale)}`.trimEnd(),
    ...more,
  ];
  return [...head, ...rows.flatMap(withBar)];
}

function total(counts: readonly UsageCount[]): number {
  return counts.reduce((sum, { count }) => sum + count, 0);
}

function usageBar(counts: readonly UsageCount[], { most, length }: Scale): string {
  if (length === 0) return '';
  return parts
    .map(({ sign, paint, statuses }) => {
      const count = total(counts.filter(({ status }) => (statuses as readonly string[]).includes(status)));
      return count === 0 ? '' : paint(sign.repeat(Math.max(1, Math.round((count / most) * length))));
    })
    .join('');
}
