/** What is not as expected, in columns side by side. */
import colors from 'picocolors';
import { withoutUnseen } from 'taxeon';
import type { Mismatch } from 'taxeon/tryouts';
import { wrap } from './wrap.js';

const NARROWEST = 14;

/** `what`, what was expected, and what was said, each in its column. */
export function mismatchLines(mismatches: readonly Mismatch[], width: number): string[] {
  const what = Math.max(...mismatches.map((one) => one.what.length), 0);
  const column = Math.max(NARROWEST, Math.floor((width - what - 4) / 2));
  const rows = mismatches.map((one) => [one.what, one.expected, one.said] as const);
  return [
    row(['', 'expected', 'said'], [what, column, column]).map(colors.dim),
    ...rows.map((cells) => lines(cells)),
  ].flat();

  function lines(cells: readonly [string, string, string]): string[] {
    return row(cells, [what, column, column]).map((line) => colors.red(line));
  }
}

function row(cells: readonly string[], widths: readonly number[]): string[] {
  const columns = cells.map((cell, index) =>
    cell.split('\n').flatMap((line) => wrap(withoutUnseen(line), widths[index] ?? 0)),
  );
  const height = Math.max(...columns.map(({ length }) => length));
  return Array.from({ length: height }, (_, line) =>
    columns
      .map((column, index) => (column[line] ?? '').padEnd(widths[index] ?? 0))
      .join('  ')
      .trimEnd(),
  );
}
