/** What an adapter shares with the layer that it serves. */
import type { Clock } from '../base/time.js';
import type { Log } from '../contract/log.js';
import type { InputHandler } from '../contract/platform.js';
import type { Store } from '../contract/store.js';
import { insideIfLayer } from './inside.js';

/** What holds for all that a layer does, so that its adapters do the same. */
export interface SharedOptions {
  readonly clock: Clock;
  readonly log: Log;
  readonly store: Store;
  /** How long the developer's functions, a store and a platform are waited for. */
  readonly patienceMs: number;
  readonly storePatienceMs: number;
  readonly platformPatienceMs: number;
  /** Whether several processes take inputs of the same platform. */
  readonly isShared: boolean;
  /** Names of the platforms that it serves already. */
  readonly platforms: ReadonlySet<string>;
}

/**
 * What an adapter shares with its layer; `undefined` for a double of a layer, which has none of it.
 *
 * @throws TypeError where the layer is of another version of the library
 *
 * @example
 * const clock = sharedOptions(layer)?.clock ?? systemClock;
 */
export function sharedOptions(handler: InputHandler): SharedOptions | undefined {
  const inside = insideIfLayer(handler);
  if (inside === undefined) return undefined;
  const { basis, asking, beginning, needs, platforms } = inside;
  return {
    clock: basis.clock,
    log: basis.log,
    store: asking.store,
    patienceMs: basis.patienceMs,
    storePatienceMs: asking.storePatienceMs,
    platformPatienceMs: beginning.delivery.platformPatienceMs,
    isShared: needs.match.claim !== undefined,
    platforms: new Set(platforms.keys()),
  };
}
