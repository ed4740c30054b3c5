/** The trials for registrars: on the simulated place, over HTTP, and on places with a defect each. */
import { readFileSync } from 'node:fs';
import { Validator } from '@seriousme/openapi-schema-validator';
import { type HttpRegistrarOptions, httpRegistrar } from '@taxeon/http';
import {
  emptyRegistrar,
  type RegistrarState,
  registrarEndpoint,
  standInRegistrar,
  virtualClock,
} from '@taxeon/testing';
import { type OpenedRegistrar, registrarTrials } from '@taxeon/testing/trials';
import { Ajv2020 as Ajv } from 'ajv/dist/2020.js';
import { Conflict, PlatformError, type Registrar, type RegistrationScope } from 'taxeon/platform';
import { differenceTo, manifestOf, register } from 'taxeon/registration';
import { afterEach, describe, expect, test, vi } from 'vitest';
import { oddmere } from '../../../test/support/oddmere.js';

const tokens = { demo: ['look', 'register'], looking: ['look'] };

/** A place that takes many changes at once, for each token. */
function place() {
  const clock = virtualClock(1_000_000);
  let state: RegistrarState = emptyRegistrar;
  const kept = {
    read: () => state,
    write(next: RegistrarState) {
      state = next;
    },
  };
  const rate = '1000 in 1m';
  return {
    open: (token: string): Registrar =>
      standInRegistrar({
        guilds: ['oddmere', 'workbench', 'pellbrook', 'everywhere'],
        tokens,
        token,
        clock,
        state: kept,
        rate,
      }),
  };
}

/** One that takes a single change, which is made. */
async function hurried(): Promise<Registrar> {
  const slow = standInRegistrar({ guilds: ['oddmere', 'everywhere'], tokens, token: 'demo', rate: '1 in 1m' });
  await slow.create('everywhere', { id: 'x', name: 'x', description: 'x', where: 'guild' }, 'trial');
  return slow;
}

function opened(change: (registrar: Registrar) => Partial<Registrar> = () => ({})): OpenedRegistrar {
  const { open } = place();
  const registrar = open('demo');
  let own = registrar;
  const through: Registrar = {
    ...registrar,
    read: (scope) => own.read(scope),
    create: (scope, form, by) => own.create(scope, form, by),
  };
  return {
    registrar: { ...through, ...change(through) },
    guild: 'oddmere',
    powerless: { ...open('looking'), ...change(open('looking')) },
    async hurry() {
      own = await hurried();
    },
  };
}

/** The mapping of the simulated place, as docs/registration.md has it. */
const at = (scope: RegistrationScope) =>
  `scopes/${scope === 'everywhere' ? scope : `guild:${encodeURIComponent(scope.guild)}`}/commands`;
const mapping = (token: string): HttpRegistrarOptions => ({
  name: 'stand-in',
  base: 'https://place.oddmere.example/api/',
  headers: { authorization: `Bearer ${token}` },
  limits: { nameLength: 28, descriptionLength: 90 },
  delay: { everywhere: '40m', guild: { ms: 0 } },
  read: (scope, page) => ({ method: 'GET', path: at(scope), query: { page } }),
  held: ({ get }) => get('commands'),
  next: ({ get }) => get('next'),
  create: (scope, form, by) => ({ method: 'POST', path: at(scope), body: { form, by } }),
  update: (scope, { id, version }, form) => ({
    method: 'PUT',
    path: `${at(scope)}/${encodeURIComponent(id)}`,
    headers: { 'if-match': `"${version}"` },
    body: { form },
  }),
  remove: (scope, { id, version }) => ({
    method: 'DELETE',
    path: `${at(scope)}/${encodeURIComponent(id)}`,
    headers: { 'if-match': `"${version}"` },
  }),
  scopes: (by) => ({ method: 'GET', path: 'scopes', query: { by } }),
  scopesOf: ({ get }) => get('scopes'),
});

afterEach(() => void vi.restoreAllMocks());

/** Answers what is fetched, and keeps what was said. */
function fetching(answer: (request: Request) => Response | Promise<Response>) {
  const said: { readonly request: Request; readonly sent: string; readonly response: Response }[] = [];
  vi.spyOn(globalThis, 'fetch').mockImplementation(async (input, init) => {
    const request = new Request(input, init);
    const sent = await request.clone().text();
    const response = await answer(request);
    said.push({ request, sent, response: response.clone() });
    return response;
  });
  return said;
}

function overHttp(guild = 'oddmere') {
  const { open } = place();
  let slow: Registrar | undefined;
  const endpoint = registrarEndpoint({ open: (token) => slow ?? open(token), pageSize: 10 });
  const said = fetching(endpoint);
  const probe: OpenedRegistrar = {
    registrar: httpRegistrar(mapping('demo')),
    guild,
    powerless: httpRegistrar(mapping('looking')),
    async hurry() {
      slow = await hurried();
    },
  };
  return { probe, said, open };
}

describe('the simulated place', () => {
  test.each(registrarTrials.map((trial) => [trial.name, trial] as const))('%s', async (_, trial) => {
    expect(await trial.run({ open: () => opened() })).toBeUndefined();
  });
});

describe('the same over HTTP', () => {
  const description = JSON.parse(readFileSync(new URL('../registrar.openapi.json', import.meta.url), 'utf8'));
  const ajv = new Ajv({ strict: false });
  ajv.addSchema({ ...description, $id: 'place' });

  test('is described by OpenAPI 3.1', async () => {
    const validator = new Validator();
    expect((await validator.validate(description)).errors).toBeUndefined();
    expect(validator.version).toBe('3.1');
  });

  // The second one's id is the name of all guilds together.
  describe.each(['oddmere', 'everywhere'])('in the guild %s', (guild) => {
    test.each(registrarTrials.map((trial) => [trial.name, trial] as const))('%s', async (_, trial) => {
      const { probe, said } = overHttp(guild);
      expect(await trial.run({ open: () => probe })).toBeUndefined();
      for (const one of said) await expectDescribed(one);
    });
  });

  /** The request and the answer are as the description says. */
  async function expectDescribed({ request, sent, response }: ReturnType<typeof fetching>[number]) {
    const path = new URL(request.url).pathname
      .replace('/api', '')
      .replace(/scopes\/[^/]+/, 'scopes/{scope}')
      .replace(/commands\/[^/]+$/, 'commands/{id}');
    const operation = description.paths[path]?.[request.method.toLowerCase()];
    expect(operation, `${request.method} ${path}`).toBeDefined();
    if (operation.requestBody !== undefined)
      expectShape(operation.requestBody.content['application/json'].schema, JSON.parse(sent));
    const said = operation.responses[response.status];
    expect(said, `${request.method} ${path} ${response.status}`).toBeDefined();
    const [, name] = /responses\/(\w+)$/.exec(said.$ref ?? '') ?? [];
    const { content = {} } = name === undefined ? said : description.components.responses[name];
    const type = response.headers.get('content-type');
    expect(Object.keys(content)).toEqual(type === null ? [] : [type]);
    if (type !== null) expectShape(content[type].schema, await response.json());
  }

  function expectShape(schema: object, body: unknown) {
    const validate = ajv.compile(JSON.parse(JSON.stringify(schema).replaceAll('#/components', 'place#/components')));
    validate(body);
    expect(validate.errors).toBeNull();
  }

  test('takes the whole of the demo bot, and finds it the same', async () => {
    const { probe, open } = overHttp();
    const { layer } = await oddmere();
    const manifest = manifestOf(layer);
    const done = await register(manifest, probe.registrar, { clock: virtualClock(1_000_000) });
    expect(done.created).toBeGreaterThan(10);
    for (const registrar of [probe.registrar, open('demo')]) {
      const { scopes } = await differenceTo(manifest, registrar);
      expect(scopes.flatMap(({ entries }) => entries.filter(({ state }) => state !== 'same'))).toEqual([]);
    }
  });
});

describe('a registrar over HTTP', () => {
  const lamp = { id: 'lamp', name: 'lamp', description: 'Light the lamp', where: 'guild' } as const;
  const json = (body: unknown, status = 200) => Response.json(body, { status });

  test.each<[string, () => Response | Promise<Response>, string]>([
    ['no JSON', () => new Response('<html>'), 'platform.failed'],
    ['no list', () => json({ commands: 'many' }), 'platform.failed'],
    [
      'pages without an end',
      (() => {
        let n = 0;
        return () => json({ commands: [], next: `p${n++}` });
      })(),
      'platform.failed',
    ],
    ['a page that goes on at itself', () => json({ commands: [], next: 'p1' }), 'platform.failed'],
    ['a page that is none', () => json({ commands: [], next: {} }), 'platform.failed'],
    ['more than it should hold', () => json({ commands: 'x'.repeat(2_000_001) }), 'platform.unreachable'],
    [
      'a way elsewhere',
      () => new Response(null, { status: 302, headers: { location: 'https://door.oddmere.example/' } }),
      'platform.failed',
    ],
    ['nothing', () => Promise.reject(new TypeError('fetch failed')), 'platform.unreachable'],
    ['401', () => json({}, 401), 'platform.forbidden'],
    ['404', () => json({}, 404), 'platform.gone'],
    ['500', () => new Response('<html>', { status: 500 }), 'platform.unreachable'],
    ['418', () => json({}, 418), 'platform.failed'],
  ])('tells what is answered with %s', async (_, answer, code) => {
    const said = fetching(answer);
    await expect(httpRegistrar(mapping('demo')).read('everywhere')).rejects.toMatchObject({ code });
    expect(said.length).toBeLessThanOrEqual(100);
    expect(new Set(said.map(({ request }) => new URL(request.url).host))).toEqual(
      new Set(said.length === 0 ? [] : ['place.oddmere.example']),
    );
  });

  test('whose commands are none is told of by who reads them', async () => {
    fetching(() => json({ commands: [{ id: 1 }] }));
    const { layer } = await oddmere();
    const reading = differenceTo(manifestOf(layer), httpRegistrar(mapping('demo')));
    await expect(reading).rejects.toMatchObject({ code: 'platform.failed', message: /is no list of commands/ });
  });

  test('tells what a system says in its own way, such as its own header for how long to wait', async () => {
    fetching(() => new Response('{"error":"busy"}', { status: 400, headers: { 'x-wait-ms': '1500' } }));
    const registrar = httpRegistrar({
      ...mapping('demo'),
      failure: ({ get, header }) =>
        get('error') === 'busy'
          ? { code: 'platform.slowed', retryAfter: { ms: Number(header('x-wait-ms')) } }
          : undefined,
    });
    await expect(registrar.create('everywhere', lamp, 'trial')).rejects.toMatchObject({
      code: 'platform.slowed',
      retryAfterMs: 1500,
    });
  });

  test('waits as long as a date says', async () => {
    const clock = virtualClock(Date.parse('2026-05-09T13:00:00Z'));
    fetching(() => new Response(null, { status: 503, headers: { 'retry-after': 'Sat, 09 May 2026 13:00:30 GMT' } }));
    await expect(httpRegistrar({ ...mapping('demo'), clock }).read('everywhere')).rejects.toMatchObject({
      code: 'platform.slowed',
      retryAfterMs: 30_000,
    });
  });

  test('that is lost in a change may have done it', async () => {
    fetching(() => Promise.reject(new TypeError('fetch failed')));
    await expect(httpRegistrar(mapping('demo')).create('everywhere', lamp, 'trial')).rejects.toMatchObject({
      code: 'platform.unreachable',
      mayHaveArrived: true,
    });
    fetching(() => json({}, 500));
    await expect(httpRegistrar(mapping('demo')).create('everywhere', lamp, 'trial')).rejects.toMatchObject({
      mayHaveArrived: true,
    });
  });

  test('never sends its headers elsewhere, nor tells them', async () => {
    const said = fetching(() => json({}, 403));
    for (const path of ['https://door.oddmere.example/', '//door.oddmere.example/', '/other', '../other']) {
      const registrar = httpRegistrar({ ...mapping('very-secret'), read: () => ({ method: 'GET', path }) });
      await expect(registrar.read('everywhere')).rejects.toThrow('does not lie behind `base`');
    }
    expect(said).toEqual([]);
    const refused = await Promise.resolve(httpRegistrar(mapping('very-secret')).read('everywhere')).catch(String);
    expect(refused).not.toContain('very-secret');
  });

  test.each<[object, string]>([
    [{}, '`base` is missing'],
    [{ ...mapping('demo'), base: 'chat' }, '`base` is no address'],
    [{ ...mapping('demo'), base: 'https://chat.oddmere.example/api' }, 'that ends with /'],
    [{ ...mapping('demo'), base: 'http://localhost/' }, '`local: true` allows that'],
    [{ ...mapping('demo'), headers: 'very-secret' }, '`headers` is no object'],
    [{ ...mapping('demo'), scopesOf: undefined }, '`scopes` and `scopesOf` go together'],
    [{ ...mapping('demo'), reads: () => ({}) }, '`reads` there is no such field; write read'],
  ])('is refused where it is given %j', (options, problem) => {
    expect(() => httpRegistrar(options as never)).toThrow(problem);
    expect(() => httpRegistrar(options as never)).not.toThrow('very-secret');
  });
});

/** Each is found by the trial that is named. */
describe('a place with a defect', () => {
  const defects: [name: string, change: (registrar: Registrar) => Partial<Registrar>][] = [
    [
      'has a name that can begin a key, and says how long people wait',
      () => ({ delayMs: { everywhere: Number.NaN, guild: 0 } }),
    ],
    [
      'holds a command with every field as it was registered',
      ({ create }) => ({ create: (scope, { names: _, ...form }, by) => create(scope, form, by) }),
    ],
    [
      'keeps what is everywhere apart from what is in a guild',
      ({ create }) => ({ create: (_, form, by) => create({ guild: 'oddmere' }, form, by) }),
    ],
    ['says who registered what', ({ create }) => ({ create: (scope, form) => create(scope, form, 'trial') })],
    [
      'keeps a command’s id when it changes, also its name, and gives it another version',
      ({ remove, create }) => ({
        async update(scope, held, form) {
          await remove(scope, held);
          await create(scope, form, held.by);
        },
      }),
    ],
    [
      'gives each command an id of its own',
      ({ read }) => ({ read: async (scope) => (await read(scope)).map((held) => ({ ...held, id: 'c' })) }),
    ],
    [
      'takes a command away, and no other',
      ({ read, remove }) => ({
        async remove(scope, held) {
          await remove(scope, held);
          const [first] = await read(scope);
          if (first !== undefined) await remove(scope, first);
        },
      }),
    ],
    [
      'takes no second command of a name',
      ({ read, update, create }) => ({
        async create(scope, form, by) {
          const there = (await read(scope)).find((one) => one.form.name === form.name);
          await (there === undefined ? create(scope, form, by) : update(scope, there, form));
        },
      }),
    ],
    [
      'overwrites nothing that another has changed meanwhile',
      ({ read, update }) => ({
        async update(scope, held, form) {
          const now = (await read(scope)).find(({ id }) => id === held.id);
          if (now === undefined) throw new Conflict('gone');
          await update(scope, now, form);
        },
      }),
    ],
    [
      'takes nothing away that another has changed meanwhile',
      ({ read, remove }) => ({
        async remove(scope, held) {
          const now = (await read(scope)).find(({ id }) => id === held.id);
          if (now === undefined) throw new Conflict('gone');
          await remove(scope, now);
        },
      }),
    ],
    [
      'tells where a command is gone that is to be changed or taken away',
      ({ remove }) => ({
        remove: async (scope, held) => {
          await Promise.resolve(remove(scope, held)).catch(() => undefined);
        },
      }),
    ],
    [
      'reads all that is held, however many',
      ({ read }) => ({ read: async (scope) => (await read(scope)).slice(0, 20) }),
    ],
    [
      'takes a name and a description as long as it claims',
      ({ create }) => ({
        create: async (scope, form, by) => {
          if (form.name.length > 27) throw new PlatformError('platform.failed', 'too long');
          await create(scope, form, by);
        },
      }),
    ],
    [
      'tells where there is no such guild',
      ({ read }) => ({ read: async (scope) => Promise.resolve(read(scope)).catch(() => []) }),
    ],
    ['tells who may not register', () => ({ create: async () => undefined })],
    [
      'asks to wait, and says how long, and does nothing meanwhile',
      ({ create }) => ({
        create: async (scope, form, by) => {
          try {
            await create(scope, form, by);
          } catch (error) {
            throw (error as PlatformError).code === 'platform.slowed'
              ? new PlatformError('platform.slowed', 'wait')
              : error;
          }
        },
      }),
    ],
    ['tells in which scopes something is registered', () => ({ scopes: async () => ['everywhere'] })],
  ];

  test.each(defects)('is found: %s', async (name, change) => {
    const trial = registrarTrials.find((one) => one.name === name);
    await expect(trial?.run({ open: () => opened(change) })).rejects.toThrow();
  });

  test('all trials but the one of an empty place have one', () => {
    const found = new Set(defects.map(([name]) => name));
    expect(registrarTrials.map(({ name }) => name).filter((name) => !found.has(name))).toEqual([
      'holds nothing that nobody registered',
    ]);
  });
});
