/** A Redis server of this example's own, on a free port, which keeps nothing. */
import { spawn } from 'node:child_process';
import { once } from 'node:events';
import { createServer } from 'node:net';
import { tmpdir } from 'node:os';
import { createClient } from 'redis';

export interface Server {
  readonly url: string;
  stop(): Promise<void>;
}

/** @throws Error where the program is not installed */
export async function startServer(): Promise<Server> {
  const port = await freePort();
  const child = spawn(
    'redis-server',
    ['--port', String(port), '--bind', '127.0.0.1', '--save', '', '--dir', tmpdir()],
    { stdio: 'ignore' },
  );
  await new Promise<void>((resolve, reject) => {
    child.once('spawn', resolve);
    child.once('error', () => reject(new Error('redis-server is not installed: apt-get install redis-server')));
  });
  const url = `redis://127.0.0.1:${port}`;
  const client = createClient({ url });
  client.on('error', () => undefined);
  await client.connect();
  client.destroy();
  return {
    url,
    async stop() {
      child.kill();
      await once(child, 'exit');
    },
  };
}

async function freePort(): Promise<number> {
  const server = createServer().listen(0, '127.0.0.1');
  await once(server, 'listening');
  const address = server.address();
  server.close();
  if (address === null || typeof address === 'string') throw new Error('There is no free port');
  return address.port;
}
