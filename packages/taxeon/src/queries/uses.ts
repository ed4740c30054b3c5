/** The uses that count now, in the layer's store: looking at them, and taking them back. */
import type { Limit, LiveLimit } from '../contract/store.js';
import type { CommandLayer } from '../layer/command-layer.js';
import { insideOf } from '../layer/inside.js';
import { liveOf } from '../limits/live.js';

/** All that is live, or that of one key: a person's id, a guild's. */
export function liveUses(layer: CommandLayer, key?: string): Promise<readonly LiveLimit[]> {
  return liveOf(insideOf(layer).services.store, (one) => key === undefined || one.key.split(' ').includes(key));
}

/** Forgets what a key has used of a limit; whether there was anything. */
export async function resetUses(layer: CommandLayer, limitId: string, key: string): Promise<boolean> {
  return insideOf(layer).services.store.reset(limitId, key);
}

/** Gives one use back that was taken at a time. */
export async function giveUseBack(layer: CommandLayer, limit: Limit, key: string, at: number): Promise<void> {
  await insideOf(layer).services.store.giveBack([{ limit, key, at, cost: 1 }]);
}
