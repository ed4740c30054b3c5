/** Gathering what a store counts. */
import { joinedParts } from '../base/text.js';
import type { LiveLimit, Store } from '../contract/store.js';

/**
 * All that counts of what is asked for.
 *
 * @example
 * const ofWren = await liveUsesIn(store, ({ key }) => key === 'wren');
 */
export async function liveUsesIn(
  store: Store,
  isWanted: (one: LiveLimit) => boolean = () => true,
): Promise<LiveLimit[]> {
  const found: LiveLimit[] = [];
  for await (const page of store.live()) for (const one of page) if (isWanted(one)) found.push(one);
  return found;
}

/**
 * Whom or what a counter is for: a person's id; a guild's and a person's; the words of a key of the bot's own.
 *
 * @example
 * partsOfKey('7:oddmere/wren'); // ['oddmere', 'wren']
 */
export function partsOfKey(key: string): readonly string[] {
  const parts = joinedParts(key);
  return parts.length > 0 ? parts : key.split(' ');
}
