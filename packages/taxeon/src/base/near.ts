/** Names that a mistyped one was probably meant to be. */

/**
 * The candidates nearest to `typed`, best first, at most three unless told otherwise; none beyond a third of its length.
 * The distance is Damerau's in the restricted form (optimal string alignment): an insertion, a
 * deletion, a substitution or a swap of neighbours costs one.
 * Source: F. J. Damerau, "A technique for computer detection and correction of spelling errors", CACM 7(3), 1964.
 */
export function nearNames(typed: string, candidates: Iterable<string>, limit = 3): string[] {
  if (typed.length < 2 || typed.length > 40) return [];
  const most = typed.length < 3 ? 1 : Math.max(1, Math.floor(typed.length / 3));
  const found: { name: string; distance: number }[] = [];
  for (const name of candidates) {
    if (Math.abs(name.length - typed.length) > most) continue;
    const distance = editDistance(typed, name);
    if (distance > 0 && distance <= most) found.push({ name, distance });
  }
  found.sort((a, b) => a.distance - b.distance || (a.name < b.name ? -1 : 1));
  return found.slice(0, limit).map(({ name }) => name);
}

function editDistance(a: string, b: string): number {
  let before: number[] = [];
  let above = Array.from({ length: b.length + 1 }, (_, column) => column);
  for (let row = 1; row <= a.length; row++) {
    const current = [row];
    for (let column = 1; column <= b.length; column++) {
      const same = a[row - 1] === b[column - 1];
      let cost = Math.min(
        (above[column] as number) + 1,
        (current[column - 1] as number) + 1,
        (above[column - 1] as number) + (same ? 0 : 1),
      );
      if (row > 1 && column > 1 && a[row - 1] === b[column - 2] && a[row - 2] === b[column - 1]) {
        cost = Math.min(cost, (before[column - 2] as number) + 1);
      }
      current.push(cost);
    }
    before = above;
    above = current;
  }
  return above[b.length] as number;
}
