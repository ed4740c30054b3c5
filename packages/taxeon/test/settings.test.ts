import { setFlagsFromString } from 'node:v8';
import { runInNewContext } from 'node:vm';
import { injectFaults, runUntil, standIn, virtualClock } from '@taxeon/testing';
import {
  command,
  createCommandLayer,
  type GuildSettings,
  guildSettings,
  type LayerOptions,
  type Log,
  memoryStore,
  type Store,
} from 'taxeon';
import { emptyDirectory, type Input, type Platform } from 'taxeon/platform';
import { explain } from 'taxeon/queries';
import { describe, expect, test } from 'vitest';
import { codeOf, oddmereData, silentLog, startOfAfternoon } from '../../../test/support/oddmere.js';

const tick = (ms = 0) => new Promise((done) => setTimeout(done, ms));

/** The library decides: another prefix, and Wren may not light the lamp. */
const decided: GuildSettings = { prefixes: ['?'], rules: [{ command: 'lamp', member: 'wren', verdict: 'deny' }] };

type Read = Store['read'];

/** A layer whose guilds' settings come from a store that behaves so. */
async function libraryOn(
  read: (inner: Read) => Read,
  {
    settings = decided as unknown,
    isStill = false,
    ...options
  }: Partial<Omit<LayerOptions, 'settings'>> & { settings?: unknown; isStill?: boolean } = {},
) {
  const clock = virtualClock(startOfAfternoon);
  const inner = memoryStore({ clock });
  await inner.compareAndSet(
    'settings/stand-in/oddmere',
    0,
    typeof settings === 'string' ? settings : JSON.stringify(settings),
  );
  const store: Store = { ...inner, read: read(inner.read) };
  const platform = standIn(oddmereData().world, { clock });
  const logged: string[] = [];
  let ran = 0;
  const lamp = command({
    name: 'lamp',
    description: 'Light the lamp',
    run: () => {
      ran += 1;
      return 'The lamp is lit.';
    },
  });
  const log: Log = { error: (_fields, message) => void logged.push(message), warn: () => undefined };
  const layer = createCommandLayer({
    commands: [lamp],
    prefixes: ['!'],
    settings: guildSettings({ store, log }),
    storePatience: '30ms',
    damping: 'off',
    clock,
    log,
    ...options,
  });
  await (isStill ? platform.serve(layer) : runUntil(clock, platform.serve(layer)));
  const ended = async (input: Input) =>
    codeOf((await (isStill ? platform.send(input) : runUntil(clock, platform.send(input)))).outcome);
  const types = (text: string, person = 'ines', place = 'oddmere') => ended(platform.typed({ person, place, text }));
  const invokes = (person = 'ines', place = 'oddmere') => ended(platform.invoked({ person, place, path: ['lamp'] }));
  return { clock, inner, platform, layer, logged, types, invokes, ran: () => ran };
}

describe('nothing stands in for a guild’s settings that were not read', () => {
  const unreadable: [string, (inner: Read) => Read, unknown][] = [
    ['hangs', () => () => new Promise(() => undefined), decided],
    ['throws', () => () => fail(), decided],
    ['rejects', () => () => Promise.reject(new Error('no')), decided],
    ['holds nonsense', (inner) => inner, 'prefixes: ?'],
    ['holds a wrong setting', (inner) => inner, { ...decided, timeZone: 'Moon' }],
    ['answers with nonsense', () => () => Promise.resolve({ value: 7, version: 'x' } as never), decided],
  ];
  test.each(unreadable)('in a store that %s: on the first, second and hundredth input', async (_, read, settings) => {
    const library = await libraryOn(read, { settings });
    for (let count = 1; count <= 100; count++) {
      // Somebody who is denied, by every surface, and with the layer's own prefix as with the guild's.
      expect(await library.invokes('wren')).toBe('store.unavailable');
      expect(await library.types('@mallet lamp', 'wren')).toBe('store.unavailable');
      const input = library.platform.invoked({ person: 'wren', place: 'oddmere', path: ['lamp'] });
      expect((await runUntil(library.clock, explain(library.layer, input, library.platform))).code).toBe(
        'store.unavailable',
      );
      expect(await library.types('good morning', 'wren')).toBe('ignored');
      expect(await library.types('?lamp', 'wren')).toBe('ignored');
      // The prefix may be another bot's there, so that is told once a minute.
      expect(await library.types('!lamp', 'wren')).toBe(count === 1 ? 'store.unavailable' : 'ignored');
    }
    library.clock.advance(60_000);
    expect(await library.types('!lamp', 'wren')).toBe('store.unavailable');
    expect(library.ran()).toBe(0);
    expect(library.logged.length).toBeLessThanOrEqual(2);
    expect(await library.invokes('ines', 'direct')).toBe('completed');
  });

  test('a slow store is waited for, once for all who ask meanwhile', async () => {
    let reads = 0;
    const slow =
      (inner: Read): Read =>
      async (key) => {
        if (key === 'settings/stand-in/oddmere') reads += 1;
        await tick(5);
        return inner(key);
      };
    const library = await libraryOn(slow, { isStill: true });
    const all = [
      library.types('?lamp'),
      library.types('?lamp', 'wren'),
      library.types('!lamp'),
      library.invokes('wren'),
    ];
    expect(await Promise.all(all)).toEqual(['completed', 'permission.caller', 'ignored', 'permission.caller']);
    for (let count = 4; count <= 100; count++) expect(await library.types('?lamp')).toBe('completed');
    expect([reads, await library.types('!lamp')]).toEqual([1, 'ignored']);
  });

  test('one that failed is asked again after growing pauses', async () => {
    let failing = true;
    let reads = 0;
    const library = await libraryOn((inner) => (key) => {
      reads += 1;
      return failing ? Promise.reject(new Error('not now')) : inner(key);
    });
    const askedAt: number[] = [];
    for (let second = 0; second < 40; second++) {
      const before = reads;
      expect(await library.invokes()).toBe('store.unavailable');
      if (reads > before) askedAt.push(second);
      library.clock.advance(1000);
    }
    // It was asked for the first time when the platform was connected.
    expect(askedAt).toEqual([1, 3, 7, 15, 31]);
    failing = false;
    library.clock.advance(60_000);
    expect([await library.types('?lamp'), await library.types('?lamp', 'wren')]).toEqual([
      'completed',
      'permission.caller',
    ]);
  });

  test('the last good state holds while what another process has changed does not read', async () => {
    let failing = false;
    let failed = 0;
    const library = await libraryOn((inner) => (key) => {
      if (!failing) return inner(key);
      failed += 1;
      return Promise.reject(new Error('not now'));
    });
    expect(await library.types('?lamp', 'wren')).toBe('permission.caller');
    failing = true;
    const changed = { ...decided, prefixes: ['%'] };
    await library.inner.compareAndSet('settings/stand-in/oddmere', 1, JSON.stringify(changed));
    for (let time = 0; time < 3; time++) library.inner.publish('settings', 'stand-in/oddmere');
    await tick();
    expect([await library.types('?lamp', 'wren'), failed]).toEqual(['permission.caller', 1]);
    failing = false;
    library.clock.advance(1000);
    await tick();
    expect([await library.types('?lamp'), await library.types('%lamp', 'wren')]).toEqual([
      'ignored',
      'permission.caller',
    ]);
  });

  test.each(['prefixes: ?', '{"timeZone":"Moon"}', '{"rules":[{}]}'])(
    'what turns broken while the bot runs is refused, and holds again once it is mended: %s',
    async (broken) => {
      const library = await libraryOn((inner) => inner);
      expect(await library.types('?lamp')).toBe('completed');
      await library.inner.compareAndSet('settings/stand-in/oddmere', 1, broken);
      library.inner.publish('settings', 'stand-in/oddmere');
      await tick();
      expect([await library.invokes(), await library.invokes('wren')]).toEqual([
        'store.unavailable',
        'store.unavailable',
      ]);
      await library.inner.compareAndSet('settings/stand-in/oddmere', 2, JSON.stringify(decided));
      library.clock.advance(60_000);
      expect([await library.invokes(), await library.invokes('wren')]).toEqual(['completed', 'permission.caller']);
      // What was mended counts no more: the pause is the first again.
      await library.inner.compareAndSet('settings/stand-in/oddmere', 3, broken);
      library.inner.publish('settings', 'stand-in/oddmere');
      await tick();
      await library.inner.compareAndSet('settings/stand-in/oddmere', 4, JSON.stringify(decided));
      library.clock.advance(1000);
      expect(await library.invokes()).toBe('completed');
    },
  );

  test('a late read replaces no newer change', async () => {
    for (const isKnown of [false, true]) {
      const inner = memoryStore();
      await inner.compareAndSet('settings/stand-in/oddmere', 0, '{"prefixes":["?"]}');
      let release = () => {};
      let isSlow = false;
      const store: Store = {
        ...inner,
        async read(key) {
          const read = await inner.read(key);
          if (!isSlow) return read;
          isSlow = false;
          await new Promise<void>((resolve) => {
            release = resolve;
          });
          return read;
        },
      };
      const settings = guildSettings({ store });
      if (isKnown) await settings.load('stand-in/oddmere');
      isSlow = true;
      const loading = isKnown ? undefined : settings.load('stand-in/oddmere');
      // Another process tells of something, and what stands there is read again, slowly.
      if (isKnown) inner.publish('settings', 'stand-in/oddmere');
      await tick();
      await settings.change('stand-in/oddmere', (before) => ({ ...before, prefixes: ['%'] }));
      release();
      expect((await loading) ?? { prefixes: ['%'] }).toEqual({ prefixes: ['%'] });
      await tick(5);
      expect(settings.known('stand-in', 'oddmere')?.compiled.settings).toEqual({ prefixes: ['%'] });
    }
  });

  test('what another process has changed is seen within a minute where its message was lost, and nothing is looked at unused', async () => {
    let reads = 0;
    const library = await libraryOn((inner) => (key) => {
      reads += 1;
      return inner(key);
    });
    const change = async (prefixes: readonly string[]) => {
      const { version = 0 } = (await library.inner.read('settings/stand-in/oddmere')) ?? {};
      await library.inner.compareAndSet('settings/stand-in/oddmere', version, JSON.stringify({ prefixes }));
    };
    const passes = async (ms: number) => {
      library.clock.advance(ms);
      await tick(5);
    };
    expect(await library.types('?lamp')).toBe('completed');
    await change(['%']);
    expect([await library.types('?lamp'), await library.types('%lamp')]).toEqual(['completed', 'ignored']);
    await passes(60_000);
    expect([await library.types('?lamp'), await library.types('%lamp')]).toEqual(['ignored', 'completed']);
    // A round for what was used, and none behind it.
    for (let hour = 0; hour < 24; hour++) await passes(3_600_000);
    const before = reads;
    await passes(3_600_000);
    expect(reads).toBe(before);
    expect(await library.types('%lamp')).toBe('completed');
    await library.layer.close();
    await passes(120_000);
    expect(reads).toBe(before);
  });

  test('where messages may have been missed, it is looked at once', async () => {
    let missed: (() => void) | undefined;
    const inner = memoryStore();
    const store: Store = {
      ...inner,
      subscribe(topic, hear, told) {
        if (topic === 'settings') missed = told;
        return inner.subscribe(topic, hear);
      },
    };
    await inner.compareAndSet('settings/stand-in/oddmere', 0, '{"prefixes":["?"]}');
    const settings = guildSettings({ store });
    await settings.load('stand-in/oddmere');
    const { version = 0 } = (await inner.read('settings/stand-in/oddmere')) ?? {};
    await inner.compareAndSet('settings/stand-in/oddmere', version, '{"prefixes":["%"]}');
    missed?.();
    await tick(5);
    expect(settings.known('stand-in', 'oddmere')?.compiled.settings).toEqual({ prefixes: ['%'] });
  });

  test('one guild’s slow store holds up no other, and only so many of its lines wait', async () => {
    let isSlow = true;
    const inner = memoryStore();
    await inner.compareAndSet('settings/chat/oddmere', 0, JSON.stringify({ off: ['lamp'] }));
    let release = () => undefined as void;
    const slow = new Promise<void>((resolve) => {
      release = resolve;
    });
    const store: Store = {
      ...inner,
      read: async (key) => {
        if (isSlow && key !== 'settings/chat/pellbrook') await slow;
        return inner.read(key);
      },
    };
    const settings = guildSettings({ store, log: silentLog });
    let ran = 0;
    const lamp = command({ name: 'lamp', description: 'Light the lamp', run: () => `${++ran}` });
    const layer = createCommandLayer({ commands: [lamp], prefixes: ['!'], settings, log: silentLog });
    const platform: Platform = {
      name: 'chat',
      capabilities: { privateReplies: 'never', eventIds: false },
      directory: emptyDirectory,
      deliver: () => undefined,
      serve: () => Promise.reject(new Error('It is not served')),
    };
    const say = (guild: string, more: Partial<Input> = { surface: 'text', text: '!lamp' }) =>
      layer.handle(
        {
          surface: 'text',
          caller: { kind: 'user', id: 'ines', name: 'Ines' },
          place: { kind: 'guild', guild: { id: guild, name: guild }, channel: { id: `${guild}/c`, name: 'c' } },
          at: Date.now(),
          ...more,
        },
        platform,
      );
    const waiting = Array.from({ length: 60 }, () => say('oddmere'));
    const slash = say('oddmere', { surface: 'slash', path: ['lamp'] });
    expect(codeOf(await say('pellbrook'))).toBe('completed');
    // The more wait in all, the fewer of one more guild's.
    const others = [];
    for (let n = 0; n < 100; n++) {
      const all = await Promise.all(
        Array.from({ length: 50 }, () => Promise.race([say(`shed ${n}`).then(codeOf), tick(1)])),
      );
      others.push(all.filter((code) => code === undefined).length);
    }
    expect(others[0]).toBe(50);
    expect(others.at(-1)).toBeGreaterThan(0);
    expect(others.at(-1)).toBeLessThan(25);
    // What does not wait is chat, or told so; what was not read lets nothing run.
    expect((await Promise.all(waiting.slice(50))).map(codeOf)).toEqual(Array(10).fill('ignored'));
    expect(codeOf(await slash)).toBe('store.unavailable');
    expect(ran).toBe(1);
    isSlow = false;
    release();
    expect((await Promise.all(waiting.slice(0, 50))).map(codeOf)).toEqual(Array(50).fill('command.unavailable'));
  });

  test.each(['read', 'compareAndSet', 'publish'] as const)('changing them waits only so long: %s', async (hanging) => {
    const clock = virtualClock(startOfAfternoon);
    const store = memoryStore({ clock });
    const book = guildSettings({ store, log: silentLog });
    createCommandLayer({ commands: [], settings: book, clock, log: silentLog });
    injectFaults(store, (call) => (call === hanging ? { kind: 'hang', done: true } : undefined), clock);
    const changing = book.change('stand-in/oddmere', () => ({ prefixes: ['?'] }));
    const told = await runUntil(
      clock,
      changing.then(
        () => 'changed',
        (error: Error) => error.name,
      ),
    );
    expect(told).toBe(hanging === 'publish' ? 'changed' : 'TooLate');
    expect(clock.now() - startOfAfternoon).toBeLessThanOrEqual(2000);
  });

  test('settings that a developer declares wrong fail at once', () => {
    expect(() => guildSettings({ guilds: { 'stand-in/oddmere': { timeZone: 'Moon' } }, log: silentLog })).toThrow(
      /oddmere, timeZone: give a time zone/,
    );
  });
});

test('ordinary chat of guilds that are heard of once leaves nothing behind', async () => {
  setFlagsFromString('--expose-gc');
  const collect = runInNewContext('gc') as () => void;
  const clock = virtualClock(startOfAfternoon);
  const lamp = command({ name: 'lamp', description: 'Light the lamp', run: () => 'The lamp is lit.' });
  const layer = createCommandLayer({ commands: [lamp], prefixes: ['!'], clock, log: silentLog });
  const lines = (from: number, to: number) => {
    for (let guild = from; guild < to; guild++) {
      const input: Input = {
        surface: 'text',
        text: 'good morning',
        caller: { kind: 'user', id: `person-${guild}`, name: 'Somebody' },
        place: {
          kind: 'guild',
          guild: { id: `guild-${guild}`, name: 'A guild' },
          channel: { id: `channel-${guild}`, name: '#counter' },
        },
        at: 0,
      };
      void layer.handle(input);
    }
  };
  lines(0, 50_000);
  collect();
  const before = process.memoryUsage().heapUsed;
  lines(50_000, 350_000);
  collect();
  expect((process.memoryUsage().heapUsed - before) / 1024 / 1024).toBeLessThan(4);
});

function fail(): never {
  throw new Error('no');
}
