/** Names that are one letter apart: people type one for the other, and are not told. */
import { foldName } from '../../base/text.js';
import type { Catalogue, Entry } from '../../catalogue/catalogue.js';

/** Shorter names are all near each other. */
const SHORTEST = 4;

interface ListedName {
  readonly name: string;
  readonly entry: Entry;
}

/**
 * Pairs among names of one level, by what is left when one letter is taken out of each (Garbe's symmetric deletion), so that
 * not every pair has to be looked at.
 */
export function* nearPairs({ entries, groups }: Catalogue): Iterable<readonly [Entry, string]> {
  for (const members of [entries, ...groups.map((group) => group.members)]) {
    const found = new Map<string, ListedName[]>();
    const told = new Set<string>();
    for (const entry of members) {
      for (const name of [entry.word, ...entry.aliases]) {
        for (const key of nearKeys(foldName(name))) {
          const others = found.get(key) ?? [];
          for (const other of others) {
            const pair = `${other.name} ${name}`;
            if (other.entry === entry || told.has(pair) || !isOneApart(foldName(other.name), foldName(name))) continue;
            told.add(pair);
            yield [entry, `“${name}” is one letter from “${other.name}”; who mistypes one runs the other`];
          }
          others.push({ name, entry });
          found.set(key, others);
        }
      }
    }
  }
}

function nearKeys(name: string): readonly string[] {
  if (name.length < SHORTEST) return [];
  return [name, ...Array.from(name, (_, at) => name.slice(0, at) + name.slice(at + 1))];
}

/** One letter more, less or other, or two that have changed places. */
function isOneApart(one: string, other: string): boolean {
  if (Math.abs(one.length - other.length) > 1) return false;
  let from = 0;
  while (from < one.length && one[from] === other[from]) from++;
  let [end, otherEnd] = [one.length, other.length];
  while (end > from && otherEnd > from && one[end - 1] === other[otherEnd - 1]) {
    end--;
    otherEnd--;
  }
  const [left, right] = [one.slice(from, end), other.slice(from, otherEnd)];
  // Numbered names are meant to be alike.
  if (/\d/.test(left + right)) return false;
  return (left.length <= 1 && right.length <= 1) || (left.length === 2 && left === [...right].reverse().join(''));
}
