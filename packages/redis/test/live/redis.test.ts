import { redisStore } from '@taxeon/redis';
import type { VirtualClock } from '@taxeon/testing';
import { storeTrials } from '@taxeon/testing/trials';
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
