/** The rounds of faults that CI plays, always the same: `npm run soak` looks for further seeds. */
import { seeded } from '@taxeon/testing';
import { describe, test } from 'vitest';
import { short } from './rounds.js';

/** A seed that has ever found something is added to these, and stays. */
const seeds = [118_375, 7, 42, 1009, 27_644, 351_777, 600_011, 918_273];

describe.each(seeds)('faults of seed %d', (seed) => {
  test.each(Object.entries(short))('%s', { timeout: 5 * 60_000 }, async (_, round) => {
    await round(seeded(seed));
  });
});
