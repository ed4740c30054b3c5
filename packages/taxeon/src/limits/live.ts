/** Gathering what a store counts. */
import type { LiveLimit, Store } from '../contract/store.js';

/**
 * All that counts of what is asked for.
 *
 * @example
 * const ofWren = await liveOf(store, ({ key }) => key === 'wren');
 */
export async function liveOf(store: Store, isWanted: (one: LiveLimit) => boolean = () => true): Promise<LiveLimit[]> {
  const found: LiveLimit[] = [];
  for await (const page of store.live()) for (const one of page) if (isWanted(one)) found.push(one);
  return found;
}
