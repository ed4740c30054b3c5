/** What a script expects: told where it is otherwise, with the exit status that a build wants. */
import { readFileSync } from 'node:fs';
import type { AccessTable } from 'taxeon/queries';
import { errorMessage, UsageError } from './errors.js';
import { complain } from './print.js';

/** Says what is otherwise, behind what was printed; status 1. */
export function failExpectation(lines: readonly string[]): void {
  for (const line of lines) complain(`taxeon: ${line}`);
  process.exitCode = 1;
}

/**
 * An access table that was kept, from `taxeon access --json`.
 *
 * @throws UsageError where it is none
 */
export function readAccessTable(path: string): AccessTable {
  let table: Partial<AccessTable>;
  try {
    table = Object(JSON.parse(readFileSync(path, 'utf8')));
  } catch (error) {
    throw new UsageError(`${path} does not read: ${errorMessage(error)}. \`taxeon access --json\` writes one.`);
  }
  const { columns, rows } = table;
  const isRow = (row: unknown) => typeof Object(row).command === 'string' && Array.isArray(Object(row).cells);
  if (Array.isArray(columns) && Array.isArray(rows) && rows.every(isRow)) return table as AccessTable;
  throw new UsageError(`${path} is no table of access; \`taxeon access --json\` writes one.`);
}

/** Each cell that differs, and each command or column that one of the two does not have. */
export function accessDifferences(expected: AccessTable, now: AccessTable): readonly string[] {
  const lines: string[] = [];
  const [before, after] = [cellsOf(expected), cellsOf(now)];
  for (const [cell, verdict] of before) {
    const is = after.get(cell);
    if (is === undefined) lines.push(`${cell} is not there any more; expected ${verdict}`);
    else if (is !== verdict) lines.push(`${cell} is ${is}; expected ${verdict}`);
  }
  for (const [cell, verdict] of after) if (!before.has(cell)) lines.push(`${cell} is ${verdict}; nothing was expected`);
  return lines;
}

/** By command and column. */
function cellsOf({ columns, rows }: AccessTable): ReadonlyMap<string, string> {
  return new Map(
    rows.flatMap(({ command, cells }) =>
      columns.map((column, index) => [`${command} for ${column}`, cells[index]?.verdict ?? 'nothing'] as const),
    ),
  );
}
