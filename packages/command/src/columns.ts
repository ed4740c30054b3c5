/** What is not as expected, in columns side by side. */
import colors from 'picocolors';
import { withoutUnseen } from 'taxeon';
import type { Mismatch } from 'taxeon/tryouts';
import { padEnd, widthOf, wrapAll } from './terminal.js';

const NARROWEST = 14;

/** `what`, what was expected, and what was said, each in its column. */
export function mismatchLines(mismatches: readonly Mismatch[], width: number): string[] {
  const longest = Math.max(...mismatches.map((one) => widthOf(one.what)), 0);
  const what = Math.min(longest, Math.max(NARROWEST, width - 2 * NARROWEST - 4));
  const column = Math.max(NARROWEST, Math.floor((width - what - 4) / 2));
  const widths = [what, column, column];
  return [
    row(['', 'expected', 'said'], widths).map(colors.dim),
    ...mismatches.map((one) => row([one.what, one.expected, one.said], widths).map((line) => colors.red(line))),
  ].flat();
}

function row(cells: readonly string[], widths: readonly number[]): string[] {
  const columns = cells.map((cell, index) =>
    cell.split('\n').flatMap((line) => wrapAll(withoutUnseen(line), widths[index] ?? 0)),
  );
  const height = Math.max(...columns.map(({ length }) => length));
  return Array.from({ length: height }, (_, line) =>
    columns
      .map((column, index) => padEnd(column[line] ?? '', widths[index] ?? 0))
      .join('  ')
      .trimEnd(),
  );
}
