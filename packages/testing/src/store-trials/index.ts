/** The conformance suite of the store contract: what every store must do, as named trials. */
import type { Trial } from '../trial.js';
import type { StoreProbe } from './kit.js';
import { sharingTrials } from './sharing.js';
import { usesTrials } from './uses.js';
import { valueTrials } from './values.js';

export type { StoreProbe } from './kit.js';

/**
 * The trials of a store, for any test runner. Where a store is one process's alone, those of what is shared say why they
 * are skipped.
 *
 * @example
 * import { test } from 'vitest';
 * import { myStore } from '../../../taxeon/src/testing/store-trials/store.js';
 *
 * for (const trial of storeTrials) test(trial.name, () => trial.run({ open: (clock) => myStore({ clock }) }));
 */
export const storeTrials: readonly Trial<StoreProbe>[] = [...usesTrials, ...valueTrials, ...sharingTrials];
