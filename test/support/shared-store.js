/**
 * The store that several processes of a test share, by its name: a file’s path, `redis:PORT` or `cluster:PORT,PORT…`; the
 * same by the other client as `redis+ioredis:PORT`.
 */

import { fileStore } from '@taxeon/file-store';
import { redisStore } from '@taxeon/redis';
import { Cluster, Redis } from 'ioredis';
import { createClient, createCluster } from 'redis';

export function openShared(name, patience = '2s') {
  const [, kind, other, ports = ''] = /^(redis|cluster)(\+ioredis)?:([\d,]+)$/.exec(name) ?? [];
  if (kind === undefined) return fileStore({ path: name, patience });
  const all = ports.split(',').map(Number);
  const connection = other === undefined ? connectionTo(kind, all) : otherTo(kind, all);
  return redisStore(connection, { bot: 'mallet', patience });
}

function connectionTo(kind, ports) {
  const urls = ports.map((port) => ({ url: `redis://127.0.0.1:${port}` }));
  return kind === 'redis' ? createClient(urls[0]) : createCluster({ rootNodes: urls });
}

function otherTo(kind, ports) {
  const hosts = ports.map((port) => ({ host: '127.0.0.1', port }));
  return kind === 'redis' ? new Redis({ ...hosts[0], lazyConnect: true }) : new Cluster(hosts, { lazyConnect: true });
}
