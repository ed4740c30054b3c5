/** Columns of plain text. */
import colors from 'picocolors';
import { visible } from 'taxeon';

/**
 * Under a bold head.
 *
 * @param numeric indexes of the columns that are set to the right
 * @param firstWidth how wide the first column is at least
 */
export function tableLines(
  head: readonly string[],
  rows: readonly (readonly string[])[],
  numeric: readonly number[] = [],
  firstWidth = 0,
): string[] {
  const [headLine = '', ...lines] = alignedLines([head, ...rows], numeric, firstWidth).map((line) =>
    `  ${line}`.trimEnd(),
  );
  return [colors.bold(headLine), ...lines];
}

/** Rows with their cells one under the other. */
export function alignedLines(
  rows: readonly (readonly string[])[],
  numeric: readonly number[] = [],
  firstWidth = 0,
): string[] {
  const shown = rows.map((row) => row.map((text) => visible(text)));
  const [first = 0, ...others] = columnWidths(shown);
  const widths = [Math.max(first, firstWidth), ...others];
  const cell = (text: string, column: number) =>
    numeric.includes(column) ? text.padStart(widths[column] ?? 0) : text.padEnd(widths[column] ?? 0);
  return shown.map((row) => row.map(cell).join('  ').trimEnd());
}

export function columnWidths(rows: readonly (readonly string[])[]): number[] {
  return (rows[0] ?? []).map((_, column) => Math.max(...rows.map((row) => row[column]?.length ?? 0)));
}
