/** Columns of plain text that fit the terminal. */
import colors from 'picocolors';
import { visibleText } from 'taxeon/platform';
import { padEnd, padStart, terminalWidth, widthOf, wrapAll } from './terminal.js';

export interface TableForm {
  /** Indexes of the columns that are set to the right, and are never broken. */
  readonly numeric?: readonly number[];
  /** How wide the first column is at least. */
  readonly firstWidth?: number;
  /** How wide all of it may be. */
  readonly width?: number;
  /** Indexes of the columns that are paler. */
  readonly pale?: readonly number[];
}

/** Under a bold head. */
export function tableLines(head: readonly string[], rows: readonly (readonly string[])[], form?: TableForm): string[] {
  return tableRows(head, rows, form).flat();
}

/** The same, the lines of each row apart; the first are those of the head. */
export function tableRows(
  head: readonly string[],
  rows: readonly (readonly string[])[],
  { width = terminalWidth(), ...form }: TableForm = {},
): string[][] {
  return rowsOf([head, ...rows], { ...form, width: width - 2 }).map((lines, index) =>
    lines.map((line) => (index === 0 ? colors.bold(`  ${line}`) : `  ${line}`)),
  );
}

/** Rows with their cells one under the other. */
export function alignedLines(rows: readonly (readonly string[])[], form: TableForm = {}): string[] {
  return rowsOf(rows, form).flat();
}

/** Each row in as many lines as its cells need. */
function rowsOf(rows: readonly (readonly string[])[], form: TableForm): string[][] {
  const { numeric = [], pale = [], firstWidth = 0, width = terminalWidth() } = form;
  const shown = rows.map((row) => row.map((text) => visibleText(text, LONGEST_CELL)));
  const natural = columnWidths(shown);
  const widths = fitted([Math.max(natural[0] ?? 0, firstWidth), ...natural.slice(1)], leastOf(shown, numeric), width);
  return shown.map((row) => {
    const cells = row.map((text, column) => wrapAll(text, widths[column] ?? 0));
    const height = Math.max(...cells.map(({ length }) => length));
    return Array.from({ length: height }, (_, line) =>
      cells
        .map((cell, column) => {
          const pad = numeric.includes(column) ? padStart : padEnd;
          const text = pad(cell[line] ?? '', widths[column] ?? 0);
          return pale.includes(column) ? colors.dim(column === widths.length - 1 ? text.trimEnd() : text) : text;
        })
        .join(GAP)
        .trimEnd(),
    );
  });
}

const GAP = '  ';
/** In UTF-16 code units. */
const LONGEST_CELL = 1000;
/** A column of words is no narrower. */
const LEAST = 6;

/** Numbers stay whole; their head may be broken. */
function leastOf(rows: readonly (readonly string[])[], numeric: readonly number[]): number[] {
  const values = columnWidths(rows.slice(1));
  return columnWidths(rows).map((width, column) =>
    Math.min(width, numeric.includes(column) ? (values[column] ?? 0) : LEAST),
  );
}

/** Takes from the widest column until all of them fit, or none can give more. */
function fitted(natural: readonly number[], least: readonly number[], width: number): number[] {
  const widths = [...natural];
  const total = () => widths.reduce((sum, one) => sum + one, GAP.length * (widths.length - 1));
  while (total() > width) {
    const able = widths.map((one, column) => (one > (least[column] ?? 0) ? one : 0));
    const widest = Math.max(...able);
    if (widest === 0) break;
    widths[able.indexOf(widest)] = widest - 1;
  }
  return widths;
}

export function columnWidths(rows: readonly (readonly string[])[]): number[] {
  return (rows[0] ?? []).map((_, column) => Math.max(...rows.map((row) => widthOf(row[column] ?? ''))));
}
