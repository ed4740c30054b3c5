/** An explanation as a person at a terminal reads it. */
import colors from 'picocolors';
import { type Explanation, type Input, type Suggestion, type TracedStage, visible, withoutUnseen } from 'taxeon';
import { wrap } from './wrap.js';

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
  console.log(lines.join('\n'));
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
  const lines = [`  ${colors.bold(shown)}`];
  if (marks.length > 0)
    lines.push(`  ${colors.dim(underline(marks))}`, ...labelRows(marks).map((row) => `  ${colors.cyan(row)}`));
  return lines;
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
  const [first, ...more] = wrap(reason, WIDTH - HANGING.length);
  const shownHead = verdict === 'stopped' ? colors.bold(head) : head;
  return [`  ${signs[verdict]} ${shownHead} ${first ?? ''}`, ...more.map((part) => HANGING + part)]
    .join('\n')
    .trimEnd();
}

const WIDTH = 100;
const HANGING = ' '.repeat(27);

function verdictLines({ status, stoppedAt, code, message, command }: Explanation, { caller }: Input): string[] {
  if (status === 'runs')
    return [`  ${colors.green(colors.bold('runs'))}: ${command} would be run for ${visible(caller.name)}.`];
  const at = `  ${colors.yellow(colors.bold(status))} at ${stoppedAt}${code === null ? '' : `, ${code}`}.`;
  if (message === null) return [`${at} Nothing is said.`];
  return [
    `${at} ${visible(caller.name)} would read:`,
    ...message.split('\n').map((part) => `    ${withoutUnseen(part)}`),
  ];
}

/** The line with the place that is being typed marked, and what could stand there, best first. */
export function printSuggestions(suggestions: readonly Suggestion[], line: string, at: number | undefined): void {
  console.log(`\n  ${line}${at === undefined ? '' : colors.dim('▏')}`);
  const [first] = suggestions;
  if (first === undefined) {
    console.log(colors.dim('\n  Nothing that could stand here.\n'));
    return;
  }
  if (at !== undefined)
    console.log(`  ${' '.repeat(first.start)}${colors.cyan('─'.repeat(Math.max(1, first.end - first.start)))}`);
  const width = Math.max(...suggestions.map(({ label }) => label.length));
  for (const { label, kind, description = '' } of suggestions) {
    console.log(`  ${label.padEnd(width)}  ${colors.dim(kind.padEnd(7))}  ${description}`.trimEnd());
  }
  console.log();
}
