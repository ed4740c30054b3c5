/** Reading a tryout from its file, with the place of whatever is wrong in it, and writing into it what was said. */
import { readFileSync, statSync, writeFileSync } from 'node:fs';
import { checkTryout, type Mismatch, type Tryout, TryoutError } from '@taxeon/testing/tryouts';
import { type Alias, type Document, isAlias, isNode, LineCounter, parseDocument, visit } from 'yaml';
import { errorMessage } from './errors.js';

export interface TryoutFile {
  readonly path: string;
  readonly tryout: Tryout;
  readonly document: Document;
}

/** What is wrong in a file, from 1 on where the place is known. */
export interface FileProblem {
  readonly path: string;
  readonly line: number | undefined;
  readonly column: number | undefined;
  readonly problem: string;
}

/** A longer file is none that a person wrote. */
const LONGEST_BYTES = 1_000_000;
const MOST_ALIASES = 100;

export function readTryout(path: string): TryoutFile | readonly FileProblem[] {
  const nowhere = (problem: string): readonly FileProblem[] => [{ path, line: undefined, column: undefined, problem }];
  let text: string;
  try {
    const { size } = statSync(path);
    if (size > LONGEST_BYTES) return nowhere(`is longer than ${LONGEST_BYTES / 1_000_000} MB; part it`);
    text = readFileSync(path, 'utf8');
  } catch (error) {
    return nowhere(`does not read: ${errorMessage(error)}`);
  }
  const lines = new LineCounter();
  const document = parseDocument(text, { lineCounter: lines });
  const at = (offset: number | undefined, problem: string): FileProblem => {
    const place = offset === undefined ? undefined : lines.linePos(offset);
    return { path, line: place?.line, column: place?.col, problem };
  };
  if (document.errors.length > 0) {
    return document.errors.map((error) => at(error.pos[0], firstLine(error.message)));
  }
  const circle = text.includes('*') ? circleIn(document) : undefined;
  if (circle !== undefined) return [at(circle.range?.[0], 'is a part of itself; write it out')];
  try {
    return { path, document, tryout: checkTryout(document.toJS({ maxAliasCount: MOST_ALIASES })) };
  } catch (error) {
    if (!(error instanceof TryoutError)) return nowhere(`does not read: ${firstLine(errorMessage(error))}`);
    return error.problems.map((one) => at(offsetOf(document, one.path), toldAt(one.path, one.problem)));
  }
}

function firstLine(message: string): string {
  return (message.split('\n', 1)[0] ?? '').replace(/ at line \d+, column \d+:?$/, '');
}

function toldAt(path: readonly (string | number)[], problem: string): string {
  const key = path.findLast((one) => typeof one === 'string');
  return key === undefined ? problem : `${key}: ${problem}`;
}

/** An alias inside of what it stands for. */
function circleIn(document: Document): Alias | undefined {
  let found: Alias | undefined;
  visit(document, {
    Alias(_, node, path) {
      const source = node.resolve(document);
      if (source !== undefined && path.includes(source)) found ??= node;
    },
  });
  return found;
}

/** Of the key itself where there is one, else of what is around it. */
function offsetOf(document: Document, path: readonly (string | number)[]): number | undefined {
  for (let length = path.length; length >= 0; length--) {
    const parent = length === 0 ? document.contents : document.getIn(path.slice(0, length - 1), true);
    const key = path[length - 1];
    const items = (parent as { readonly items?: readonly unknown[] } | undefined)?.items ?? [];
    const pair = items.find((item) => String((item as { readonly key?: unknown }).key) === key);
    const keyNode = (pair as { readonly key?: unknown } | undefined)?.key;
    const node = isNode(keyNode) ? keyNode : document.getIn(path.slice(0, length), true);
    if (isNode(node) && !isAlias(node)) return node.range?.[0];
  }
  return undefined;
}

/** Writes what was said in place of what was expected; comments and order stay. How many values were written. */
export function updateTryout({ path, document }: TryoutFile, byLine: ReadonlyMap<number, readonly Mismatch[]>): number {
  let count = 0;
  for (const [line, mismatches] of byLine) {
    for (const { at, now } of mismatches) {
      if (at === undefined) continue;
      document.setIn(['lines', line, ...at], document.createNode(now));
      count += 1;
    }
  }
  if (count > 0) writeFileSync(path, document.toString({ lineWidth: 0 }));
  return count;
}
