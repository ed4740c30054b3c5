/**
 * One of several processes on one store: takes uses as fast as it can until a moment, then prints what it was granted,
 * what was counted, and how long its event loop was ever held up.
 * Arguments: the store, the moment to stop at, the uses allowed, the window in milliseconds.
 */
import { monitorEventLoopDelay } from 'node:perf_hooks';
import { openShared } from './shared-store.js';

const [name, until, uses, windowMs] = process.argv.slice(2);
const isFile = !/^(redis|cluster)[+:]/.test(name);
const store = openShared(name, isFile ? '5s' : '1s');
const limits = [
  { id: 'hammered', uses: Number(uses), windowMs: Number(windowMs) },
  { id: 'beside', uses: 1_000_000, windowMs: 60_000 },
];
const own = `process ${process.pid}`;
const delay = monitorEventLoopDelay({ resolution: 1 });
let granted = 0;
let grantedAt = Date.now();
let refused = 0;
const failures = [];
/** How long a call ever kept the event loop to itself. */
let longestCallMs = 0;

process.stdout.write('ready\n');
delay.enable();
// On a slow machine, where others take over late, for as long as nothing was granted yet.
const hasWaited = () => Date.now() - grantedAt > 5000 && Date.now() < Number(until) + 30_000;
while (Date.now() < Number(until) || hasWaited()) {
  try {
    const begun = performance.now();
    const asked = store.acquire(limits, ['all', own]);
    longestCallMs = Math.max(longestCallMs, performance.now() - begun);
    const verdict = await asked;
    if (verdict.granted) {
      granted += 1;
      grantedAt = Date.now();
      process.stdout.write(`grant ${verdict.each?.[0] ?? verdict.at}\n`);
    } else refused += 1;
  } catch (error) {
    if (isFile) throw error;
    failures.push(error.problem ?? String(error));
  }
  await new Promise((resolve) => setImmediate(resolve));
}
delay.disable();

async function countedBeside() {
  let beside = 0;
  for await (const page of store.live()) {
    beside += page.find(({ id, key }) => id === 'beside' && key === own)?.uses ?? 0;
  }
  return beside;
}
// What was not answered is undone once it can come no more.
const giveUpAt = Date.now() + 20_000;
while (!isFile && Date.now() < giveUpAt && (await countedBeside().catch(() => -1)) !== granted) {
  await new Promise((resolve) => setTimeout(resolve, 100));
}
const beside = await countedBeside();
process.stdout.write(
  `done ${JSON.stringify({ granted, refused, beside, failures, longestCallMs, longestDelayMs: delay.max / 1e6 })}\n`,
);
store.close();
process.exit();
