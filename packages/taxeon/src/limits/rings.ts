/** Times of many keys in few large arrays, for limits of few uses. Hot path: bench/rows/limits. */

const CHUNK_BITS = 14;
const CHUNK_SLOTS = 1 << CHUNK_BITS;
/** Most limits are used by few: the first chunk begins small, and grows until it is as large as the others. */
const FIRST_SLOTS = 4;
const GROWTH = 4;
/** So much room stays when nobody is left. */
const KEPT_SLOTS = 64;

/** Earlier than any time. */
const NONE = Number.NEGATIVE_INFINITY;

/**
 * A slot holds up to `size` times, oldest first; unused places hold `NONE`. Slots of freed keys are used
 * again. Chunks of typed arrays keep a million keys out of the garbage collector's way.
 */
export class Rings {
  #chunks: Float64Array[] = [];
  #free: number[] = [];
  /** How many slots there are, freed ones included. */
  length = 0;
  /** How many slots the chunks have room for. */
  #capacity = 0;

  constructor(readonly size: number) {}

  /** A slot with nothing in it. */
  take(): number {
    const freed = this.#free.pop();
    if (freed !== undefined) return freed;
    const slot = this.length++;
    if (slot === this.#capacity) this.#grow();
    return slot;
  }

  #grow(): void {
    const size = this.size;
    const capacity = this.#capacity;
    const chunks = this.#chunks;
    if (capacity >= CHUNK_SLOTS) {
      chunks.push(emptyChunk(CHUNK_SLOTS, size));
      this.#capacity += CHUNK_SLOTS;
      return;
    }
    this.#capacity = Math.max(FIRST_SLOTS, capacity * GROWTH);
    const larger = emptyChunk(this.#capacity, size);
    if (capacity > 0) larger.set(chunks[0] as Float64Array);
    chunks[0] = larger;
  }

  release(slot: number): void {
    const chunk = this.#chunkOf(slot);
    const start = this.#startOf(slot);
    for (let index = start; index < start + this.size; index++) chunk[index] = NONE;
    this.#free.push(slot);
    if (this.#free.length < this.length || this.#capacity <= KEPT_SLOTS) return;
    // Nobody is left: what a crowd took is given back.
    this.#chunks = [];
    this.#free = [];
    this.length = 0;
    this.#capacity = 0;
  }

  /** How many of the times are `since` or later. */
  countSince(slot: number, since: number): number {
    const chunk = this.#chunkOf(slot);
    const start = this.#startOf(slot);
    let count = 0;
    for (let index = start; index < start + this.size; index++) if ((chunk[index] as number) >= since) count++;
    return count;
  }

  /** The times, oldest first. */
  times(slot: number): number[] {
    const start = this.#startOf(slot);
    return Array.from(this.#chunkOf(slot).subarray(start, start + this.size)).filter((time) => time !== NONE);
  }

  /** The latest time. */
  last(slot: number): number {
    return this.#chunkOf(slot)[this.#startOf(slot) + this.size - 1] as number;
  }

  /** Adds a time as the latest; the oldest falls out. */
  push(slot: number, time: number): void {
    const chunk = this.#chunkOf(slot);
    const start = this.#startOf(slot);
    const end = start + this.size - 1;
    for (let index = start; index < end; index++) chunk[index] = chunk[index + 1] as number;
    chunk[end] = time;
  }

  /** Takes the latest of those that are just `time` out; whether there was one. */
  remove(slot: number, time: number): boolean {
    const chunk = this.#chunkOf(slot);
    const start = this.#startOf(slot);
    for (let index = start + this.size - 1; index >= start; index--) {
      if (chunk[index] !== time) continue;
      for (let later = index; later > start; later--) chunk[later] = chunk[later - 1] as number;
      chunk[start] = NONE;
      return true;
    }
    return false;
  }

  #chunkOf(slot: number): Float64Array {
    return this.#chunks[slot >> CHUNK_BITS] as Float64Array;
  }

  #startOf(slot: number): number {
    return (slot & (CHUNK_SLOTS - 1)) * this.size;
  }
}

function emptyChunk(slots: number, size: number): Float64Array {
  return new Float64Array(slots * size).fill(NONE);
}
