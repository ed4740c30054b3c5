/** The store on Redis: what it adds to the server's floor, to a round trip, and to a call. */
import { createHash } from 'node:crypto';
import { fileURLToPath } from 'node:url';
import { type RedisConnection, redisStore } from '@taxeon/redis';
import { Redis } from 'ioredis';
import { createClient, createCluster } from 'redis';
import { createCommandLayer, memoryStore, type Store } from 'taxeon';
import type { Limit } from 'taxeon/platform';
import { startCluster, startRedis } from '../../../packages/redis/test/support/redis.js';
import { start } from '../../../test/support/programs.js';
import { idsOf, quiet } from '../bots/oddmere.js';
import { borrow, line } from '../bots/redis.js';
import { compare, type Side, spreadOf } from '../measure/compare.js';
import { type Figure, one, type Row } from '../measure/row.js';

const IN_FLIGHT = 64;
const PEOPLE = 10_000;
const NOTHING = 'return 1';
const sha = createHash('sha1').update(NOTHING).digest('hex');

/** Never refused. */
const limits: readonly Limit[] = [
  { id: 'irc/borrow/user', uses: 1000, windowMs: 1000 },
  { id: 'irc/borrow/guild', uses: 1_000_000, windowMs: 1 },
];

/** So many at a time, on keys of 10,000 people and 100 guilds. */
function inTurns(name: string, inFlight: number, ask: (person: string, guild: string) => Promise<unknown>): Side {
  const people = idsOf(PEOPLE);
  const guilds = idsOf(100, PEOPLE);
  let at = 0;
  const worker = async (count: number) => {
    for (let done = 0; done < count; done++) {
      at = (at + 1) % PEOPLE;
      await ask(people[at] as string, guilds[at % 100] as string);
    }
  };
  return {
    name,
    async batch(size) {
      await Promise.all(Array.from({ length: inFlight }, () => worker(Math.ceil(size / inFlight))));
    },
  };
}

async function granted(store: Store, person: string, guild: string): Promise<void> {
  const verdict = await store.acquire(limits, [person, guild]);
  if (!verdict.granted) throw new Error('refused by accident');
}

/** A client, and how it sends a command. */
interface Sending {
  readonly client: RedisConnection;
  send(words: readonly string[]): Promise<unknown>;
  end(): void;
}

async function batching(port: number): Promise<Sending> {
  const client = createClient({ url: `redis://127.0.0.1:${port}` });
  await client.connect();
  return { client, send: (words) => client.sendCommand(words), end: () => client.destroy() };
}

async function oneByOne(port: number): Promise<Sending> {
  const client = new Redis({ host: '127.0.0.1', port });
  return { client, send: ([name = '', ...words]) => client.call(name, ...words), end: () => client.disconnect() };
}

async function onServer(connect: (port: number) => Promise<Sending>): Promise<Figure> {
  const server = await startRedis();
  const { client, send, end } = await connect(server.port);
  await send(['SCRIPT', 'LOAD', NOTHING]);
  const stores = [redisStore(client, { bot: 'one' }), redisStore(client, { bot: 'two' })];
  const waiting = stores.map((store) => inTurns('ours', IN_FLIGHT, (person, guild) => granted(store, person, guild)));
  const nothing = inTurns('a script that does nothing', IN_FLIGHT, (person, guild) =>
    send(['EVALSHA', sha, '2', `one:uses:irc/borrow/user:${person}`, `one:uses:irc/borrow/guild:${guild}`]),
  );
  const figure = await compare({ ours: () => waiting.shift() as Side, yardstick: () => nothing, size: 2048 });
  for (const store of stores) await store.close();
  end();
  await server.stop();
  return figure;
}

async function onCluster(): Promise<Figure> {
  const cluster = await startCluster();
  const client = createCluster({ rootNodes: cluster.ports.map((port) => ({ url: `redis://127.0.0.1:${port}` })) });
  await client.connect();
  const stores = [redisStore(client, { bot: 'one' }), redisStore(client, { bot: 'two' })];
  const waiting = stores.map((store) => inTurns('ours', 1, (person, guild) => granted(store, person, guild)));
  const single = redisStore(client, { bot: 'three' });
  const alone = inTurns('of one limit', 1, async (person) => single.acquire(limits.slice(0, 1), [person]));
  const figure = await compare({ ours: () => waiting.shift() as Side, yardstick: () => alone, size: 200 });
  for (const store of [...stores, single]) await store.close();
  client.destroy();
  await cluster.stop();
  return figure;
}

/** What a call takes beyond its question to the store, over a call with the store in memory. */
async function ofCalls(): Promise<Figure> {
  const server = await startRedis();
  const client = createClient({ url: `redis://127.0.0.1:${server.port}` });
  const bare = redisStore(client, { bot: 'bare' });
  const layerOn = (store: Store) => {
    const layer = createCommandLayer({ commands: [borrow], prefixes: ['!'], store, log: quiet });
    return async (person: string, guild: string) => {
      const { status } = await layer.handle(line(person, guild));
      if (status !== 'completed') throw new Error(`${status} by accident`);
    };
  };
  const sides = [
    inTurns('with Redis', IN_FLIGHT, layerOn(redisStore(client, { bot: 'layer' }))),
    inTurns('the question alone', IN_FLIGHT, (person, guild) => granted(bare, person, guild)),
    inTurns('in memory', IN_FLIGHT, layerOn(memoryStore())),
  ];
  const ratios: number[] = [];
  const times: number[][] = [[], [], []];
  for (let round = 0; round < 60; round++) {
    const took: number[] = [];
    for (const side of sides) {
      const begun = process.hrtime.bigint();
      await side.batch(2048);
      took.push(Number(process.hrtime.bigint() - begun) / 2048);
    }
    if (round < 15) continue;
    const [withRedis = 0, question = 0, inMemory = 0] = took;
    ratios.push((withRedis - question) / inMemory);
    for (const [index, time] of took.entries()) times[index]?.push(time);
  }
  const [withRedis = 0, question = 0, inMemory = 0] = times.map((all) => spreadOf(all).value);
  await server.stop();
  return { ...spreadOf(ratios), oursNs: withRedis - question, yardstickNs: inMemory };
}

/** Calls of four processes on one server, in microseconds a call. */
async function ofProcesses(): Promise<Figure> {
  const server = await startRedis();
  const script = fileURLToPath(new URL('../redis-worker.js', import.meta.url));
  const until = Date.now() + 6000;
  const workers = Array.from({ length: 4 }, () =>
    start(process.execPath, [script, String(server.port), String(until)]),
  );
  const finished = await Promise.all(workers.map((worker) => worker.finished));
  await server.stop();
  const rates = finished.map(({ out, err }) => {
    if (err !== '') throw new Error(err);
    return Number(out);
  });
  return one(1e6 / rates.reduce((sum, rate) => sum + rate, 0));
}

export const onRedis: readonly Row[] = [
  {
    name: 'redis',
    what: `Redis acquire of two cooldowns, ${IN_FLIGHT} at a time, over a script that does nothing with the same keys; by ioredis, which sends each by itself`,
    goal: 1.18,
    unit: '×',
    why: 'The server is the one who is waited for: reading and writing two keys and asking for the time take it 11 µs without any script around them, the whole script 17; the client takes no longer than for the one that does nothing.',
    measure: () => onServer(oneByOne),
  },
  {
    name: 'redis-batched',
    what: 'the same by redis, which sends what is asked at one moment together',
    goal: 1.18,
    unit: '×',
    why: 'See redis.',
    measure: () => onServer(batching),
  },
  {
    name: 'redis-cluster',
    what: 'an acquire over two servers of a cluster of three, over one of one server',
    goal: 2.2,
    unit: '×',
    measure: onCluster,
  },
  {
    name: 'redis-call',
    what: 'what a call takes beyond its question to Redis, over a call with the store in memory',
    goal: 1.3,
    unit: '×',
    measure: ofCalls,
  },
  {
    name: 'redis-processes',
    what: 'calls with two cooldowns from four processes on one server, a call',
    goal: 100,
    unit: 'µs',
    measure: ofProcesses,
  },
];
