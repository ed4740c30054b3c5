/** What is found by a name, however that is spelled, or by one like it. */
import { type NameTree, nameTree, nearInTree } from './near.js';
import { foldName } from './text.js';

export class NameTable<Named> {
  readonly #byName = new Map<string, Named>();
  #longest = 0;
  /** Made when a name is first mistyped. */
  #tree: NameTree | undefined = undefined;

  add(names: readonly string[], named: Named): void {
    for (const name of names) {
      const folded = foldName(name);
      this.#byName.set(folded, named);
      this.#longest = Math.max(this.#longest, name.length, folded.length);
    }
    this.#tree = undefined;
  }

  /** What is longer than the longest name is none, and is not looked at. Hot path: bench/rows/calls. */
  get(word: string): Named | undefined {
    return word.length > this.#longest ? undefined : (this.#byName.get(word) ?? this.#byName.get(foldName(word)));
  }

  /** Names like one that was typed, the nearest first, with what has them: those that are further off are looked for as they are asked for. */
  *near(typed: string): Generator<readonly [string, Named]> {
    if (typed.length > this.#longest * 2) return;
    this.#tree ??= nameTree(this.#byName.keys());
    for (const name of nearInTree(foldName(typed), this.#tree)) yield [name, this.#byName.get(name) as Named];
  }
}
