import { redisStore } from '@taxeon/redis';
import type { VirtualClock } from '@taxeon/testing';
import { storeTrials } from '@taxeon/testing/trials';
import { createClient } from 'redis';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { isMissing } from '../../../../test/support/programs.js';
import { agreesWithList } from '../../../../test/support/store-model.js';
import {
  clients,
  clusterClients,
  type RedisCluster,
  type RedisServer,
  startCluster,
  startRedis,
} from '../support/redis.js';

const trials = storeTrials.map((trial) => [trial.name, trial] as const);
let bots = 0;

describe.skipIf(isMissing('redis-server'))('the trials of a store', () => {
  let server: RedisServer;
  let cluster: RedisCluster;
  beforeAll(async () => {
    [server, cluster] = await Promise.all([startRedis(), startCluster()]);
  });
  afterAll(() => Promise.all([server.stop(), cluster.stop()]));

  const stores = [
    ...Object.entries(clients).map(([name, connect]) => [`a server, by ${name}`, () => connect(server.port)] as const),
    ...Object.entries(clusterClients).map(
      ([name, connect]) => [`a cluster, by ${name}`, () => connect(cluster.ports)] as const,
    ),
  ];
  describe.each(stores)('on %s', (_, connect) => {
    const openAnother = (clock: VirtualClock) => redisStore(connect(), { bot: `bot ${bots}`, clock });
    const open = (clock: VirtualClock) => {
      bots += 1;
      return openAnother(clock);
    };
    test.each(trials)('%s', async (_name, trial) => expect(await trial.run({ open, openAnother })).toBe(undefined));
    test('agrees with a plain list of times, clock steps both ways included', () => agreesWithList(open, false));
  });
});

describe.skipIf(isMissing('redis-server'))('what was taken, and not answered', () => {
  let server: RedisServer;
  beforeAll(async () => {
    server = await startRedis();
  });
  afterAll(() => server.stop());

  test('is found when it is asked for again, also where its shortest window is over and others have come since', async () => {
    const url = `redis://127.0.0.1:${server.port}`;
    const short = { id: 'short', uses: 5, windowMs: 50 };
    const long = { id: 'long', uses: 5, windowMs: 60_000 };
    const real = createClient({ url });
    await real.connect();
    const other = redisStore(createClient({ url }), { bot: 'mallet' });
    let losesOne = true;
    const client = {
      duplicate: () => client,
      connect: async () => undefined,
      on: () => client,
      subscribe: async () => undefined,
      destroy: () => undefined,
      async sendCommand(words: readonly string[]) {
        const answer = await real.sendCommand([...words]);
        if (!losesOne || !words[0]?.startsWith('EVAL')) return answer;
        losesOne = false;
        await new Promise((resolve) => setTimeout(resolve, 100));
        await other.acquire([short], ['all']);
        throw new Error('Socket closed unexpectedly');
      },
    };
    const store = redisStore(client, { bot: 'mallet' });
    expect(await store.acquire([short, long], ['all', 'wren'])).toMatchObject({ granted: true });
    expect(losesOne).toBe(false);
    const counted: number[] = [];
    for await (const page of store.live()) for (const { id, uses } of page) if (id === 'long') counted.push(uses);
    expect(counted).toEqual([1]);
    for (const one of [store, other]) await one.close();
    real.destroy();
  });
});
