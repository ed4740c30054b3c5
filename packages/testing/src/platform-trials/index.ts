/** The conformance suite of the platform contract: what every adapter must do, as named trials. */
import type { Trial } from '../trial.js';
import { directoryTrials } from './directory.js';
import { inputTrials } from './inputs.js';
import type { PlatformProbe } from './kit.js';
import { lifecycleTrials } from './lifecycle.js';
import { replyTrials } from './replies.js';

export type { PlatformProbe } from './kit.js';

/**
 * The trials of an adapter, for any test runner: each wants a probe of its own. A trial of what the platform does not
 * claim says why it is skipped.
 *
 * @example
 * import { test } from 'vitest';
 * import { probe } from '../../../taxeon/src/testing/platform-trials/probe.js';
 *
 * for (const trial of platformTrials)
 *   test(trial.name, async (context) => {
 *     const skipped = await trial.run(probe);
 *     if (skipped !== undefined) context.skip(skipped);
 *   });
 */
export const platformTrials: readonly Trial<PlatformProbe>[] = [
  ...lifecycleTrials,
  ...inputTrials,
  ...replyTrials,
  ...directoryTrials,
];
