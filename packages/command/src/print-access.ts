/** Access tables for a terminal, and as CSV. */

import colors from 'picocolors';
import type { AccessCell, AccessRow, AccessTable, BotNeed } from 'taxeon';
import { csvLine } from './csv.js';
import { alignedLines } from './table.js';
import { padEnd, terminalWidth, widthOf, wrap } from './terminal.js';

/** A sign for each, so that nothing hangs on colour; a word where it depends, on what is told below. */
const looks: Readonly<Record<AccessCell['verdict'], { sign: string; paint: (text: string) => string }>> = {
  allowed: { sign: '✓', paint: colors.green },
  depends: { sign: '~ depends', paint: colors.yellow },
  refused: { sign: '✗', paint: colors.red },
  off: { sign: '–', paint: colors.dim },
};

export function accessText(table: AccessTable): string {
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

export function accessCsv({ columns, rows }: AccessTable): string {
  const lines = [['command', 'who', 'verdict', 'because']];
  for (const { command, cells } of rows) {
    for (const [index, { verdict, because }] of cells.entries())
      lines.push([command, columns[index] ?? '', verdict, because]);
  }
  return lines.map(csvLine).join('\n');
}

export function botNeedsText(needs: readonly BotNeed[]): string {
  if (needs.length === 0) return '\n  The bot needs no permission of its own.\n';
  const rows = needs.map(({ permission, commands }) => [permission, commands.join(', ')]);
  const lines = alignedLines(rows, { width: terminalWidth() - 2 }).map((line) => `  ${line}`);
  return ['', '  What the bot itself must be allowed, by command:', '', ...lines, ''].join('\n');
}
