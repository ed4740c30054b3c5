/** One of several processes of a bot on one Redis server: `redis-worker.js PORT UNTIL`. Prints how many calls a second. */

import { redisStore } from '@taxeon/redis';
import { createClient } from 'redis';
import { createCommandLayer } from 'taxeon';
import { idsOf, quiet } from './bots/oddmere.js';
import { borrow, line } from './bots/redis.js';

const [port, until] = process.argv.slice(2).map(Number);
const store = redisStore(createClient({ url: `redis://127.0.0.1:${port}` }), { bot: 'mallet' });
const layer = createCommandLayer({ commands: [borrow], prefixes: ['!'], store, log: quiet });
const people = idsOf(10_000, process.pid * 10_000);
let calls = 0;
let begun = performance.now();

async function call(): Promise<void> {
  calls += 1;
  const { status } = await layer.handle(line(people[calls % people.length] as string, `guild ${calls % 100}`));
  if (status !== 'completed') throw new Error(`${status} by accident`);
}

async function callUntil(moment: number): Promise<void> {
  while (Date.now() < moment) await call();
}

const inFlight = (moment: number) => Promise.all(Array.from({ length: 64 }, () => callUntil(moment)));
// Until then the code is compiled, and the others are there.
await inFlight((until ?? 0) - 3000);
calls = 0;
begun = performance.now();
await inFlight(until ?? 0);
process.stdout.write(String((calls / (performance.now() - begun)) * 1000));
await layer.close();
await store.close();
