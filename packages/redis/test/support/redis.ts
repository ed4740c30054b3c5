/** A real Redis server, or a cluster of six, on loopback ports. */
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { RedisConnection } from '@taxeon/redis';
import { Cluster, Redis } from 'ioredis';
import { Cluster as Cluster5, Redis as Redis5 } from 'ioredis5';
import { createClient, createCluster } from 'redis';
import { createClient as createClient5, createCluster as createCluster5 } from 'redis5';
import { findProgram, freePort, listening, type Started, start, until } from '../../../../test/support/programs.js';

export interface RedisServer {
  readonly port: number;
  readonly pid: number;
  /** Asks the server by itself, as `redis-cli` does. */
  tell(...words: readonly string[]): Promise<string>;
  /** Ends it at once, with all that it has. */
  kill(): Promise<void>;
  /** On the same port, and empty. */
  begin(): Promise<void>;
  isUp(): boolean;
  pause(): void;
  goOn(): void;
  stop(): Promise<void>;
}

export async function startRedis(options: readonly string[] = [], givenPort?: number): Promise<RedisServer> {
  const folder = mkdtempSync(join(tmpdir(), 'oddmere-redis-'));
  const port = givenPort ?? (await freePort());
  let started: Started;
  const args = ['--port', String(port), '--bind', '127.0.0.1', '--save', '', '--appendonly', 'no', '--dir', folder];
  const begin = async () => {
    started = start(findProgram('redis-server') ?? 'redis-server', [...args, ...options]);
    await listening(port);
    await until(async () => (await ask(port, 'PING')) === 'PONG', 'the server answers');
  };
  await begin();
  return {
    port,
    get pid() {
      return started.child.pid as number;
    },
    tell: (...words) => ask(port, ...words),
    async kill() {
      started.child.kill('SIGKILL');
      await started.finished;
    },
    begin,
    isUp: () => started.child.exitCode === null && started.child.signalCode === null,
    pause: () => void started.child.kill('SIGSTOP'),
    goOn: () => void started.child.kill('SIGCONT'),
    async stop() {
      started.child.kill('SIGCONT');
      started.child.kill('SIGKILL');
      await started.finished;
      rmSync(folder, { recursive: true, force: true });
    },
  };
}

async function ask(port: number, ...words: readonly string[]): Promise<string> {
  const { out } = await start('redis-cli', ['-p', String(port), ...words]).finished;
  return out.trim();
}

export interface RedisCluster {
  readonly servers: readonly RedisServer[];
  readonly ports: readonly number[];
  /** The server that has a key now. */
  primaryOf(key: string): Promise<RedisServer>;
  /** Moves the slot of a key, and all that is in it, to another primary. */
  moveSlotOf(key: string): Promise<void>;
  stop(): Promise<void>;
}

/** Three primaries, each with a replica. */
export async function startCluster(): Promise<RedisCluster> {
  const options = ['--cluster-enabled', 'yes', '--cluster-node-timeout', '1000', '--repl-diskless-sync-delay', '0'];
  const servers = await Promise.all(
    Array.from({ length: 6 }, async () => {
      // Its bus listens 10,000 above.
      let port = await freePort();
      while (port > 55_000) port = await freePort();
      return startRedis(options, port);
    }),
  );
  const ports = servers.map(({ port }) => port);
  const addresses = ports.map((port) => `127.0.0.1:${port}`);
  await start('redis-cli', ['--cluster', 'create', ...addresses, '--cluster-replicas', '1', '--cluster-yes']).finished;
  await until(
    async () =>
      (await Promise.all(servers.map(({ tell }) => tell('CLUSTER', 'INFO')))).every((info) =>
        /cluster_state:ok/.test(info),
      ),
    'the cluster is well',
  );
  await until(async () => {
    const all = await Promise.all(servers.map(({ tell }) => tell('INFO', 'replication')));
    return all.filter((info) => /master_link_status:up/.test(info)).length === 3;
  }, 'the replicas follow');
  const well = () => servers.find((server) => server.isUp()) as RedisServer;
  const primaryOf = async (key: string) => {
    const slot = Number(await well().tell('CLUSTER', 'KEYSLOT', key));
    const shards = (await well().tell('CLUSTER', 'NODES')).split('\n');
    const owner = shards.find((line) =>
      line
        .split(' ')
        .slice(8)
        .some((range) => {
          const [from = -1, to = from] = range.split('-').map(Number);
          return line.includes('master') && !line.includes('fail') && slot >= from && slot <= to;
        }),
    );
    const port = Number(/:(\d+)@/.exec(owner ?? '')?.[1]);
    return servers.find((server) => server.port === port) as RedisServer;
  };
  return {
    servers,
    ports,
    primaryOf,
    async moveSlotOf(key) {
      const [slot, source] = [await well().tell('CLUSTER', 'KEYSLOT', key), await primaryOf(key)];
      const primaries = new Set(await Promise.all(['a', 'b', 'c', 'd', 'e', 'f'].map(primaryOf)));
      const target = [...primaries].find((one) => one !== source) as RedisServer;
      const [to, from] = await Promise.all([target.tell('CLUSTER', 'MYID'), source.tell('CLUSTER', 'MYID')]);
      await target.tell('CLUSTER', 'SETSLOT', slot, 'IMPORTING', from);
      await source.tell('CLUSTER', 'SETSLOT', slot, 'MIGRATING', to);
      for (;;) {
        const names = (await source.tell('CLUSTER', 'GETKEYSINSLOT', slot, '100'))
          .split('\n')
          .filter((name) => name !== '');
        if (names.length === 0) break;
        for (const name of names) await source.tell('MIGRATE', '127.0.0.1', String(target.port), name, '0', '1000');
      }
      for (const server of [target, source]) await server.tell('CLUSTER', 'SETSLOT', slot, 'NODE', to);
    },
    async stop() {
      await Promise.all(servers.map((server) => server.stop()));
    },
  };
}

/** The clients that a store takes, by name. */
export const clients: Readonly<Record<string, (port: number) => RedisConnection>> = {
  'redis 6': (port) => createClient({ url: `redis://127.0.0.1:${port}` }),
  'redis 5': (port) => createClient5({ url: `redis://127.0.0.1:${port}` }),
  'ioredis 6': (port) => new Redis({ host: '127.0.0.1', port, lazyConnect: true }),
  'ioredis 5': (port) => new Redis5({ host: '127.0.0.1', port, lazyConnect: true }),
};

export const clusterClients: Readonly<Record<string, (ports: readonly number[]) => RedisConnection>> = {
  'redis 6': (ports) => createCluster({ rootNodes: ports.map((port) => ({ url: `redis://127.0.0.1:${port}` })) }),
  'redis 5': (ports) => createCluster5({ rootNodes: ports.map((port) => ({ url: `redis://127.0.0.1:${port}` })) }),
  'ioredis 6': (ports) =>
    new Cluster(
      ports.map((port) => ({ host: '127.0.0.1', port })),
      { lazyConnect: true },
    ),
  'ioredis 5': (ports) =>
    new Cluster5(
      ports.map((port) => ({ host: '127.0.0.1', port })),
      { lazyConnect: true },
    ),
};
