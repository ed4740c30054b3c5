/** `npm run soak -- --minutes 10 --seed 42`: faults at random for so long; the seed that it tells plays them again. */
import { spawnSync } from 'node:child_process';
import { parseArgs } from 'node:util';

const { values } = parseArgs({ options: { minutes: { type: 'string', default: '1' }, seed: { type: 'string' } } });
const minutes = Number(values.minutes);
const seed = Number(values.seed ?? Math.floor(Math.random() * 1_000_000));
if (!(minutes > 0) || !Number.isSafeInteger(seed)) {
  console.error('Write --minutes and --seed as numbers: npm run soak -- --minutes 10 --seed 42');
  process.exit(2);
}
const { status } = spawnSync('npx', ['vitest', 'run', '--project', 'long', 'soak', '--disable-console-intercept'], {
  stdio: 'inherit',
  env: { ...process.env, SOAK_MINUTES: String(minutes), SOAK_SEED: String(seed) },
});
process.exit(status ?? 1);
