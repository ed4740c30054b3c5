/** A thread that posts by several connections, and tells how long each answer took: asked by messages. */
import { Agent, request } from 'node:http';
import { parentPort } from 'node:worker_threads';

/** What is to be posted. */
export interface Posting {
  readonly port: number;
  readonly path: string;
  readonly connections: number;
  readonly posts: readonly { readonly headers: Readonly<Record<string, string>>; readonly body: string }[];
}

const agents = new Map<number, Agent>();

parentPort?.on('message', async ({ port, path, connections, posts }: Posting) => {
  let agent = agents.get(port);
  if (agent === undefined) {
    agent = new Agent({ keepAlive: true, maxSockets: connections });
    agents.set(port, agent);
  }
  const took: number[] = [];
  let next = 0;
  async function connection(): Promise<void> {
    for (let post = posts[next++]; post !== undefined; post = posts[next++]) {
      const begun = performance.now();
      const status = await posted(port, path, agent as Agent, post);
      if (status !== 200) throw new Error(`${path} answered with ${status}`);
      took.push(performance.now() - begun);
    }
  }
  await Promise.all(Array.from({ length: connections }, connection));
  parentPort?.postMessage(took);
});

function posted(
  port: number,
  path: string,
  agent: Agent,
  { headers, body }: Posting['posts'][number],
): Promise<number> {
  return new Promise((resolve, reject) => {
    const asking = request({ port, host: '127.0.0.1', path, method: 'POST', agent, headers }, (response) => {
      response.resume();
      response.on('end', () => resolve(response.statusCode ?? 0));
    });
    asking.on('error', reject);
    asking.end(body);
  });
}
