/** Names sorted for finding those that begin with, or hold, what is typed: bench/rows/catalogue. */
import { compareText, foldName } from '../../base/text.js';
import type { Entry } from '../../catalogue/catalogue.js';

export interface NameToComplete {
  readonly name: string;
  readonly entry: Entry;
}

interface NameKey {
  readonly text: string;
  readonly named: NameToComplete;
}

/** The names of one level: commands outside of groups, or those of a group. */
export class NameIndex {
  readonly #names: readonly NameKey[];
  #madeWords: readonly NameKey[] | undefined = undefined;
  #madeInner: readonly NameKey[] | undefined = undefined;

  constructor(entries: readonly Entry[]) {
    const keys = entries.flatMap((entry) =>
      [entry.word, ...entry.aliases].map((name): NameKey => ({ text: foldName(name), named: { name, entry } })),
    );
    this.#names = sorted(keys);
  }

  /** Beginnings first, then beginnings of a word in a name, then what is inside of one; each in order of the alphabet. */
  *search(typed: string, matching: 'beginning' | 'anywhere' = 'anywhere'): Iterable<NameToComplete> {
    const wanted = foldName(typed);
    yield* namesBeginning(this.#names, wanted);
    if (wanted === '' || matching === 'beginning') return;
    yield* namesBeginning(this.#words, wanted);
    yield* namesBeginning(this.#inner, wanted);
  }

  get #words(): readonly NameKey[] {
    this.#madeWords ??= sorted(this.#names.flatMap((key) => suffixes(key, (at, text) => isJoint(text[at - 1]))));
    return this.#madeWords;
  }

  get #inner(): readonly NameKey[] {
    this.#madeInner ??= sorted(this.#names.flatMap((key) => suffixes(key, (at, text) => !isJoint(text[at - 1]))));
    return this.#madeInner;
  }
}

function sorted(keys: NameKey[]): NameKey[] {
  return keys.sort((a, b) => compareText(a.text, b.text) || compareText(a.named.name, b.named.name));
}

function isJoint(sign: string | undefined): boolean {
  return sign === '-' || sign === '_';
}

function suffixes({ text, named }: NameKey, takes: (at: number, text: string) => boolean): NameKey[] {
  const found: NameKey[] = [];
  for (let at = 1; at < text.length; at++) {
    if (takes(at, text) && !isJoint(text[at])) found.push({ text: text.slice(at), named });
  }
  return found;
}

/** All keys that begin so, found by halving. */
function* namesBeginning(keys: readonly NameKey[], wanted: string): Iterable<NameToComplete> {
  let low = 0;
  let high = keys.length;
  while (low < high) {
    const middle = (low + high) >>> 1;
    if ((keys[middle] as NameKey).text < wanted) low = middle + 1;
    else high = middle;
  }
  for (let index = low; index < keys.length; index++) {
    const { text, named } = keys[index] as NameKey;
    if (!text.startsWith(wanted)) return;
    yield named;
  }
}
