/** What a Redis server does to a bot: it is away, frozen, full, read-only, or behind a line that has gone dead. */
import { createServer, connect as dial, type Socket } from 'node:net';
import { redisStore } from '@taxeon/redis';
import { command, createCommandLayer } from 'taxeon';
import type { Limit } from 'taxeon/platform';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { codeOf, liveIn, oddmere } from '../../../../test/support/oddmere.js';
import { freePort, isMissing, until } from '../../../../test/support/programs.js';
import { clients, type RedisServer, startRedis } from '../support/redis.js';

/** A line to the server that can go dead: nothing passes any more, and nobody is told. */
async function lineTo(port: number) {
  const own = await freePort();
  const pairs = new Set<readonly [Socket, Socket]>();
  const line = createServer((near) => {
    const far = dial(port, '127.0.0.1');
    const pair = [near, far] as const;
    pairs.add(pair);
    near.pipe(far).pipe(near);
    for (const socket of pair) socket.on('error', () => undefined);
  });
  await new Promise<void>((resolve) => line.listen(own, '127.0.0.1', resolve));
  return {
    port: own,
    /** Those that are open now; who dials again has a good one. */
    goDead() {
      for (const [near, far] of pairs) {
        near.unpipe();
        far.unpipe();
        near.resume();
        far.resume();
      }
    },
    /** What is asked arrives, what is answered does not, and the line breaks. */
    loseAnswers() {
      for (const [near, far] of pairs) {
        far.unpipe();
        far.resume();
        setTimeout(() => near.destroy(), 100);
      }
      pairs.clear();
    },
    close() {
      for (const pair of pairs) for (const socket of pair) socket.destroy();
      line.close();
    },
  };
}

const lamp = command({
  name: 'lamp',
  description: 'Light the lamp',
  cooldowns: { user: '1 in 10m' },
  run: () => 'The lamp is lit.',
});
const sign = command({
  name: 'sign',
  description: 'Turn the sign',
  cooldowns: { user: { allow: '1 in 10m', outage: 'allow' } },
  run: () => 'The sign is turned.',
});

const PATIENCE_MS = 700;
let bots = 0;

async function botOn(
  port: number,
  connect: (port: number) => Parameters<typeof redisStore>[0],
  patienceMs = PATIENCE_MS,
) {
  bots += 1;
  const lines: Readonly<Record<string, unknown>>[] = [];
  const log = { error: (fields: object) => void lines.push({ ...fields }), warn: () => undefined };
  const patience = { ms: patienceMs };
  const store = redisStore(connect(port), { bot: `bot ${bots}`, patience: { ms: patienceMs - 100 }, log });
  const scene = await oddmere(() =>
    createCommandLayer({
      commands: [lamp, sign],
      prefixes: ['!'],
      store,
      storePatience: patience,
      log,
      damping: 'off',
    }),
  );
  return { ...scene, store, lines };
}

type Outage = readonly [
  problem: string,
  begin: (server: RedisServer, line: Awaited<ReturnType<typeof lineTo>>) => unknown,
  end: (server: RedisServer) => unknown,
];

const outages: Readonly<Record<string, Outage>> = {
  'is stopped, and starts again empty': ['unreachable', (server) => server.kill(), (server) => server.begin()],
  'is frozen, and goes on': ['unreachable', (server) => server.pause(), (server) => server.goOn()],
  'is slow': ['unreachable', (server) => server.tell('CLIENT', 'PAUSE', '1500'), () => undefined],
  'is full': [
    'full',
    (server) => server.tell('CONFIG', 'SET', 'maxmemory', '1'),
    (server) => server.tell('CONFIG', 'SET', 'maxmemory', '0'),
  ],
  'is a replica for a while': [
    'read-only',
    (server) => server.tell('REPLICAOF', '127.0.0.1', '1'),
    (server) => server.tell('REPLICAOF', 'NO', 'ONE'),
  ],
  'lacks the replicas that it must have': [
    'read-only',
    (server) => server.tell('CONFIG', 'SET', 'min-replicas-to-write', '1'),
    (server) => server.tell('CONFIG', 'SET', 'min-replicas-to-write', '0'),
  ],
  'lets the bot do nothing any more': [
    'refused',
    (server) => server.tell('ACL', 'SETUSER', 'default', '-evalsha', '-eval'),
    (server) => server.tell('ACL', 'SETUSER', 'default', '+@all'),
  ],
  'has forgotten the scripts': ['none', (server) => server.tell('SCRIPT', 'FLUSH'), () => undefined],
  'is behind a line that has gone dead': ['unreachable', (_, line) => line.goDead(), () => undefined],
};

describe.skipIf(isMissing('redis-server')).each(['redis 6', 'ioredis 6'])('where a server, by %s,', (client) => {
  let server: RedisServer;
  let line: Awaited<ReturnType<typeof lineTo>>;
  beforeAll(async () => {
    server = await startRedis();
    line = await lineTo(server.port);
  });
  afterAll(async () => {
    line.close();
    await server.stop();
  });

  test.each(Object.entries(outages).map(([what, outage]) => [what, ...outage] as const))(
    '%s, calls are answered as `outage` says, and the store comes back by itself',
    async (_, problem, begin, end) => {
      const { types, store, layer, lines } = await botOn(line.port, clients[client] as (typeof clients)[string]);
      expect(codeOf((await types('ines', '!lamp')).outcome)).toBe('completed');
      await begin(server, line);
      const outcomes = await Promise.all([types('wren', '!lamp'), types('wren', '!sign')]);
      if (problem === 'none') {
        expect(outcomes.map(({ outcome }) => codeOf(outcome))).toEqual(['completed', 'completed']);
      } else {
        expect(outcomes.map(({ outcome }) => codeOf(outcome))).toEqual(['store.unavailable', 'completed']);
        await types('tobias', '!lamp');
        expect(lines).toMatchObject([{ error: { problem } }]);
      }
      await end(server);
      // Who was refused has used up nothing.
      let code = '';
      await until(async () => {
        code = codeOf((await types('wren', '!lamp')).outcome);
        return code !== 'store.unavailable';
      }, 'it is back');
      expect(code).toBe(problem === 'none' ? 'cooldown.active' : 'completed');
      expect(codeOf((await types('wren', '!lamp')).outcome)).toBe('cooldown.active');
      const wrens = (await liveIn(store)).filter(({ key, id }) => key === 'wren' && id.includes('lamp'));
      expect(wrens.map(({ uses }) => uses)).toEqual([1]);
      await layer.close();
      await store.close();
    },
  );

  test('wants another password, calls are told so', async () => {
    await server.tell('CONFIG', 'SET', 'requirepass', 'another');
    // What the server says of it ends the call, however long it would wait.
    const own = clients[client] as (typeof clients)[string];
    const { types, lines, store, layer } = await botOn(line.port, own, 600_000);
    expect(codeOf((await types('wren', '!lamp')).outcome)).toBe('store.unavailable');
    expect(lines).toMatchObject([{ error: { problem: 'refused' } }]);
    await server.tell('-a', 'another', 'CONFIG', 'SET', 'requirepass', '');
    await until(async () => codeOf((await types('wren', '!lamp')).outcome) === 'completed', 'it is let in');
    await layer.close();
    await store.close();
  });

  test('does what it is asked but its answer is lost, it is done once', async () => {
    bots += 1;
    const store = redisStore((clients[client] as (typeof clients)[string])(line.port), { bot: `bot ${bots}` });
    const twice: Limit = { id: 'twice', uses: 2, windowMs: 60_000 };
    const lost = <T>(what: () => T): T => {
      const asked = what();
      line.loseAnswers();
      return asked;
    };
    await store.increment('n', 1);
    const before = await store.acquire([twice], ['a']);
    expect(await lost(() => store.acquire([twice], ['b']))).toMatchObject({ granted: true });
    expect(await lost(() => store.increment('n', 1))).toBe(2);
    expect(await lost(() => store.compareAndSet('v', 0, 'written'))).toBe(true);
    const { at, lost: gone } = await lost(() =>
      store.renew([{ limit: twice, key: 'a', cost: 1, at: before.granted ? before.at : 0 }]),
    );
    expect(gone).toEqual([]);
    await lost(() => store.giveBack([{ limit: twice, key: 'a', cost: 1, at }]));
    expect((await store.read('n'))?.value).toBe('2');
    const live = await liveIn(store);
    expect(live.map(({ key, uses }) => `${key} ${uses}`)).toEqual(['b 1']);
    await store.close();
  });

  test('has done what it refuses when it is asked again, it is undone', async () => {
    bots += 1;
    const store = redisStore((clients[client] as (typeof clients)[string])(line.port), { bot: `bot ${bots}` });
    const once: Limit = { id: 'once', uses: 1, windowMs: 60_000 };
    await store.look([once], ['a']);
    const asked = Promise.resolve(store.acquire([once], ['a']));
    asked.catch(() => undefined);
    line.loseAnswers();
    await until(async () => (await server.tell('KEYS', `*bot ${bots}*once*`)) !== '', 'it has done it');
    await server.tell('ACL', 'SETUSER', 'default', '-evalsha', '-eval');
    await expect(asked).rejects.toMatchObject({ problem: 'refused' });
    await server.tell('ACL', 'SETUSER', 'default', '+@all');
    await until(async () => (await liveIn(store)).length === 0, 'what was taken is given back');
    await store.close();
  });
});
