/** Walking through the keys of all servers, a page at a time, so that nobody waits for it. */
import type { Calls } from './calls.js';

/** How many keys a server looks at at once. */
const LOOKED_AT = 500;

/** @param pattern as `SCAN` takes it */
export async function* scan(calls: Calls, pattern: string): AsyncGenerator<readonly string[]> {
  const seen = new Set<string>();
  for (const send of await calls.servers()) {
    let cursor = '0';
    do {
      const [next, found] = (await send(['SCAN', cursor, 'MATCH', pattern, 'COUNT', String(LOOKED_AT)])) as [
        unknown,
        readonly unknown[],
      ];
      cursor = String(next);
      const names = found.map(String).filter((name) => !seen.has(name));
      for (const name of names) seen.add(name);
      if (names.length > 0) yield names;
    } while (cursor !== '0');
  }
}

export function pagesOf<T>(all: readonly T[], size: number): readonly (readonly T[])[] {
  const pages: (readonly T[])[] = [];
  for (let from = 0; from < all.length; from += size) pages.push(all.slice(from, from + size));
  return pages;
}
