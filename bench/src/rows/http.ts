/** Posts to an endpoint, over posts to one that answers at once on the same server. */
import { randomUUID } from 'node:crypto';
import type { Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { fileURLToPath } from 'node:url';
import { Worker } from 'node:worker_threads';
import { createAdaptorServer } from '@hono/node-server';
import { type Proof, sharedSecret, signatures, slashEndpoint } from '@taxeon/http';
import { appendSignature, createSignature, webcrypto } from 'http-message-sig';
import { layeredBot } from '../bots/layered.js';
import { guild, idsOf, movableClock, place, rememberingPlatform } from '../bots/oddmere.js';
import type { Posting } from '../http-client.js';
import { quantile, spreadOf } from '../measure/compare.js';
import type { Figure, Row } from '../measure/row.js';

const POSTS = 1000;
const CONNECTIONS = 20;
/** Every so many are posted once more. */
const TWICE_EVERY = 10;
const ROUNDS = 40;
const WARM_UP = 15;
const secret = 'the-secret-of-the-front-desk';

type Post = Posting['posts'][number];

interface System {
  readonly proof: Proof;
  /** @param now by the bot's clock, in milliseconds since 1970-01-01 UTC */
  sign(url: string, body: string, now: number): Promise<Post>;
}

const bySecret: System = {
  proof: sharedSecret({ header: 'x-desk', secrets: [secret] }),
  sign: async (_, body) => ({ headers: { 'content-type': 'application/json', 'x-desk': secret }, body }),
};

async function bySignature(): Promise<System> {
  const { privateKey, publicKey } = await crypto.subtle.generateKey('Ed25519', false, ['sign', 'verify']);
  const signer = webcrypto.signer(privateKey);
  return {
    proof: signatures({ keys: { desk: { algorithm: 'ed25519', key: publicKey } } }),
    async sign(url, body, now) {
      const bytes = new Uint8Array(await crypto.subtle.digest('SHA-256', new TextEncoder().encode(body)));
      const headers = {
        'content-type': 'application/json',
        'content-digest': `sha-256=:${Buffer.from(bytes).toString('base64')}:`,
      };
      const fields = await createSignature(new Request(url, { method: 'POST', headers }), {
        components: ['@method', '@target-uri', 'content-type', 'content-digest'],
        parameters: { created: Math.floor(now / 1000), keyid: 'desk', nonce: randomUUID() },
        signer,
      });
      return { headers: Object.fromEntries(appendSignature(new Headers(headers), fields)), body };
    },
  };
}

/** The 99th of a hundred answers, ours over the server's floor: each round both, by the same connections. */
async function p99Of({ proof, sign }: System): Promise<Figure> {
  const clock = movableClock();
  const layer = layeredBot({ clock });
  let ran = 0;
  layer.on('completed', () => {
    ran += 1;
  });
  const { directory } = rememberingPlatform({ replies: [] });
  const server = createAdaptorServer({
    fetch: (request) => (request.url.endsWith('/slash') ? endpoint(request) : floor(request)),
  }) as Server;
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  const { port } = server.address() as AddressInfo;
  const origin = `http://127.0.0.1:${port}`;
  const endpoint = slashEndpoint(layer, {
    proof,
    origin,
    read: ({ get }) => ({
      id: get('event'),
      caller: { id: get('person'), permissions: ['fine'], rank: 30 },
      place: { guild, channel: place.channel },
      command: 'fine',
      options: get('options'),
    }),
    directory,
  });
  const floor = async (request: Request) => {
    await request.text();
    return Response.json({ text: '' });
  };
  const client = new Worker(fileURLToPath(new URL('../http-client.js', import.meta.url)));
  const timesOf = (path: string, posts: readonly Post[]) =>
    new Promise<number[]>((resolve) => {
      client.once('message', resolve);
      client.postMessage({ port, path, connections: CONNECTIONS, posts } satisfies Posting);
    });

  let events = 0;
  const people = idsOf(POSTS);
  async function posts(url: string): Promise<Post[]> {
    const all: Post[] = [];
    for (let n = 0; n < POSTS; n++) {
      const options = { who: '[p:person-0000000000002]', pence: 50, note: 'late again' };
      const body = JSON.stringify({ event: `e${++events}`, person: people[n], options });
      for (let times = n % TWICE_EVERY === 0 ? 2 : 1; times > 0; times--) all.push(await sign(url, body, clock.now()));
    }
    return all;
  }

  const ratios: number[] = [];
  const sides: [ours: number[], floor: number[]] = [[], []];
  for (let round = 0; round < WARM_UP + ROUNDS; round++) {
    clock.moveOn(round === 0 ? 0 : 61_000);
    const before = ran;
    const given = await posts(`${origin}/slash`);
    const took = [await timesOf('/slash', given), await timesOf('/floor', given)].map((all) => quantile(all, 0.99));
    if (ran - before !== POSTS) throw new Error(`${ran - before} ran of ${POSTS} by accident`);
    if (round < WARM_UP) continue;
    const [ours = 0, yardstick = 0] = took;
    ratios.push(ours / yardstick);
    sides[0].push(ours);
    sides[1].push(yardstick);
  }
  await client.terminate();
  server.closeAllConnections();
  await new Promise((resolve) => server.close(resolve));
  const [oursNs = 0, yardstickNs = 0] = sides.map((all) => spreadOf(all).value * 1e6);
  return { ...spreadOf(ratios), oursNs, yardstickNs };
}

const what = `the 99th of a hundred answers to ${POSTS} posts by ${CONNECTIONS} connections, each tenth twice`;

export const onHttp: readonly Row[] = [
  {
    name: 'http-secret',
    what: `${what}, proved by a secret, over an address of the same server that answers at once`,
    goal: 2.5,
    unit: '×',
    measure: () => p99Of(bySecret),
  },
  {
    name: 'http-signed',
    what: 'the same, signed with Ed25519, its nonce remembered',
    goal: 5,
    unit: '×',
    measure: async () => p99Of(await bySignature()),
  },
];
