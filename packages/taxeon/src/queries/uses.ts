/** The uses that count now, in the layer's store: looking at them, and taking them back. */
import type { Limit, LiveLimit } from '../contract/store.js';
import type { CommandLayer } from '../layer/command-layer.js';
import { insideOf } from '../layer/inside.js';
import { liveUsesIn, partsOfKey } from '../limits/live.js';

/**
 * All that is live, or that of one key: a person's id, a guild's.
 *
 * @example
 * for (const { id, key, uses } of await liveUsesOf(layer, 'wren')) console.log(id, key, uses);
 */
export function liveUsesOf(layer: CommandLayer, key?: string): Promise<readonly LiveLimit[]> {
  return liveUsesIn(
    insideOf(layer).asking.store,
    (one) => key === undefined || one.key === key || partsOfKey(one.key).includes(key),
  );
}

/**
 * Forgets what a key has used of a limit; whether there was anything.
 *
 * @example
 * await resetUses(layer, 'irc/borrow/user', 'wren');
 */
export async function resetUses(layer: CommandLayer, limitId: string, key: string): Promise<boolean> {
  return insideOf(layer).asking.store.reset(limitId, key);
}

/**
 * Gives one use back that was taken at a time.
 *
 * @example
 * for (const { id, key } of await liveUsesOf(layer, 'wren')) console.log(id, key);
 * await giveUseBack(layer, { id: 'irc/borrow/user', uses: 3, windowMs: 60_000 }, 'wren', Date.now());
 */
export async function giveUseBack(layer: CommandLayer, limit: Limit, key: string, at: number): Promise<void> {
  await insideOf(layer).asking.store.giveBack([{ limit, key, at, cost: 1 }]);
}
