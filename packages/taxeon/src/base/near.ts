/** Names that a mistyped one was probably meant to be. */
import { foundOrMade } from './bounded-map.js';
import { compareText } from './text.js';

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

/**
 * The names nearest to `typed`, best first; none beyond a third of its length, nor beyond four slips. Those with more slips
 * are looked for only when they are asked for, since there are many times as many. Hot path: bench/rows/catalogue.
 */
export function* nearInTree(typed: string, tree: NameTree): Generator<string> {
  if (typed.length < 2 || typed.length > LONGEST_TYPED) return;
  const most = mostSlips(typed);
  for (let slips = 1; slips <= most; slips++) yield* namesWith(slips, typed, tree).sort();
}

/** Those with just so many slips. Beginnings that are too far off already are left with all that begins so. */
function namesWith(most: number, typed: string, tree: NameTree): string[] {
  const rows = Array.from({ length: typed.length + most + 2 }, () => firstRow(typed));
  const found: string[] = [];
  for (const [code, child] of tree.next) walk(child, code, -1, 1, 0);
  return found;

  function walk(node: NameTree, code: number, codeBefore: number, depth: number, leastAbove: number): void {
    const row = rows[depth];
    if (row === undefined) return;
    const least = fillRow(row, rows[depth - 1] as Row, rows[depth - 2], { typed, most, code, codeBefore, depth });
    if (node.name !== undefined && row[typed.length] === most) found.push(node.name);
    // A swap looks back two letters.
    if (least > most && leastAbove + 1 > most) return;
    for (const [next, child] of node.next) walk(child, next, code, depth + 1, least);
  }
}

/** How far a beginning is from each beginning of what was typed. */
type Row = Uint8Array;

function firstRow(typed: string): Row {
  return Uint8Array.from({ length: typed.length + 1 }, (_, column) => column);
}

/**
 * The row of a beginning that is one letter longer than that of the row above; the least of it. The distance is Damerau's
 * in the restricted form (optimal string alignment): an insertion, a deletion, a substitution or a swap of neighbours costs
 * one. Further than `most` from the diagonal, nothing is near.
 * Source: F. J. Damerau, "A technique for computer detection and correction of spelling errors", CACM 7(3), 1964.
 */
function fillRow(
  row: Row,
  above: Row,
  twoAbove: Row | undefined,
  { typed, most, code, codeBefore, depth }: Letter,
): number {
  const last = typed.length;
  const from = Math.max(1, depth - most);
  const to = Math.min(last, depth + most);
  let least = from === 1 ? depth : FAR;
  row[from - 1] = least;
  for (let column = from; column <= to; column++) {
    const wanted = typed.charCodeAt(column - 1);
    const changed = (above[column - 1] as number) + (wanted === code ? 0 : 1);
    let cost = Math.min((above[column] as number) + 1, (row[column - 1] as number) + 1, changed);
    if (twoAbove !== undefined && column > 1 && wanted === codeBefore && typed.charCodeAt(column - 2) === code)
      cost = Math.min(cost, (twoAbove[column - 2] as number) + 1);
    row[column] = cost;
    if (cost < least) least = cost;
  }
  if (to < last) {
    row[to + 1] = FAR;
    row[last] = FAR;
  }
  return least;
}

interface Letter {
  readonly typed: string;
  readonly most: number;
  readonly code: number;
  readonly codeBefore: number;
  /** How long the beginning is. */
  readonly depth: number;
}

/** How many slips a word may have and be meant all the same. */
export function mostSlips(typed: string): number {
  return Math.min(MOST_SLIPS, Math.max(1, Math.floor(typed.length / 3)));
}

/** Measures names, or parts of them, against a text; nothing where it is too short or too long to be almost one. */
export function slipsFrom(typed: string, most = mostSlips(typed)): MeasureSlips | undefined {
  if (typed.length < 2 || typed.length > LONGEST_TYPED) return undefined;
  const rows = [firstRow(typed), firstRow(typed), firstRow(typed)] as [Row, Row, Row];
  const first = firstRow(typed);
  return (name, start = 0, end = name.length) => {
    if (Math.abs(end - start - typed.length) > most) return { slips: undefined, letters: 1 };
    let leastAbove = 0;
    for (let depth = 1; depth <= end - start; depth++) {
      const row = rows[depth % 3] as Row;
      const above = depth === 1 ? first : (rows[(depth - 1) % 3] as Row);
      const twoAbove = depth === 1 ? undefined : depth === 2 ? first : (rows[(depth - 2) % 3] as Row);
      const code = name.charCodeAt(start + depth - 1);
      const codeBefore = depth === 1 ? -1 : name.charCodeAt(start + depth - 2);
      const least = fillRow(row, above, twoAbove, { typed, most, code, codeBefore, depth });
      if (least > most && leastAbove + 1 > most) return { slips: undefined, letters: depth };
      leastAbove = least;
    }
    const slips = (rows[(end - start) % 3] as Row)[typed.length] as number;
    return { slips: slips > most ? undefined : slips, letters: end - start };
  };
}

export type MeasureSlips = (
  name: string,
  start?: number,
  end?: number,
) => {
  /** Undefined where there are too many. */
  readonly slips: number | undefined;
  /** How many letters were looked at. */
  readonly letters: number;
};

/**
 * Names that somebody may have meant, of few: those with the fewest letters to change, at most three unless told otherwise.
 *
 * @example
 * nearNames('hots', ['host', 'port']); // ['host']
 */
export function nearNames(typed: string, names: Iterable<string>, limit = 3): string[] {
  const measure = slipsFrom(typed);
  if (measure === undefined) return [];
  const near = [...names].map((name) => ({ name, slips: measure(name).slips ?? 0 })).filter(({ slips }) => slips > 0);
  return near
    .sort((one, other) => one.slips - other.slips || compareText(one.name, other.name))
    .slice(0, limit)
    .map(({ name }) => name);
}
