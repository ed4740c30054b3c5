/** Plays rounds of faults for `SOAK_MINUTES`, from `SOAK_SEED` on, and tells what it did: `npm run soak -- --minutes 10`. */
import { seeded } from '@taxeon/testing';
import { test } from 'vitest';
import { short } from './rounds.js';

const minutes = Number(process.env['SOAK_MINUTES'] ?? 1);
const firstSeed = Number(process.env['SOAK_SEED'] ?? Date.now() % 1_000_000);

test(`${minutes} minutes of faults from seed ${firstSeed} on`, { timeout: (minutes + 5) * 60_000 }, async () => {
  const until = performance.now() + minutes * 60_000;
  const played = new Map<string, { rounds: number; last: string }>();
  for (let seed = firstSeed; performance.now() < until; seed++) {
    for (const [name, round] of Object.entries(short)) {
      if (performance.now() >= until && played.size === Object.keys(short).length) break;
      let told: string;
      try {
        told = await round(seeded(seed));
      } catch (error) {
        throw new Error(`${name} with seed ${seed}: ${(error as Error).message}`, { cause: error });
      }
      const { rounds = 0 } = played.get(name) ?? {};
      played.set(name, { rounds: rounds + 1, last: told });
    }
  }
  for (const [name, { rounds, last }] of played) console.log(`${name}: ${rounds} rounds; the last: ${last}`);
});
