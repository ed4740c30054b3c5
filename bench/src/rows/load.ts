/** A bot under the load of a large platform, for a minute; `npm run load` plays it for longer. */
import { spawnSync } from 'node:child_process';
import { fileURLToPath } from 'node:url';
import { one, type Row } from '../measure/row.js';

interface Played {
  readonly p99Ms: number;
  readonly cpu: number;
  readonly grownMb: number;
}

function played(): Played {
  // Built, this stands in a folder of its own beside the script.
  const script = fileURLToPath(new URL('../load.js', import.meta.url));
  const { status, stdout, stderr } = spawnSync(
    process.execPath,
    ['--expose-gc', script, '--minutes', '1', '--speed', '4', '--json'],
    { encoding: 'utf8' },
  );
  if (status !== 0) throw new Error(stderr);
  return JSON.parse(stdout) as Played;
}

export const load: readonly Row[] = [
  {
    name: 'load-cpu',
    what: '10,000 chat lines a second with 5 % calls (10,000 guilds with settings, a million people, 100 prefixes, 1,000 commands with five aliases): of a core',
    goal: 25,
    unit: '%',
    measure: () => one(played().cpu * 100),
  },
  {
    name: 'load-p99',
    what: 'in 99 of 100 calls, how long it takes from when the line was due to the outcome, on a tick of 1 ms',
    goal: 8,
    unit: 'ms',
    measure: () => one(played().p99Ms),
  },
  {
    name: 'load-heap',
    what: 'how much the heap grows meanwhile, beyond the events that are remembered for minutes',
    goal: 24,
    unit: 'MB',
    measure: () => one(Math.max(0, played().grownMb)),
  },
];
