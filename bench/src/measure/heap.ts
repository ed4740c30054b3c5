/** What things take of the heap. */

import type { Side } from './compare.js';
import { type Spread, spreadOf } from './compare.js';

/** In bytes, after all garbage was collected. */
export function heap(): number {
  for (let round = 0; round < 3; round++) collect();
  // Array buffers are part of what is external.
  const { heapUsed, external } = process.memoryUsage();
  return heapUsed + external;
}

const ROUNDS = 21;
const WARM_UP = 30;

/** Bytes of heap that an operation takes, garbage included. A batch must be small enough for no collection to fall in. */
export async function bytesEach(side: Side, size: number): Promise<Spread> {
  const bytes: number[] = [];
  for (let round = 0; round < WARM_UP + ROUNDS; round++) {
    side.prepare?.(size);
    collect();
    const before = process.memoryUsage().heapUsed;
    await side.batch(size);
    const took = (process.memoryUsage().heapUsed - before) / size;
    if (round >= WARM_UP) bytes.push(took);
  }
  return spreadOf(bytes);
}

function collect(): void {
  if (globalThis.gc === undefined) throw new Error('run with --expose-gc');
  globalThis.gc();
}
