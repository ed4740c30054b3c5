/** A real Redis server, or a cluster of six, on loopback ports. */
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { Cluster, Redis } from 'ioredis';
import { Cluster as Cluster5, Redis as Redis5 } from 'ioredis5';
import { createClient, createCluster } from 'redis';
import { createClient as createClient5, createCluster as createCluster5 } from 'redis5';
import type { RedisConnection } from 'taxeon/redis';
import { findProgram, freePort, listening, type Started, start, until } from './programs.js';

export interface RedisServer {
  readonly port: number;
  readonly pid: number;
  /** Asks the server by itself, as `redis-cli` does. */
  tell(...words: readonly string[]): Promise<string>;
  /** Ends it at once, with all that it has. */
  kill(): Promise<void>;
  /** On the same port, and empty. */
  begin(): Promise<void>;
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
  return {
    servers,
    ports,
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
