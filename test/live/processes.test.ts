/** What the processes of a bot share, whatever their store: a file, a Redis server, a cluster. */
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { standIn } from '@taxeon/testing';
import { command, createCommandLayer, guildSettings, plainText } from 'taxeon';
import { askInChat } from 'taxeon/asking';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import {
  type RedisCluster,
  type RedisServer,
  startCluster,
  startRedis,
} from '../../packages/redis/test/support/redis.js';
import { fine } from '../support/asking.js';
import { codeOf, oddmere, oddmereData, silentLog } from '../support/oddmere.js';
import { isMissing, script, start, until } from '../support/programs.js';
import { openShared } from '../support/shared-store.js';

const folder = mkdtempSync(join(tmpdir(), 'oddmere-processes-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));
const world = join(folder, 'world.json');
writeFileSync(world, JSON.stringify(oddmereData().world));

let files = 0;
let server: RedisServer;
let cluster: RedisCluster;
const isWithoutRedis = isMissing('redis-server');
beforeAll(async () => {
  if (!isWithoutRedis) [server, cluster] = await Promise.all([startRedis(), startCluster()]);
});
afterAll(() => Promise.all([server?.stop(), cluster?.stop()]));

const newFile = (name: string) => {
  files += 1;
  return join(folder, `${name}-${files}`);
};
/** By name: whether it is there, and an empty one. */
const stores: Readonly<Record<string, readonly [isMissing: boolean, empty: () => Promise<string>]>> = {
  'a file': [false, async () => newFile('mallet.db')],
  'a Redis server': [
    isWithoutRedis,
    async () => {
      await server.tell('FLUSHALL');
      return `redis:${server.port}`;
    },
  ],
  'a cluster': [
    isWithoutRedis,
    async () => {
      await Promise.all(cluster.servers.map(({ tell }) => tell('FLUSHALL')));
      return `cluster:${cluster.ports.join(',')}`;
    },
  ],
};

/** Another process, which has been told a line of Ines'. */
async function asker(store: string, line: string) {
  const { child, out } = start(process.execPath, [script('asker.js'), store, world, line]);
  await until(() => out() !== '', 'the other process has answered');
  return { out: out(), kill: () => child.kill('SIGKILL') };
}

/** A process of ours on the same store. */
async function opened(name: string) {
  const platform = standIn(oddmereData().world);
  const store = openShared(name);
  const layer = createCommandLayer({ commands: [fine], prefixes: ['!'], store, log: silentLog, asking: askInChat() });
  await platform.serve(layer);
  const says = async (text: string) => {
    const { posts } = await platform.send(platform.typed({ person: 'ines', place: 'oddmere/counter', text }));
    return posts.map(({ notice }) => notice.body).join();
  };
  return { platform, says, close: () => layer.close().then(() => store.close()) };
}

describe.each(Object.entries(stores))('processes on %s', (_, [isLeftOut, empty]) => {
  describe.skipIf(isLeftOut)('share', () => {
    test('a cooldown that was taken before one of them died', async () => {
      const name = await empty();
      const { out } = await start(process.execPath, [script('settler.js'), name, 'cooldown']).finished;
      expect(out).toBe('taken\n');
      const store = openShared(name);
      const kept = { id: 'kept', uses: 1, windowMs: 600_000 };
      expect(await store.acquire([kept], ['wren'])).toMatchObject({ granted: false });
      await store.close();
    });

    test('a setting that one changes, within a second', async () => {
      const name = await empty();
      const store = openShared(name);
      const settings = guildSettings({ store, log: silentLog });
      const lamp = command({ name: 'lamp', description: 'Light the lamp', run: () => 'The lamp is lit.' });
      const scene = await oddmere(() =>
        createCommandLayer({ commands: [lamp], prefixes: ['!'], store, settings, log: silentLog }),
      );
      expect((await scene.types('wren', '!lamp')).outcome.status).toBe('completed');
      await start(process.execPath, [script('settler.js'), name, 'settings']).finished;
      await until(
        async () => (await scene.types('wren', '%lamp')).outcome.status === 'completed',
        'the new prefix holds',
        1000,
      );
      await store.close();
    });

    test('a running limit, until the lease of one that was killed is over', async () => {
      const name = await empty();
      const other = start(process.execPath, [script('settler.js'), name, 'running', world]);
      await until(() => other.out() === 'running\n', 'the other process runs it');
      const store = openShared(name);
      const stocktake = command({ name: 'stocktake', description: 'Count', running: { guild: 1 }, run: () => 'Done.' });
      const { types } = await oddmere(() =>
        createCommandLayer({ commands: [stocktake], prefixes: ['!'], store, lease: '1s', log: silentLog }),
      );
      const tried = async () => codeOf((await types('wren', '!stocktake')).outcome);
      // It is renewed for as long as its process lives.
      await new Promise((resolve) => setTimeout(resolve, 1200));
      expect(await tried()).toBe('running.full');
      other.child.kill('SIGKILL');
      await until(async () => (await tried()) === 'completed', 'its place is free', 3000);
      await store.close();
    });

    test('one registration, where four start at once', async () => {
      const name = await empty();
      const registry = newFile('registry.json');
      await openShared(name).close();
      const processes = Array.from({ length: 4 }, () =>
        start(process.execPath, [script('registering.js'), name, registry]),
      );
      const finished = await Promise.all(processes.map(({ finished: done }) => done));
      expect(finished.map(({ err }) => err)).toEqual(['', '', '', '']);
      const told = finished.map(({ out }) => JSON.parse(out) as { outcome: string; created: number; calls: number });
      expect(told.map(({ outcome, created }) => `${outcome} ${created}`).sort()).toEqual([
        'carried-out 8',
        'unchanged 0',
        'unchanged 0',
        'unchanged 0',
      ]);
      expect(told.filter(({ outcome }) => outcome === 'unchanged').map(({ calls }) => calls)).toEqual([1, 1, 1]);
      const { held } = JSON.parse(readFileSync(registry, 'utf8')) as { held: { everywhere: unknown[] } };
      expect(held.everywhere).toHaveLength(8);
    });

    test('a question, whose answer another takes that heard of it', async () => {
      const name = await empty();
      const one = await opened(name);
      const other = await asker(name, '!fine Tobias');
      expect(other.out).toBe('waiting\n');
      await until(async () => (await one.says('50')) === 'Tobias pays 50.', 'the answer is taken', 1500);
      expect(await one.says('50')).toBe('');
      await one.close();
      other.kill();
    });

    test('a question of one that was killed since', async () => {
      const name = await empty();
      const other = await asker(name, '!fine Tobias');
      expect(other.out).toBe('waiting\n');
      other.kill();
      const one = await opened(name);
      await until(async () => (await one.says('50')) === 'Tobias pays 50.', 'the answer is taken', 1500);
      await one.close();
    });
  });
});

describe.skipIf(isWithoutRedis).each(['redis', 'redis+ioredis', 'cluster', 'cluster+ioredis'])(
  'a process that closes its store on %s',
  (kind) => {
    test.each([0, 3, 10, 30, 100, 300])('after %i ms ends by itself', async (afterMs) => {
      const ports = kind.startsWith('redis') ? [server.port] : cluster.ports;
      const closer = start(process.execPath, [script('closer.js'), `${kind}:${ports.join(',')}`, String(afterMs)]);
      const ended = await Promise.race([
        closer.finished,
        new Promise<undefined>((resolve) => setTimeout(resolve, 8000, undefined)),
      ]);
      closer.child.kill('SIGKILL');
      expect(ended).toMatchObject({ status: 0, err: '' });
    });
  },
);

test('a handler’s question whose process was killed is told to be over', async () => {
  const path = newFile('mallet.db');
  const other = await asker(path, '!fine Tobias 50');
  expect(other.out).toBe('Sure?\n');
  other.kill();
  const one = await opened(path);
  const told = () => one.platform.posts.map(({ notice }) => plainText(notice)).join();
  await until(() => told() !== '', 'the person was told', 10_000);
  expect(told()).toBe('I had to restart, so I do not wait for your answer any more. Please begin again.');
  await one.close();
});
