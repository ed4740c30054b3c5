/** An endpoint on a real server: what is slow, endless, cut off or sent twice. */
import { createServer, request as httpRequest, type IncomingMessage } from 'node:http';
import { type AddressInfo, connect } from 'node:net';
import { createAdaptorServer } from '@hono/node-server';
import { type Proof, sharedSecret, signatures, slashEndpoint } from '@taxeon/http';
import { type RedisConnection, redisStore } from '@taxeon/redis';
import { command, createCommandLayer, type Duration } from 'taxeon';
import { afterEach, expect, test } from 'vitest';
import { silentLog } from '../../../../test/support/oddmere.js';
import { freePort, isMissing, until } from '../../../../test/support/programs.js';
import { clients, startRedis } from '../../../redis/test/support/redis.js';
import { origin, signedPost, signingKey } from '../support/signing.js';

const leaving: (() => unknown)[] = [];
afterEach(async () => {
  for (const leave of leaving.splice(0).reverse()) await leave();
});

const secret = 'the-secret-of-the-front-desk';

async function listening(server: ReturnType<typeof createServer>, port = 0): Promise<number> {
  await new Promise<void>((resolve) => server.listen(port, '127.0.0.1', resolve));
  leaving.push(() => {
    server.closeAllConnections();
    return new Promise((resolve) => server.close(resolve));
  });
  return (server.address() as AddressInfo).port;
}

/** The bot behind a server, and the system that takes late answers. */
async function desk(
  options: {
    readonly time?: Duration;
    readonly deadline?: `${number}ms`;
    readonly proof?: Parameters<typeof slashEndpoint>[1]['proof'];
  } = {},
) {
  const own = await freePort();
  const late: string[] = [];
  const system = createServer((request, response) => {
    void textOf(request).then((text) => {
      late.push(text);
      response.end();
    });
  });
  const answerTo = `http://127.0.0.1:${await listening(system)}/calls/1`;
  const ran = new Map<string, number>();
  let finish = () => {};
  const finished = new Promise<void>((resolve) => {
    finish = resolve;
  });
  const count = (id: string) => ran.set(id, (ran.get(id) ?? 0) + 1);
  const commands = [
    command({
      name: 'lamp',
      description: 'Light the lamp',
      run({ inputId = '' }) {
        count(inputId);
        return 'The lamp is lit.';
      },
    }),
    command({
      name: 'slow',
      description: 'Take a while',
      async run({ inputId = '' }) {
        count(inputId);
        await finished;
        return 'At last.';
      },
    }),
  ];
  const layer = createCommandLayer({ commands, log: silentLog });
  const endpoint = slashEndpoint(layer, {
    proof: options.proof ?? sharedSecret({ header: 'x-desk', secrets: [secret] }),
    read: ({ get }) => ({
      id: get('event'),
      caller: { id: get('person') },
      command: get('command') ?? 'lamp',
      answerTo: get('answerTo'),
    }),
    answers: { origins: [new URL(answerTo).origin], local: true },
    origin: `http://127.0.0.1:${own}`,
    limits: { time: options.time ?? '1s' },
    ...(options.deadline === undefined ? {} : { deadline: options.deadline }),
  });
  const server = createAdaptorServer({ fetch: (request) => endpoint(request) }) as ReturnType<typeof createServer>;
  const port = await listening(server, own);
  const url = `http://127.0.0.1:${port}/slash`;
  const post = (body: object, init: RequestInit = {}) =>
    fetch(url, {
      method: 'POST',
      headers: { 'content-type': 'application/json', 'x-desk': secret },
      body: JSON.stringify({ person: 'wren', ...body }),
      ...init,
    });
  return { layer, late, answerTo, ran, finish: () => finish(), post, port, url, server };
}

async function textOf(message: IncomingMessage): Promise<string> {
  let text = '';
  for await (const part of message) text += part;
  return text;
}

/** Writes bytes as they are, and gives what comes back until the server is done. */
function raw(port: number, ...parts: readonly string[]): Promise<string> {
  return new Promise((resolve) => {
    let said = '';
    const socket = connect(port, '127.0.0.1', () => {
      for (const part of parts) socket.write(part);
    });
    socket.on('data', (data) => {
      said += data;
      if (/\r\n\r\n/.test(said)) socket.destroy();
    });
    socket.on('error', () => undefined);
    socket.on('close', () => resolve(said));
    leaving.push(() => socket.destroy());
  });
}

/** Strangers who send all but the body, and hold on to what they have. */
async function strangers(port: number, howMany: number, head: string): Promise<void> {
  const connecting = Array.from({ length: howMany }, () => {
    const socket = connect(port, '127.0.0.1', () => socket.write(head));
    leaving.push(() => socket.destroy());
    socket.on('error', () => undefined);
    socket.resume();
    return new Promise<void>((resolve) => socket.on('connect', resolve));
  });
  await Promise.all(connecting);
}

const head = (length: number, more = '') =>
  `POST /slash HTTP/1.1\r\nhost: desk\r\ncontent-type: application/json\r\nx-desk: ${secret}\r\ncontent-length: ${length}\r\n${more}\r\n`;

test('ten megabytes, ten thousand headers and a body that trickles are turned away; nothing runs, and memory stays', async () => {
  const { port, ran, post, url } = await desk({ time: '300ms' });
  await post({ event: 'warm' });
  const before = process.memoryUsage().rss;
  expect(
    (
      await fetch(url, {
        method: 'POST',
        headers: { 'content-type': 'application/json', 'x-desk': secret },
        body: 'x'.repeat(10_000_000),
      }).catch(() => ({ status: 413 }))
    ).status,
  ).toBe(413);
  // Without a length that tells: part by part.
  const endless = new ReadableStream<Uint8Array>({ pull: (controller) => controller.enqueue(new Uint8Array(65_536)) });
  const chunked = await fetch(url, {
    method: 'POST',
    headers: { 'content-type': 'application/json', 'x-desk': secret },
    body: endless,
    duplex: 'half',
  } as RequestInit).catch(() => ({ status: 413 }));
  expect(chunked.status).toBe(413);
  const many = Array.from({ length: 10_000 }, (_, n) => `x-${n}: 1\r\n`).join('');
  expect(await raw(port, head(2, many), '{}')).toMatch(/^HTTP\/1\.1 431 /);
  const some = Array.from({ length: 150 }, (_, n) => `x-${n}: 1\r\n`).join('');
  expect(await raw(port, head(2, some), '{}')).toMatch(/^HTTP\/1\.1 431 /);
  const trickling = Array.from({ length: 200 }, () => raw(port, head(1000), '{"event"'));
  expect((await post({ event: 'meanwhile' })).status).toBe(200);
  for (const said of await Promise.all(trickling)) expect(said).toMatch(/^HTTP\/1\.1 408 /);
  expect([...ran.keys()]).toEqual(['warm', 'meanwhile']);
  expect(process.memoryUsage().rss - before).toBeLessThan(150e6);
});

test.each(['a secret', 'a signature', 'a check that reads the body'])(
  'two thousand strangers stall, and a genuine post is taken by %s',
  async (way) => {
    const { signer, verifying } = await signingKey('ed25519');
    const proof: Proof | undefined =
      way === 'a secret'
        ? undefined
        : way === 'a signature'
          ? signatures({ keys: { desk: verifying } })
          : async ({ body }) => new TextDecoder().decode(await body()).includes('wren');
    const { port, url, ran } = await desk({ time: '30s', ...(proof === undefined ? {} : { proof }) });
    const stalling = head(1000).replace(secret, 'another-secret-than-that');
    await strangers(port, 2000, stalling);
    const post = await signedPost(JSON.stringify({ event: 'e1', person: 'wren' }), {
      signer,
      keyid: 'desk',
      at: Date.now(),
      url,
      headers: { 'x-desk': secret },
    });
    expect((await fetch(post)).status).toBe(200);
    expect([...ran.keys()]).toEqual(['e1']);
  },
);

test('an absolute address in the request line chooses nothing', async () => {
  const { signer, verifying } = await signingKey('ed25519');
  const { port, ran } = await desk({ proof: signatures({ keys: { desk: verifying } }) });
  const body = JSON.stringify({ event: 'e1', person: 'wren' });
  const { headers, url } = await signedPost(body, { signer, keyid: 'desk', at: Date.now() });
  const lines = [...headers].map(([name, value]) => `${name}: ${value}\r\n`).join('');
  const rest = `${lines}host: ${new URL(url).host}\r\ncontent-length: ${body.length}\r\n\r\n`;
  expect(await raw(port, `POST ${url} HTTP/1.1\r\n${rest}`, body)).toMatch(/^HTTP\/1\.1 401 /);
  expect(ran.size).toBe(0);
});

test('a connection that is closed loses no answer that its address takes', async () => {
  const { post, late, answerTo, finish, ran } = await desk();
  const leave = new AbortController();
  const response = post({ event: 'e1', command: 'slow', answerTo }, { signal: leave.signal });
  await until(() => ran.has('e1'), 'it runs');
  leave.abort();
  await expect(response).rejects.toThrow();
  // The server must have seen it.
  await new Promise((done) => setTimeout(done, 100));
  finish();
  await until(() => late.length > 0, 'the address has it');
  expect(JSON.parse(late[0] ?? '')).toMatchObject({ text: 'At last.' });
  // Posted again, it runs no second time.
  expect((await post({ event: 'e1', command: 'slow', answerTo })).status).toBe(202);
  expect(ran.get('e1')).toBe(1);
});

test('a held answer comes at its address, and a server that stops loses none', async () => {
  const { post, late, answerTo, layer, ran, finish } = await desk({ deadline: '400ms' });
  const held = await post({ event: 'e1', command: 'slow', answerTo });
  expect(held.status).toBe(202);
  const open = post({ event: 'e2', command: 'slow' });
  await until(() => ran.has('e2'), 'the second runs');
  setTimeout(finish, 100);
  expect(await layer.close()).toEqual({ aborted: 0 });
  expect(late.map((text) => JSON.parse(text).text)).toEqual(['At last.']);
  expect(await (await open).json()).toMatchObject({ text: 'At last.' });
  expect((await post({ event: 'e3' })).status).toBe(503);
});

test('a client that reads slowly has its answer', async () => {
  const { port } = await desk();
  const body = JSON.stringify({ event: 'e1', person: 'wren' });
  const said = await new Promise<string>((resolve, reject) => {
    const asking = httpRequest({
      port,
      method: 'POST',
      headers: { 'content-type': 'application/json', 'x-desk': secret },
    });
    asking.on('response', (response) => {
      response.pause();
      setTimeout(() => void textOf(response).then(resolve, reject), 300);
    });
    asking.on('error', reject);
    asking.end(body);
  });
  expect(JSON.parse(said)).toMatchObject({ text: 'The lamp is lit.' });
});

test('a thousand posts by twenty connections, each tenth once more: each runs once, and both have the same answer', async () => {
  const { signer, verifying } = await signingKey('ed25519');
  const { ran, url } = await desk({ proof: signatures({ keys: { desk: verifying } }) });
  const posts = Array.from({ length: 1000 }, (_, n) => `e${n}`).flatMap((event, n) =>
    n % 10 === 0 ? [event, event] : [event],
  );
  const answered = new Map<string, string[]>();
  async function connection(): Promise<void> {
    for (let event = posts.shift(); event !== undefined; event = posts.shift()) {
      const body = JSON.stringify({ event, person: 'wren' });
      const response = await fetch(await signedPost(body, { signer, keyid: 'desk', at: Date.now(), url }));
      answered.set(event, [...(answered.get(event) ?? []), `${response.status} ${await response.text()}`]);
    }
  }
  await Promise.all(Array.from({ length: 20 }, connection));
  expect([ran.size, new Set(ran.values())]).toEqual([1000, new Set([1])]);
  expect([...answered.values()].flat()).toHaveLength(1100);
  expect(new Set([...answered.values()].flat())).toEqual(
    new Set(['200 {"text":"The lamp is lit.","visibleTo":"everyone"}']),
  );
});

test.skipIf(isMissing('redis-server'))(
  'two processes on one Redis server: a post to both runs once, both answer the same, and a nonce counts once',
  async () => {
    const redis = await startRedis();
    leaving.push(() => redis.stop());
    const { signer, verifying } = await signingKey('ecdsa-p256-sha256');
    const ran: string[] = [];
    const clientOf = clients['redis 6'] ?? Object.values(clients)[0];
    const desks = [1, 2].map((number) => {
      const store = redisStore(clientOf?.(redis.port) as RedisConnection, { bot: 'mallet', log: silentLog });
      leaving.push(() => store.close());
      const lamp = command({
        name: 'lamp',
        description: 'Light the lamp',
        async run({ inputId = '' }) {
          ran.push(inputId);
          await new Promise((done) => setTimeout(done, 20));
          return `Lit by ${number}.`;
        },
      });
      const layer = createCommandLayer({ commands: [lamp], log: silentLog, store, repeats: 'store' });
      leaving.push(() => layer.close());
      return slashEndpoint(layer, {
        proof: signatures({ keys: { desk: verifying } }),
        origin,
        read: ({ get }) => ({ id: get('event'), caller: { id: get('person') }, command: 'lamp' }),
      });
    });
    const post = (event: string) =>
      signedPost(JSON.stringify({ event, person: 'wren' }), { signer, keyid: 'desk', at: Date.now() });
    const events = Array.from({ length: 40 }, (_, n) => `e${n}`);
    await Promise.all(
      events.map(async (event) => {
        const posts = await Promise.all(desks.map(async (endpoint) => endpoint(await post(event))));
        const [one, two] = await Promise.all(posts.map(async (response) => [response.status, await response.text()]));
        expect(two).toEqual(one);
        expect(one?.[0]).toBe(200);
      }),
    );
    expect(ran.sort()).toEqual([...events].sort());
    const once = await post('again');
    const copies = [once.clone(), once.clone(), once];
    const statuses = await Promise.all(copies.map(async (copy, n) => (await desks[n % 2]?.(copy))?.status));
    expect(statuses.sort()).toEqual([200, 401, 401]);
  },
);
