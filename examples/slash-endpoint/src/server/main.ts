/**
 * The server of the example, on this machine alone: `/slash` is the bot's, all else is the chat's.
 * `node dist/server/server.js [--port 8787]`
 */
import { readFileSync } from 'node:fs';
import type { Server } from 'node:http';
import { createRequire } from 'node:module';
import type { AddressInfo } from 'node:net';
import { fileURLToPath } from 'node:url';
import { parseArgs } from 'node:util';
import { createAdaptorServer } from '@hono/node-server';
import { getConnInfo } from '@hono/node-server/conninfo';
import { serveStatic } from '@hono/node-server/serve-static';
import type { DemoData } from '@oddmere/tool-library';
import { Hono } from 'hono';
import { bodyLimit } from 'hono/body-limit';
import { streamSSE } from 'hono/streaming';
import { manifestOf } from 'taxeon/registration';
import { parse } from 'yaml';
import { openBot } from './bot.js';
import { Chat } from './chat.js';

const { values } = parseArgs({ options: { port: { type: 'string', default: '8787' } } });
const file = createRequire(import.meta.url).resolve('@oddmere/tool-library/data/oddmere.yaml');
const data = parse(readFileSync(file, 'utf8')) as DemoData;
const chat = new Chat();
const app = new Hono();
const server = createAdaptorServer({
  fetch: app.fetch,
  // Who opens connections and says nothing must not keep others out.
  serverOptions: { headersTimeout: 5_000, requestTimeout: 10_000, connectionsCheckingInterval: 1_000 },
}) as Server;
server.maxConnections = 1_000;
await new Promise<void>((resolve, reject) => {
  server.once('error', reject);
  server.listen(Number(values.port), '127.0.0.1', resolve);
}).catch((error: Error) => {
  console.error(`There is no listening at port ${values.port}: ${error.message}. Give another with --port.`);
  process.exit(1);
});
const origin = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;

const { layer, endpoint } = openBot(
  data,
  (id) => chat.keyOf(id),
  origin,
  { tell: (person, { text }) => chat.say({ only: person, text }), post: (_, { text }) => chat.say({ text }) },
  console,
);

// Another page of the same browser cannot send this type without being asked for leave, which nobody gives.
app.use('/chat/*', async (context, next) => {
  const { method } = context.req;
  const isJson = context.req.header('content-type') === 'application/json';
  if (context.req.header('host') !== new URL(origin).host || (method !== 'GET' && !isJson))
    return context.text('This is for the page of this server alone', 403);
  return next();
});
app.use('/chat/*', bodyLimit({ maxSize: 65_536 }));

app.post('/slash', (context) => endpoint(context.req.raw, { address: getConnInfo(context).remote.address }));
app.get('/chat/about', (context) =>
  context.json({ commands: manifestOf(layer).commands, world: data.world, tools: data.tools['oddmere'] }),
);
app.post('/chat/keys', async (context) => {
  const { id, key } = await context.req.json<{ readonly id: string; readonly key: JsonWebKey }>();
  chat.addKey(String(id).slice(0, 100), key);
  return context.body(null, 204);
});
app.post('/chat/calls/:call/:person', async (context) => {
  const { call, person } = context.req.param();
  const { text, visibleTo, tone } = await context.req.json<Readonly<Record<string, string | undefined>>>();
  chat.say({
    call,
    text: String(text),
    ...(tone === undefined ? {} : { tone }),
    ...(visibleTo === 'caller' ? { only: person } : {}),
  });
  return context.body(null, 204);
});
app.get('/chat/messages', (context) =>
  streamSSE(context, async (stream) => {
    const stop = chat.listen((message) => void stream.writeSSE({ data: JSON.stringify(message) }));
    await new Promise<void>((resolve) => stream.onAbort(resolve));
    stop();
  }),
);
app.get('*', serveStatic({ root: fileURLToPath(new URL('../page', import.meta.url)) }));

console.log(`Mallet answers at ${origin}/slash; the chat is at ${origin}/`);

for (const signal of ['SIGINT', 'SIGTERM'] as const)
  process.once(signal, async () => {
    // The layer first: what is still to be said is said while the server listens.
    await layer.close();
    server.close();
    // Pages listen to messages for ever.
    if ('closeAllConnections' in server) server.closeAllConnections();
  });
