/** A map with a bound, which lets go of what was not looked at for longest; and what any map has, or is made for it. */

/**
 * Keeps at least half of `most` of the entries that were used last, in two generations: when the young one is full,
 * it becomes the old one, and what the old one had is gone.
 */
export class BoundedMap<K, V> {
  #young = new Map<K, V>();
  #old = new Map<K, V>();

  readonly #most: number;

  constructor(most: number) {
    this.#most = most;
  }

  get size(): number {
    return this.#young.size + this.#old.size;
  }

  /** Hot path: bench/rows/calls. */
  get(key: K): V | undefined {
    const value = this.#young.get(key);
    if (value !== undefined) return value;
    const aged = this.#old.get(key);
    if (aged !== undefined) this.set(key, aged);
    return aged;
  }

  set(key: K, value: V): void {
    this.#old.delete(key);
    if (this.#young.size * 2 >= this.#most && !this.#young.has(key)) {
      this.#old = this.#young;
      this.#young = new Map();
    }
    this.#young.set(key, value);
  }

  delete(key: K): void {
    this.#young.delete(key);
    this.#old.delete(key);
  }

  *entries(): Iterable<[K, V]> {
    yield* this.#old;
    yield* this.#young;
  }
}

/** What a map has of a key, made where it has nothing. */
export function foundOrMade<K, V>(map: KeptByKey<K, V>, key: K, make: (key: K) => V): V {
  const found = map.get(key);
  if (found !== undefined) return found;
  const made = make(key);
  map.set(key, made);
  return made;
}

/** A `Map`, a `WeakMap`, or one with a bound. */
interface KeptByKey<K, V> {
  get(key: K): V | undefined;
  set(key: K, value: V): unknown;
}
