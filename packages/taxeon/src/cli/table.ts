/** Columns of plain text under a bold head. */
import colors from 'picocolors';

/** @param numeric indexes of the columns that are set to the right */
export function tableLines(
  head: readonly string[],
  rows: readonly (readonly string[])[],
  numeric: readonly number[] = [],
): string[] {
  const widths = head.map((name, column) => Math.max(name.length, ...rows.map((row) => row[column]?.length ?? 0)));
  const cell = (text: string, column: number) =>
    numeric.includes(column) ? text.padStart(widths[column] ?? 0) : text.padEnd(widths[column] ?? 0);
  const line = (row: readonly string[]) => `  ${row.map(cell).join('  ')}`.trimEnd();
  return [colors.bold(line(head)), ...rows.map(line)];
}
