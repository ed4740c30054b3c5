/** A function of a developer's, a store's or a platform's that is to give something at once, and rejects: no process ends. */

import { httpRegistrar, type SlashEndpointOptions, slashEndpoint } from '@taxeon/http';
import { standIn } from '@taxeon/testing';
import { arg, type Call, command, createCommandLayer, guildSettings, type LayerOptions, memoryStore } from 'taxeon';
import { askInChat } from 'taxeon/asking';
import { type Platform, paced } from 'taxeon/platform';
import { complete, explain } from 'taxeon/queries';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { oddmereData, silentLog } from '../../../test/support/oddmere.js';

const unhandled: string[] = [];
const listen = (error: unknown) => void unhandled.push(String(Object(error).message));
let others: NodeJS.UnhandledRejectionListener[] = [];
beforeAll(() => {
  others = process.listeners('unhandledRejection');
  process.removeAllListeners('unhandledRejection');
  process.on('unhandledRejection', listen);
});
afterAll(() => {
  process.off('unhandledRejection', listen);
  for (const other of others) process.on('unhandledRejection', other);
});

const no = (what: string) => (): never => Promise.reject(new Error(what)) as never;
const { world } = oddmereData();
const { directory } = standIn(world);
const capabilities = { privateReplies: 'never', eventIds: false } as const;
const store = memoryStore();
const methods = <T extends object>(of: T) =>
  Object.keys(of).filter((name) => typeof of[name as keyof T] === 'function') as (keyof T & string)[];

type Case = readonly [
  what: string,
  options?: Partial<LayerOptions>,
  declared?: object | undefined,
  platform?: Partial<Platform>,
];
const throws = { run: () => Promise.reject(new Error('handled')) };
const language = { locale: 'pl', messages: { 'argument.invalid': no('a message') }, words: {} } as never;
const cases: readonly Case[] = [
  ['log', { log: { error: no('error'), warn: no('warn'), info: no('info') } }, throws],
  ['reference', { reference: no('reference') }, throws],
  ['a message', { messages: { 'argument.invalid': no('message'), 'command.unknown': no('message') } }],
  ['a language', { languages: [language], locale: 'pl' }],
  ['onRefusal', { onRefusal: no('onRefusal') }],
  ['onUnknown', { onUnknown: no('onUnknown') } as object],
  ['around', { around: no('around') }],
  ['commands', { commands: no('commands') }],
  ['run', {}, { run: no('run') }],
  ['requires', {}, { requires: no('requires') }],
  [
    'a condition',
    {},
    { requires: ({ condition }: never) => [(condition as (...of: unknown[]) => never)('c', no('c'))] } as never,
  ],
  ...(['key', 'cost', 'exempt'] as const).map(
    (name): Case => [
      name,
      {},
      { cooldowns: { shelf: { allow: '1 in 1m', key: () => 'k', [name]: no(name) } } } as never,
    ],
  ),
  ['map', {}, { args: { n: arg.integer().map(no('map')) } }],
  ['map of a list', {}, { args: { n: arg.list(arg.integer().map(no('map'))) } }],
  ['default', {}, { args: { n: arg.integer({ default: no('default') }) } }],
  ['complete', {}, { args: { n: arg.text({ complete: no('complete') }) } }],
  [
    'a kind',
    {},
    { args: { n: arg.custom({ name: 'c', expected: 'c', example: 'c', read: no('read'), write: no('write') }) } },
  ],
  ...['deliver', 'measure', 'hold', 'edit', 'remove', 'typing', 'tell', 'post', 'removeInput', 'form', 'guilds'].map(
    (name): Case => [`platform.${name}`, {}, undefined, { [name]: no(name) }],
  ),
  ...methods(directory).map(
    (name): Case => [
      `directory.${name}`,
      {},
      {
        args: { who: arg.member() },
        requires: (({ caller, bot }: never) => [
          (caller as { outranks(of: string): never }).outranks('who'),
          (bot as { can(of: string): never }).can('x'),
        ]) as never,
      },
      { directory: { ...directory, [name]: no(name) } },
    ],
  ),
  ['pace', {}, undefined, { capabilities: { ...capabilities, pace: { turn: no('turn') } } }],
  ['weigh', {}, undefined, { capabilities: { ...capabilities, pace: paced('5 in 1s', { weigh: no('weigh') }) } }],
  ...methods(store).map((name): Case => {
    const broken = { ...store, [name]: no(name) };
    return [
      `store.${name}`,
      {
        store: broken,
        repeats: 'store',
        asking: askInChat(),
        settings: guildSettings({ store: broken, log: silentLog }),
      },
      { cooldowns: { user: '5 in 1m' } },
    ];
  }),
];

test.each(cases)('%s', async (_, options, declared, platform) => {
  const own = { ...standIn(world), ...(platform as object) };
  const write = (text: string) => own.typed({ person: 'ines', place: 'oddmere', text });
  try {
    const lamp = command({
      name: 'lamp',
      description: 'Light it',
      in: 'guild',
      async run(call: Call) {
        await call.tell(call.caller as never, 'x');
        await call.post({ id: 'oddmere/counter', name: 'counter' }, 'y');
        await call.removeInput();
        await call.reply('z');
        return { tone: 'info', body: 'done' };
      },
      ...(declared as object),
    } as never);
    const layer = createCommandLayer({
      commands: [lamp],
      prefixes: ['!'],
      log: silentLog,
      damping: 'off',
      ...(options as object),
    });
    await layer.connected(own);
    for (const text of ['!lamp', '!lamp 3', '!lamp x', '!lamp @wren', '@mallet lamp', '!nothing', 'chat'])
      await layer.handle(write(text), own);
    await layer.handle(own.invoked({ person: 'ines', place: 'oddmere', path: ['lamp'], options: { n: '3' } }), own);
    await complete(layer, write('!lamp '), 6, own);
    await explain(layer, write('!lamp 3'), own);
    await layer.close({ within: '100ms' });
  } catch {
    // That a wrong declaration is told is what other tests are about.
  }
  await new Promise((done) => setTimeout(done, 5));
  expect(unhandled.splice(0)).toEqual([]);
});

test.each(['proof', 'read', 'markup', 'answer', 'held', 'send', 'tell', 'post', 'guilds', 'waitUntil', 'log'])(
  'an endpoint’s %s',
  async (name) => {
    const slow = command({
      name: 'slow',
      description: 'Take a while',
      async run(call: Call) {
        await call.tell(call.caller as never, 'x');
        await call.post({ id: 'c', name: 'c' }, 'y');
        await new Promise((done) => setTimeout(done, 120));
        return 'z';
      },
    });
    const layer = createCommandLayer({ commands: [slow], log: silentLog });
    const options: SlashEndpointOptions = {
      proof: () => true,
      read: ({ get }) => ({ id: get('event'), caller: { id: 'ines' }, command: 'slow' }),
      deadline: '100ms',
      send: () => undefined,
      tell: () => undefined,
      post: () => undefined,
      ...{ [name]: name === 'log' ? { error: no('error'), warn: no('warn') } : no(name) },
    };
    const endpoint = slashEndpoint(layer, options);
    const headers = { 'content-type': 'application/json' };
    const post = () => new Request('https://bot.oddmere.example/', { method: 'POST', headers, body: '{"event":"e1"}' });
    await endpoint(post(), name === 'waitUntil' ? { waitUntil: no('waitUntil') } : undefined);
    await endpoint(new Request('https://bot.oddmere.example/', { method: 'PUT' }));
    await new Promise((done) => setTimeout(done, 150));
    await layer.close({ within: '100ms' });
    expect(unhandled.splice(0)).toEqual([]);
  },
);

test.each(['read', 'held', 'next', 'create', 'update', 'remove', 'failure'])('a registrar’s %s', async (name) => {
  const before = globalThis.fetch;
  let status = 200;
  globalThis.fetch = async () => new Response('{}', { status });
  try {
    const asked = { method: 'GET', path: 'commands' };
    const registrar = httpRegistrar({
      base: 'https://chat.oddmere.example/',
      limits: {},
      delay: { everywhere: '1s', guild: '1s' },
      read: () => asked,
      held: () => [],
      next: () => undefined,
      create: () => asked,
      update: () => asked,
      remove: () => asked,
      failure: () => undefined,
      ...{ [name]: no(name) },
    } as never);
    const { read, create, update, remove } = registrar as unknown as Record<
      string,
      (...of: unknown[]) => Promise<unknown>
    >;
    for (status of [200, 500])
      for (const one of [read, create, update, remove]) await one?.('everywhere', {}, {}).catch(() => undefined);
  } finally {
    globalThis.fetch = before;
  }
  await new Promise((done) => setTimeout(done, 5));
  expect(unhandled.splice(0)).toEqual([]);
});
