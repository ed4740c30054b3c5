/** Nothing from outside is trusted to have the right form, and none of it throws out of `handle`. */

import { runUntil, type StandIn, standIn, virtualClock } from '@taxeon/testing';
import { command, createCommandLayer, type LayerOptions, memoryStore, type Store } from 'taxeon';
import type { Input, Platform } from 'taxeon/platform';
import { explain } from 'taxeon/queries';
import { describe, expect, test } from 'vitest';
import { codeOf, liveIn, oddmereData, startOfAfternoon } from '../../../test/support/oddmere.js';

const described = { description: 'Something' };
const throws = () => {
  throw new Error('no');
};

function scene(options: Partial<LayerOptions> = {}, run: () => unknown = () => 'The lamp is lit.') {
  const clock = virtualClock(startOfAfternoon);
  const platform = standIn(oddmereData().world, { clock });
  const logged: string[] = [];
  let ran = 0;
  const lamp = command({
    ...described,
    name: 'lamp',
    running: { everyone: 1 },
    run: () => {
      ran += 1;
      return run() as string;
    },
  });
  const layer = createCommandLayer({
    commands: [lamp],
    prefixes: ['!'],
    clock,
    log: { warn: () => undefined, error: (_fields, message) => void logged.push(message) },
    ...options,
  });
  const typed = (more: object = {}) =>
    ({ ...platform.typed({ person: 'wren', place: 'oddmere', text: '!lamp' }), ...more }) as Input;
  const invoked = (more: object = {}) =>
    ({ ...platform.invoked({ person: 'wren', place: 'oddmere', path: ['lamp'] }), ...more }) as Input;
  const handle = (input: unknown, on: unknown = platform) => layer.handle(input as Input, on as Platform);
  return { layer, platform, clock, logged, typed, invoked, handle, ran: () => ran };
}

type Given = Record<string, unknown>;
const wren = { kind: 'member', id: 'wren', name: 'Wren', roles: [], permissions: new Set(), rank: 1, ownsGuild: false };

describe('an input that is none', () => {
  const inputs: [string, unknown][] = [
    ['nothing', undefined],
    ['null', null],
    ['a text', '!lamp'],
    ['an empty object', {}],
  ];
  const changed: [string, Given][] = [
    ['surface: null', { surface: null }],
    ['another surface', { surface: 'voice' }],
    ['no caller', { caller: undefined }],
    ['a caller without id', { caller: { ...wren, id: undefined } }],
    ['a caller with an empty id', { caller: { ...wren, id: '' } }],
    ['a caller with an endless id', { caller: { ...wren, id: 'x'.repeat(100_000) } }],
    ['a caller whose id is a number', { caller: { ...wren, id: 7 } }],
    ['a caller without name', { caller: { ...wren, name: null } }],
    ['a caller of no kind', { caller: { ...wren, kind: 'ghost' } }],
    ['roles that are no list', { caller: { ...wren, roles: 'steward' } }],
    ['a role that is nothing', { caller: { ...wren, roles: [null] } }],
    ['permissions in a list', { caller: { ...wren, permissions: ['fine'] } }],
    ['no place', { place: undefined }],
    ['a place of no kind', { place: { kind: 'moon' } }],
    ['a guild without id', { place: { kind: 'guild', guild: { name: 'x' }, channel: { id: 'c', name: 'c' } } }],
    ['a channel that is nothing', { place: { kind: 'direct', channel: null } }],
    ['an id that is a number', { id: 7 }],
    ['a time that is a text', { at: 'now' }],
    ['a time that is no number', { at: Number.NaN }],
  ];
  const ofText: [string, Given][] = [
    ['text: 7', { text: 7 }],
    ['no text', { text: undefined }],
    ['a list for a text', { text: ['!lamp'] }],
  ];
  const ofSlash: [string, Given][] = [
    ['no path', { path: undefined }],
    ['a path that is a text', { path: 'lamp' }],
    ['a path of numbers', { path: [7] }],
    ['options that are a text', { options: 'x' }],
    ['options: null', { options: null }],
  ];

  test.each(inputs)('%s', async (_, input) => {
    const { handle, ran, logged } = scene();
    expect(await handle(input)).toEqual({ status: 'ignored', because: 'malformed' });
    expect([ran(), logged]).toEqual([0, ['A platform gave what is no input']]);
  });

  test.each([...changed, ...ofText])('on text: %s', async (_, more) => {
    const { handle, typed, ran, layer } = scene();
    expect((await handle(typed(more))).status).toBe('ignored');
    expect((await explain(layer, typed({ ...more })).catch(() => ({ status: 'ignored' }))).status).toBe('ignored');
    expect(ran()).toBe(0);
  });

  test.each([...changed, ...ofSlash])('by slash: %s', async (_, more) => {
    const { handle, invoked, ran } = scene();
    expect(await handle(invoked(more))).toEqual({ status: 'ignored', because: 'malformed' });
    expect(ran()).toBe(0);
  });

  test.each([null, 7, {}, 'x'.repeat(1e6)])('a language that is none, %j, is as good as none', async (locale) => {
    const { handle, typed, ran } = scene();
    expect((await handle(typed({ locale: typeof locale === 'string' ? locale : locale }))).status).toBe('completed');
    expect(ran()).toBe(1);
  });

  test('of a getter that throws', async () => {
    const { handle, typed } = scene();
    const input = Object.defineProperty({ ...typed() }, 'text', {
      get() {
        throw new Error('no');
      },
    });
    expect((await handle(input)).status).toBe('ignored');
  });
});

describe('a platform that is none', () => {
  const platforms: [string, (right: StandIn) => unknown][] = [
    ['null', () => null],
    ['an empty object', () => ({})],
    ['without a name', (right) => ({ ...right, name: undefined })],
    ['with a / in its name', (right) => ({ ...right, name: 'stand-in/oddmere' })],
    ['without capabilities', (right) => ({ ...right, capabilities: undefined })],
    ['without a directory', (right) => ({ ...right, directory: undefined })],
    ['with half a directory', (right) => ({ ...right, directory: { self: () => undefined } })],
    ['that delivers nothing', (right) => ({ ...right, deliver: undefined })],
  ];
  test.each(platforms)('%s', async (_, made) => {
    const { handle, invoked, typed, platform, ran } = scene();
    for (const input of [invoked(), typed()]) {
      expect(await handle(input, made(platform))).toEqual({ status: 'ignored', because: 'malformed' });
    }
    expect(ran()).toBe(0);
  });

  const answers: [string, unknown][] = [
    ['a promise of nonsense', Promise.resolve(7)],
    ['a promise that is none', Object.fromEntries([['then', 7]])],
    ['a hostile promise', Object.fromEntries([['then', throws]])],
    ['null', null],
  ];
  test.each(answers)('that gives for what it delivered %s', async (_, given) => {
    const { handle, invoked, platform } = scene();
    const outcome = await handle(invoked(), { ...platform, deliver: () => given });
    expect(outcome.status).toBe('completed');
  });

  test('that cannot measure: the call is settled, and the running place is free again', async () => {
    const { handle, invoked, platform } = scene({}, () => 'long '.repeat(1000));
    const broken = {
      ...platform,
      measure: () => {
        throw new Error('no ruler');
      },
    };
    for (let n = 0; n < 2; n++) {
      expect(await handle(invoked(), broken)).toMatchObject({
        status: 'completed',
        delivery: { delivered: false, code: 'platform.failed' },
      });
    }
  });
});

describe('an answer that is none is a failure with a reference', () => {
  const answers: [string, unknown][] = [
    ['a number', 7],
    ['a body that is no text', { body: 7 }],
    ['details: ‘x’', { body: 'x', details: 'x' }],
    ['details of numbers', { body: 'x', details: [7] }],
    ['heading: null', { body: 'x', heading: null }],
    ['a tone of its own', { body: 'x', tone: 'loud' }],
    ['visible to nobody', { body: 'x', visibleTo: 'nobody' }],
    ['an expiry that does not read', { body: 'x', expires: 'soon' }],
    ['an amount that is a text', { body: 'x', amount: '3 of 5' }],
  ];
  test.each(answers)('%s', async (_, answer) => {
    const { handle, invoked, typed, platform } = scene({}, () => answer);
    const outcome = await handle(invoked());
    expect(outcome).toMatchObject({ status: 'failed', code: 'handler.failed' });
    expect(platform.posts.at(-1)?.notice.body).toMatch(/^Something went wrong on my side/);
    // The place that it took is free again.
    expect(codeOf(await handle(typed()))).toBe('handler.failed');
  });

  test.each(answers)('of a hook: %s; the catalogue’s stands', async (_, answer) => {
    const { handle, typed, platform, logged } = scene({ onRefusal: () => answer as never });
    expect(codeOf(await handle(typed({ text: '!lamp too much' })))).toBe('argument.extra');
    expect(platform.posts.at(-1)?.notice.body).toBe('I do not know what to do with “too much”.');
    expect(logged).toEqual(['onRefusal failed']);
  });

  test.each([7, null, {}])('of a message of one’s own: %j', async (given) => {
    const { handle, typed, platform } = scene({ messages: { 'argument.extra': () => given as never } });
    expect(codeOf(await handle(typed({ text: '!lamp too much' })))).toBe('argument.extra');
    expect(platform.posts.at(-1)?.notice.body).toMatch(/^Something went wrong on my side/);
  });

  test.each([
    () => 7,
    () => '',
    () => 'x'.repeat(1000),
    () => {
      throw new Error('no');
    },
  ])('of what makes references: one is made', async (reference) => {
    const { handle, typed } = scene({ reference: reference as never }, () => 7);
    expect(await handle(typed())).toMatchObject({ parameters: { reference: expect.stringMatching(/^.{3,40}$/) } });
  });
});

describe('a store that answers with nonsense refuses', () => {
  const verdicts: unknown[] = [undefined, null, true, {}, { granted: 'yes' }, { granted: true }, { granted: false }, 7];
  test.each(verdicts)('%j', async (verdict) => {
    for (const give of [() => verdict, async () => verdict]) {
      const store = { ...memoryStore(), acquire: give as Store['acquire'] };
      const { handle, typed, ran } = scene({ store });
      expect(codeOf(await handle(typed()))).toBe('store.unavailable');
      expect(ran()).toBe(0);
    }
  });

  test('and what it grants too late is given back', async () => {
    const inner = memoryStore();
    let given = 0;
    const store: Store = {
      ...inner,
      acquire: (...asked) => new Promise((done) => opened.clock.after(40, () => done(inner.acquire(...asked)))),
      giveBack: (...asked) => {
        given += 1;
        return inner.giveBack(...asked);
      },
    };
    const opened = scene({ store, storePatience: '10ms' });
    const { handle, typed, ran, clock } = opened;
    expect(codeOf(await runUntil(clock, handle(typed())))).toBe('store.unavailable');
    clock.advance(60);
    await new Promise((done) => setTimeout(done, 0));
    expect([given, ran(), await liveIn(inner)]).toEqual([1, 0, []]);
  });
});

describe('closing ends in the time it was given', () => {
  const never = () => new Promise<never>(() => undefined);
  const hanging: [string, (of: ReturnType<typeof scene>) => Promise<void>][] = [
    ['a serving that never closes', async ({ layer, platform }) => layer.connected(platform, { close: never })],
    [
      'a serving that throws',
      async ({ layer, platform }) =>
        layer.connected(platform, {
          close() {
            throw new Error('no');
          },
        }),
    ],
    [
      'a removal that never settles',
      async ({ handle, typed, platform }) => {
        const capabilities = { ...platform.capabilities, expires: false };
        await handle(typed({ text: '!lamp' }), { ...platform, capabilities, remove: never });
      },
    ],
  ];
  test.each(hanging)('whatever hangs: %s', async (_, begin) => {
    const opened = scene({}, () => ({ body: 'x', expires: '1h' }));
    await begin(opened);
    const closed = await runUntil(opened.clock, opened.layer.close({ within: '1s' }));
    expect(closed).toEqual({ aborted: 0 });
    expect(opened.clock.now() - startOfAfternoon).toBeLessThan(10_000);
  });
});
