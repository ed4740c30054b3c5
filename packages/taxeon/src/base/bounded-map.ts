/** A map with a bound, which lets go of what was not looked at for longest. */

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
