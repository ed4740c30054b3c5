/** An explanation as a person at a terminal reads it. */
import colors from 'picocolors';
import { type Input, visibleText, withoutUnseen } from 'taxeon/platform';
import type { Explanation, Suggestion, TracedStage } from 'taxeon/queries';
import { print } from './print.js';
import { alignedLines } from './table.js';
import { terminalWidth, widthOf, wrap } from './terminal.js';

export function printExplanation(explanation: Explanation, line: string, input: Input): void {
  const lines = [
    '',
    ...(input.text === undefined ? [`  ${colors.bold(line)}`] : markedLine(input.text, explanation)),
    '',
    ...explanation.stages.map(stageLine),
    '',
    ...verdictLines(explanation, input),
    '',
  ];
  print(lines.join('\n'));
}

interface Mark {
  readonly start: number;
  readonly end: number;
  readonly label: string;
}

/** The line, and under each token the argument that took it. */
function markedLine(text: string, { tokens, command }: Explanation): string[] {
  const shown = text.replace(/[\p{Cc}\p{Cf}]/gu, ' ');
  const label = { command: command ?? 'no command', nothing: 'nothing takes this' };
  const marks: Mark[] = tokens.map(({ span, takenBy, name }) => ({
    ...span,
    label: takenBy === 'argument' ? name : label[takenBy],
  }));
  return wrappedPieces(shown, terminalWidth() - 2).flatMap(({ start, end }) => {
    const piece = shown.slice(start, end);
    const column = (at: number) => widthOf(shown.slice(start, at));
    const here = marks
      .filter((mark) => mark.start < end && Math.max(mark.end, mark.start + 1) > start)
      .map(({ label, ...mark }) => ({
        start: column(Math.max(start, mark.start)),
        end: column(Math.min(end, mark.end)),
        // Where the token goes on, it has its label already.
        label: mark.start < start ? '' : label,
      }));
    const text = `  ${colors.bold(piece)}`;
    if (here.length === 0) return [text];
    return [text, `  ${colors.dim(underline(here))}`, ...labelRows(here).map((row) => `  ${colors.cyan(row)}`)];
  });
}

/** The line in pieces that fit, parted behind a space where there is one. */
function wrappedPieces(text: string, width: number): { readonly start: number; readonly end: number }[] {
  const pieces: { readonly start: number; readonly end: number }[] = [];
  let start = 0;
  let space = 0;
  for (let at = 0; at < text.length; at += String.fromCodePoint(text.codePointAt(at) ?? 0).length) {
    if (widthOf(text.slice(start, at + 1)) > width) {
      const end = space > start ? space : at;
      pieces.push({ start, end });
      start = end;
    }
    if (text[at] === ' ') space = at + 1;
  }
  return [...pieces, { start, end: text.length }];
}

function underline(marks: readonly Mark[]): string {
  let row = '';
  for (const { start, end } of marks) row = row.padEnd(start) + '─'.repeat(Math.max(1, end - start));
  return row;
}

/** Labels under the beginning of their tokens, each in the first row where there is room. */
function labelRows(marks: readonly Mark[]): string[] {
  const rows: string[] = [];
  for (const { start, label } of marks) {
    if (label === '') continue;
    let row = rows.findIndex((taken) => taken.length === 0 || taken.length + 1 < start + 1);
    if (row < 0) row = rows.length;
    rows[row] = (rows[row] ?? '').padEnd(start) + label;
  }
  return rows;
}

const signs = { passed: colors.green('✓'), stopped: colors.red('✗'), skipped: colors.dim('·') };

function stageLine({ name, verdict, reason }: TracedStage, index: number): string {
  const number = String(index + 1).padStart(2);
  const head = `${number}  ${name.padEnd(9)} ${verdict.padEnd(8)}`;
  if (verdict === 'skipped') return `  ${signs.skipped} ${colors.dim(head)}`;
  const [first, ...more] = wrap(reason, terminalWidth() - HANGING.length);
  const shownHead = verdict === 'stopped' ? colors.bold(head) : head;
  return [`  ${signs[verdict]} ${shownHead} ${first ?? ''}`, ...more.map((part) => HANGING + part)]
    .join('\n')
    .trimEnd();
}

const HANGING = ' '.repeat(27);

function verdictLines(explanation: Explanation, { caller }: Input): string[] {
  const { status, stoppedAt, code, message, command, meant } = explanation;
  if (status === 'runs')
    return [`  ${colors.green(colors.bold('runs'))}: ${command} would be run for ${visibleText(caller.name)}.`];
  const at = `${colors.yellow(colors.bold(status))} at ${stoppedAt}${code === null ? '' : `, ${code}`}.`;
  const wanting = meant === null ? 'Nothing is said.' : `Nothing is said; as a command it is ${visibleText(meant)}`;
  const sentence = message === null ? wanting : `${visibleText(caller.name)} would read:`;
  const head = wrap(`${at} ${sentence}`, terminalWidth() - 2).map((one) => `  ${one}`);
  if (message === null) return head;
  return [
    ...head,
    ...message.split('\n').flatMap((part) => wrap(withoutUnseen(part), terminalWidth() - 4).map((one) => `    ${one}`)),
  ];
}

/** The line with the place that is being typed marked, and what could stand there, best first. */
export function printSuggestions(suggestions: readonly Suggestion[], line: string, at: number | undefined): void {
  print(`\n  ${line}${at === undefined ? '' : colors.dim('▏')}`);
  const [first] = suggestions;
  if (first === undefined) {
    print(colors.dim('\n  Nothing that could stand here.\n'));
    return;
  }
  if (at !== undefined)
    print(`  ${' '.repeat(first.start)}${colors.cyan('─'.repeat(Math.max(1, first.end - first.start)))}`);
  const rows = suggestions.map(({ label, kind, description = '' }) => [label, kind, description]);
  for (const line of alignedLines(rows, { width: terminalWidth() - 2, pale: [1] })) print(`  ${line}`);
  print();
}
