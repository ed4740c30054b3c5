/** Names that a mistyped one was probably meant to be. */
import { foundOrMade } from './bounded-map.js';

/** All names, letter by letter: names that begin alike share the beginning. */
export interface NameTree {
  readonly next: Map<number, NameTree>;
  /** The name that ends here. */
  name: string | undefined;
}

export function nameTree(names: Iterable<string>): NameTree {
  const root = noNames();
  for (const name of names) {
    let node = root;
    for (let at = 0; at < name.length; at++) {
      node = foundOrMade(node.next, name.charCodeAt(at), noNames);
    }
    node.name = name;
  }
  return root;
}

function noNames(): NameTree {
  return { next: new Map(), name: undefined };
}

const LONGEST_TYPED = 40;
/** More slips than these make another word. */
const MOST_SLIPS = 4;
/** Further than any name that is found. */
const FAR = 100;
/** So many letters of names are looked at, and no more: a line blocks nobody, however many names there are. */
const MOST_STEPS = 20_000;

/**
 * The names nearest to `typed`, best first; none beyond a third of its length, nor beyond four slips. Those with more slips
 * are looked for only when they are asked for, since there are many times as many. Hot path: bench/rows/catalogue.
 */
export function* nearInTree(typed: string, tree: NameTree): Generator<string> {
  if (typed.length < 2 || typed.length > LONGEST_TYPED) return;
  const most = Math.min(MOST_SLIPS, Math.max(1, Math.floor(typed.length / 3)));
  const left = { steps: MOST_STEPS };
  for (let slips = 1; slips <= most && left.steps > 0; slips++) yield* namesWith(slips, typed, tree, left).sort();
}

/**
 * Those with just so many slips. The distance is Damerau's in the restricted form (optimal string alignment): an
 * insertion, a deletion, a substitution or a swap of neighbours costs one. Beginnings that are too far off already are
 * left with all that begins so.
 * Source: F. J. Damerau, "A technique for computer detection and correction of spelling errors", CACM 7(3), 1964.
 */
function namesWith(most: number, typed: string, tree: NameTree, left: { steps: number }): string[] {
  const width = typed.length + 1;
  // A row for each letter of a beginning: how far it is from each beginning of `typed`.
  const rows = Array.from({ length: width + most + 1 }, () => new Uint8Array(width));
  const first = rows[0] as Uint8Array;
  for (let column = 0; column < width; column++) first[column] = column;
  const found: string[] = [];
  for (const [code, child] of tree.next) walk(child, code, -1, 1, 0);
  return found;

  function walk(node: NameTree, code: number, codeBefore: number, depth: number, leastAbove: number): void {
    const row = rows[depth];
    if (row === undefined || left.steps-- <= 0) return;
    const above = rows[depth - 1] as Uint8Array;
    const twoAbove = depth > 1 ? rows[depth - 2] : undefined;
    // Further from the diagonal, nothing is near.
    const from = Math.max(1, depth - most);
    const to = Math.min(width - 1, depth + most);
    let least = from === 1 ? depth : FAR;
    row[from - 1] = least;
    if (to < width - 1) row[to + 1] = FAR;
    for (let column = from; column <= to; column++) {
      const wanted = typed.charCodeAt(column - 1);
      const changed = (above[column - 1] as number) + (wanted === code ? 0 : 1);
      let cost = Math.min((above[column] as number) + 1, (row[column - 1] as number) + 1, changed);
      if (twoAbove !== undefined && column > 1 && wanted === codeBefore && typed.charCodeAt(column - 2) === code)
        cost = Math.min(cost, (twoAbove[column - 2] as number) + 1);
      row[column] = cost;
      if (cost < least) least = cost;
    }
    const distance = to === width - 1 ? (row[to] as number) : FAR;
    if (node.name !== undefined && distance === most) found.push(node.name);
    // A swap looks back two letters.
    if (least > most && leastAbove + 1 > most) return;
    for (const [next, child] of node.next) walk(child, next, code, depth + 1, least);
  }
}

/**
 * Names that somebody may have meant, of few: those with the fewest letters to change, at most three unless told otherwise.
 *
 * @example
 * nearNames('hots', ['host', 'port']); // ['host']
 */
export function nearNames(typed: string, names: Iterable<string>, limit = 3): string[] {
  const near: string[] = [];
  for (const name of nearInTree(typed, nameTree(names))) {
    if (near.push(name) === limit) break;
  }
  return near;
}
