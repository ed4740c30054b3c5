/** `taxeon access`: who may run what in a guild, and what the bot itself must be allowed. */

import type { StandIn } from '@taxeon/testing';
import colors from 'picocolors';
import { type GuildPlace, type Member, systemClock } from 'taxeon';
import { htmlMarkup, isPlatformError } from 'taxeon/platform';
import {
  type AccessCell,
  type AccessRow,
  type AccessTable,
  accessTableOf,
  type BotNeed,
  needsOf,
} from 'taxeon/queries';
import { csvLine } from './csv.js';
import { UsageError } from './errors.js';
import { aboutPlace, printJson } from './json.js';
import { openBot } from './open.js';
import { print } from './print.js';
import { alignedLines } from './table.js';
import { padEnd, terminalWidth, widthOf, wrap } from './terminal.js';

export interface AccessOptions {
  readonly in?: string;
  readonly as?: string;
  readonly bot: boolean;
  readonly format: 'table' | 'csv' | 'html';
  readonly json: boolean;
  readonly config?: string;
  /** A file with the table that is expected. */
  readonly expect?: string;
}

export async function showAccess(options: AccessOptions): Promise<void> {
  const { layer, platform } = await openBot(options.config, systemClock);
  if (options.bot) {
    const all = needsOf(layer);
    if (options.json) printJson({ needs: all });
    else print(botNeedsText(all));
    return;
  }
  const place = guildPlaceOf(options.in, platform);
  const person = personOf(options.as, place, platform);
  const table = await accessTableOf(layer, place, platform, person);
  const { guild: _, ...cells } = table;
  if (options.json) printJson({ about: aboutPlace(place, person), ...cells });
  else print(formatted(table, options.format));
  if (options.expect === undefined) return;
  const { accessDifferences, failExpectation, readAccessTable } = await import('./expect.js');
  const differences = accessDifferences(readAccessTable(options.expect), table);
  if (differences.length > 0) failExpectation(differences);
}

function formatted(table: AccessTable, format: AccessOptions['format']): string {
  switch (format) {
    case 'csv':
      return accessCsv(table);
    case 'html':
      return accessPage(table);
    case 'table':
      return accessText(table);
  }
}

/** @throws UsageError where there is no such guild */
export function guildPlaceOf(wanted: string | undefined, platform: StandIn): GuildPlace {
  const guilds = [...platform.directory.guilds.keys()];
  const at = wanted ?? guilds[0];
  const someone = [...(platform.directory.guilds.get(at?.split('/')[0] ?? '')?.members.keys() ?? [])][0];
  if (at === undefined || someone === undefined) {
    throw new UsageError(`There is no guild "${at ?? ''}"; there are ${guilds.join(', ')}.`);
  }
  try {
    const { place } = platform.typed({ person: someone, place: at, text: '' });
    if (place.kind === 'guild') return place;
  } catch (error) {
    if (!isPlatformError(error)) throw error;
    throw new UsageError(`${error.message}.`);
  }
  throw new UsageError(`"${at}" is no guild; there are ${guilds.join(', ')}.`);
}

function personOf(wanted: string | undefined, { guild }: GuildPlace, platform: StandIn): Member | undefined {
  if (wanted === undefined) return undefined;
  const members = [...(platform.directory.guilds.get(guild.id)?.members.values() ?? [])];
  const person = members.find(({ id, name }) => id === wanted || name.toLowerCase() === wanted.toLowerCase());
  if (person !== undefined) return person;
  throw new UsageError(
    `There is no "${wanted}" in ${guild.name}; there are ${members.map(({ id }) => id).join(', ')}.`,
  );
}

// Access tables for a terminal, and as CSV.
/** A sign for each, so that nothing hangs on colour; a word where it depends, on what is told below. */
const looks: Readonly<Record<AccessCell['verdict'], { sign: string; paint: (text: string) => string }>> = {
  allowed: { sign: '✓', paint: colors.green },
  depends: { sign: '~ depends', paint: colors.yellow },
  refused: { sign: '✗', paint: colors.red },
  off: { sign: '–', paint: colors.dim },
};

function accessText(table: AccessTable): string {
  const { guild, columns, rows } = table;
  const first = Math.max(7, ...rows.map(({ command }) => widthOf(command))) + 2;
  const widths = columns.map((name, index) => {
    const cells = rows.map((row) => signOf(row, index).length);
    return Math.max(widthOf(name), ...cells) + 2;
  });
  const blocks = blocksOf(widths, terminalWidth() - first - 2);
  const lines = ['', `  ${colors.bold(guild)}`, ''];
  for (const block of blocks) {
    lines.push(
      `  ${' '.repeat(first)}${block.map((index) => colors.bold(padEnd(columns[index] ?? '', widths[index] ?? 0))).join('')}`.trimEnd(),
    );
    for (const row of rows)
      lines.push(
        `  ${padEnd(row.command, first)}${block.map((index) => shownCell(row, index, widths)).join('')}`.trimEnd(),
      );
    lines.push('');
  }
  lines.push(`  ${colors.dim('✓ may run it   ✗ may not   – is off')}`, '');
  for (const row of rows) lines.push(...cellReasons(row, columns, first));
  return lines.join('\n');
}

/** Columns side by side for as long as they fit. */
function blocksOf(widths: readonly number[], room: number): number[][] {
  const blocks: number[][] = [];
  let left = 0;
  for (const [index, width] of widths.entries()) {
    const block = blocks.at(-1);
    if (block === undefined || width > left) {
      blocks.push([index]);
      left = room - width;
    } else {
      block.push(index);
      left -= width;
    }
  }
  return blocks;
}

function shownCell({ cells }: AccessRow, index: number, widths: readonly number[]): string {
  const { sign, paint } = looks[verdictAt(cells, index)];
  return paint(sign.padEnd(widths[index] ?? 0));
}

function signOf({ cells }: AccessRow, index: number): string {
  return looks[verdictAt(cells, index)].sign;
}

function verdictAt(cells: readonly AccessCell[], index: number): AccessCell['verdict'] {
  return cells[index]?.verdict ?? 'refused';
}

/** Each reason once, with all whom it is about. */
function cellReasons({ command, cells }: AccessRow, columns: readonly string[], first: number): string[] {
  const reasons = new Map<string, string[]>();
  for (const [index, { verdict, because }] of cells.entries()) {
    if (because === '') continue;
    const reason = verdict === 'depends' ? `if ${because}` : because;
    reasons.set(reason, [...(reasons.get(reason) ?? []), columns[index] ?? '']);
  }
  return [...reasons].flatMap(([reason, who], index) => {
    const named = who.length === columns.length ? 'all' : who.join(', ');
    const [start = '', ...more] = wrap(`${colors.dim(`${named}:`)} ${reason}`, terminalWidth() - first - 2);
    const head = index === 0 ? command : '';
    return [`  ${padEnd(head, first)}${start}`, ...more.map((line) => `  ${' '.repeat(first)}${line}`)];
  });
}

function accessCsv({ columns, rows }: AccessTable): string {
  const lines = [['command', 'who', 'verdict', 'because']];
  for (const { command, cells } of rows) {
    for (const [index, { verdict, because }] of cells.entries())
      lines.push([command, columns[index] ?? '', verdict, because]);
  }
  return lines.map(csvLine).join('\n');
}

function botNeedsText(needs: readonly BotNeed[]): string {
  if (needs.length === 0) return '\n  The bot needs no permission of its own.\n';
  const rows = needs.map(({ permission, commands }) => [permission, commands.join(', ')]);
  const lines = alignedLines(rows, { width: terminalWidth() - 2 }).map((line) => `  ${line}`);
  return ['', '  What the bot itself must be allowed, by command:', '', ...lines, ''].join('\n');
}

// The access table as one page that can be sent to a guild's administrators: no script, nothing fetched.
const signs: Readonly<Record<AccessCell['verdict'], string>> = { allowed: '✓', depends: '~', refused: '✗', off: '–' };

function accessPage({ guild, columns, rows }: AccessTable): string {
  const head = columns.map((name) => `<th scope="col">${htmlMarkup(name)}</th>`).join('');
  const body = rows
    .map(({ command, cells }) => `<tr><th scope="row">${htmlMarkup(command)}</th>${cells.map(cellHtml).join('')}</tr>`)
    .join('\n');
  return `<!doctype html>
<html lang="en">
<head>
<meta charset="utf-8">
<meta name="viewport" content="width=device-width">
<title>Who may do what: ${htmlMarkup(guild)}</title>
<style>${style}</style>
</head>
<body>
<h1>Who may do what</h1>
<p class="guild">${htmlMarkup(guild)}</p>
<div class="sheet"><table>
<thead><tr><th scope="col">Command</th>${head}</tr></thead>
<tbody>
${body}
</tbody>
</table></div>
<ul class="key">
<li><b class="allowed">${signs.allowed} allowed</b></li>
<li><b class="depends">${signs.depends} depends</b> on whom it is done to, or on a condition that is looked at when it is used</li>
<li><b class="refused">${signs.refused} refused</b></li>
<li><b class="off">${signs.off} off</b> in this guild</li>
</ul>
</body>
</html>`;
}

function cellHtml({ verdict, because }: AccessCell): string {
  const reason =
    because === '' ? '' : `<small>${htmlMarkup(verdict === 'depends' ? `if ${because}` : because)}</small>`;
  return `<td><b class="${verdict}">${signs[verdict]} ${verdict}</b>${reason}</td>`;
}

const style = `
:root { color-scheme: light dark; --paper: #faf7f0; --ink: #2b2a26; --rule: #d8d1c0; --faint: #6b675c;
  --allowed: #2f6b3a; --depends: #8a5a00; --refused: #a1352a; }
@media (prefers-color-scheme: dark) { :root { --paper: #23221f; --ink: #ece7da; --rule: #47443c; --faint: #aaa493;
  --allowed: #8cc796; --depends: #e0b25a; --refused: #f0968a; } }
body { margin: 2.5rem auto; max-width: 74rem; padding: 0 1.5rem; background: var(--paper); color: var(--ink);
  font: 1rem/1.45 Georgia, 'Liberation Serif', serif; }
h1 { font-size: 1.6rem; font-weight: normal; margin: 0; }
.guild { margin: .2rem 0 1.6rem; color: var(--faint); }
.sheet { overflow-x: auto; }
table { border-collapse: collapse; width: 100%; }
th, td { text-align: left; vertical-align: top; padding: .55rem .9rem .55rem 0; border-bottom: 1px solid var(--rule); }
thead th { border-bottom: 2px solid var(--ink); }
tbody th { font-weight: bold; }
td b { white-space: nowrap; font-weight: normal; }
small { display: block; color: var(--faint); font-size: .8rem; max-width: 17rem; }
.allowed { color: var(--allowed); } .depends { color: var(--depends); } .refused { color: var(--refused); }
.off { color: var(--faint); }
.key { list-style: none; padding: 0; margin-top: 1.4rem; font-size: .8rem; color: var(--faint); }
.key b { font-weight: normal; }
@media print { body { margin: 0; background: none; } }
`;
