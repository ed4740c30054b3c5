/** The store that several processes of a test share, by its name: a file’s path, `redis:PORT` or `cluster:PORT,PORT…`. */
import { createClient, createCluster } from 'redis';
import { fileStore } from 'taxeon/file-store';
import { redisStore } from 'taxeon/redis';

export function openShared(name, patience = '2s') {
  const [, kind, ports = ''] = /^(redis|cluster):([\d,]+)$/.exec(name) ?? [];
  if (kind === undefined) return fileStore({ path: name, patience });
  const [url, ...others] = ports.split(',').map((port) => `redis://127.0.0.1:${port}`);
  const connection =
    kind === 'redis'
      ? createClient({ url })
      : createCluster({ rootNodes: [url, ...others].map((one) => ({ url: one })) });
  return redisStore(connection, { bot: 'mallet', patience });
}
