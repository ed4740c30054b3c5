/**
 * One of several processes on one store's file: takes uses as fast as it can until a moment, then prints what it was
 * granted and how long its event loop was ever held up.
 * Arguments: the file, the moment to stop at, the uses allowed, the window in milliseconds.
 */
import { monitorEventLoopDelay } from 'node:perf_hooks';
import { fileStore } from 'taxeon/file-store';

const [path, until, uses, windowMs] = process.argv.slice(2);
const store = fileStore({ path, patience: '5s' });
const limits = [
  { id: 'hammered', uses: Number(uses), windowMs: Number(windowMs) },
  { id: 'beside', uses: 1_000_000, windowMs: 60_000 },
];
const delay = monitorEventLoopDelay({ resolution: 1 });
const grants = [];
let refused = 0;
/** How long a call ever kept the event loop to itself. */
let longestCallMs = 0;

process.stdout.write('ready\n');
delay.enable();
while (Date.now() < Number(until)) {
  const begun = performance.now();
  const asked = store.acquire(limits, ['all', `process ${process.pid}`]);
  longestCallMs = Math.max(longestCallMs, performance.now() - begun);
  const verdict = await asked;
  if (verdict.granted) {
    grants.push(verdict.at);
    process.stdout.write(`grant ${verdict.at}\n`);
  } else refused += 1;
  await new Promise((resolve) => setImmediate(resolve));
}
delay.disable();
let beside = 0;
for await (const page of store.live()) {
  beside += page.find(({ id, key }) => id === 'beside' && key === `process ${process.pid}`)?.uses ?? 0;
}
process.stdout.write(
  `done ${JSON.stringify({ granted: grants.length, refused, beside, longestCallMs, longestDelayMs: delay.max / 1e6 })}\n`,
);
store.close();
