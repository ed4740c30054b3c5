/** Reading what comes from outside, within a bound of bytes and of time. */

import type { Clock } from 'taxeon';
import { after } from 'taxeon/platform';
/** How much may come, and how long it may take, in milliseconds. */
export interface Bound {
  readonly bytes: number;
  readonly ms: number;
  /** Where it comes, nothing more is read. */
  readonly stopped?: Promise<'late'>;
}

/** All of a stream, or why not: it is longer, it took longer, or it broke off. Then the rest is not read. */
export async function readBytes(
  stream: ReadableStream<Uint8Array> | null,
  { bytes, ms, stopped }: Bound,
  clock: Clock,
): Promise<Uint8Array<ArrayBuffer> | 'long' | 'late' | 'broken'> {
  if (stream === null) return new Uint8Array();
  const reader = stream.getReader();
  const parts: Uint8Array[] = [];
  let length = 0;
  let endTimer = () => {};
  const late = new Promise<'late'>((resolve) => {
    endTimer = after(clock, ms, () => resolve('late'));
    stopped?.then(resolve);
  });
  const leave = (why: 'long' | 'late') => {
    reader.cancel().catch(() => undefined);
    return why;
  };
  try {
    for (;;) {
      const part = await Promise.race([reader.read(), late]);
      if (part === 'late') return leave(part);
      if (part.done) return concatenated(parts, length);
      length += part.value.byteLength;
      if (length > bytes) return leave('long');
      parts.push(part.value);
    }
  } catch {
    return 'broken';
  } finally {
    endTimer();
  }
}

function concatenated(parts: readonly Uint8Array[], length: number): Uint8Array<ArrayBuffer> {
  const all = new Uint8Array(length);
  let at = 0;
  for (const part of parts) {
    all.set(part, at);
    at += part.byteLength;
  }
  return all;
}
