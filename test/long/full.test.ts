/** What takes minutes: `npm run test:long`. */
import { seeded } from '@taxeon/testing';
import { describe, test } from 'vitest';
import { closing, conversation } from './calls.js';
import { killed, registering } from './registering.js';
import type { Round } from './round.js';
import { agreement, crowds, processes } from './stores.js';

const rows: [string, Round, number][] = [
  ['100,000 operations agree with a list of times', agreement(100_000), 1],
  ['5,000 inputs under faults', conversation(5000), 3],
  ['500 running calls at close', closing(500), 20],
  ['300 seeds of a registrar’s faults', registering, 300],
  ['four processes on one file, 20 of them killed', processes(20), 2],
  ['registering, killed 50 times', killed(50), 1],
  ['memory comes back after a million keys', crowds(1_000_000), 1],
];

describe('in full', () => {
  test.each(rows)('%s', { timeout: 20 * 60_000 }, async (_, round, seeds) => {
    let told = '';
    for (let seed = 1; seed <= seeds; seed++) told = await round(seeded(seed * 7919));
    console.log(told);
  });
});
