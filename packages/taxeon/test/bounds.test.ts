/** What strangers can fill has a bound, in memory and in time. `npm run test:long` plays larger floods, `SOAK=1000000` the largest. */
import { setFlagsFromString } from 'node:v8';
import { runInNewContext } from 'node:vm';
import { runUntil, virtualClock } from '@taxeon/testing';
import fc from 'fast-check';
import {
  arg,
  type Command,
  command,
  countUsage,
  createCommandLayer,
  guildSettings,
  type LayerOptions,
  memoryStore,
} from 'taxeon';
import { type Capabilities, type Input, type Platform, paced } from 'taxeon/platform';
import { describe, expect, test } from 'vitest';
import { codeOf, nobodyKnown, sceneOf, silentLog, startOfAfternoon } from '../../../test/support/oddmere.js';

const described = { description: 'Something' };
const lamp = command({ ...described, name: 'lamp', run: () => 'The lamp is lit.' });

const clock = virtualClock(startOfAfternoon);

/** A platform that takes everything and keeps nothing. */
function sink(capabilities: Partial<Capabilities> = {}, said?: string[]): Platform {
  return {
    name: 'sink',
    capabilities: { privateReplies: 'slash', eventIds: true, ...capabilities },
    directory: nobodyKnown,
    deliver: ({ notice }) => void said?.push(notice.body),
    serve: async () => ({ close: async () => undefined }),
  };
}

function line(text: string, more: Partial<Input> = {}, person = 'wren', guild = 'g', channel = 'c'): Input {
  const caller = {
    kind: 'member',
    id: person,
    name: person,
    roles: [],
    permissions: new Set<string>(),
    rank: 1,
    ownsGuild: false,
  } as const;
  const place = { kind: 'guild', guild: { id: guild, name: guild }, channel: { id: channel, name: channel } } as const;
  return { surface: 'text', text, caller, place, at: clock.now(), ...more };
}

describe('near names', () => {
  /** The distance as its definition has it. */
  function distance(a: string, b: string): number {
    if (a === '' || b === '') return a.length + b.length;
    const [shortA, shortB] = [a.slice(0, -1), b.slice(0, -1)];
    const ways = [
      distance(shortA, b) + 1,
      distance(a, shortB) + 1,
      distance(shortA, shortB) + (a.at(-1) === b.at(-1) ? 0 : 1),
    ];
    if (a.length > 1 && b.length > 1 && a.at(-1) === b.at(-2) && a.at(-2) === b.at(-1))
      ways.push(distance(a.slice(0, -2), b.slice(0, -2)) + 1);
    return Math.min(...ways);
  }

  test('are those that a plain model finds', async () => {
    const name = fc.stringMatching(/^[abc]{2,7}$/);
    await fc.assert(
      fc.asyncProperty(fc.uniqueArray(name, { minLength: 1, maxLength: 12 }), name, async (names, typed) => {
        if (names.includes(typed)) return;
        const most = Math.max(1, Math.floor(typed.length / 3));
        const layer = createCommandLayer({
          commands: names.map((one) => command({ ...described, name: one, run: () => one })),
          prefixes: ['!'],
          log: silentLog,
        });
        const near = names
          .map((one) => ({ one, far: distance(one, typed) }))
          .filter(({ far }) => far <= most)
          .sort((a, b) => a.far - b.far || (a.one < b.one ? -1 : 1))
          .slice(0, 3)
          .map(({ one }) => one);
        expect(await layer.handle(line(`!${typed}`), sink())).toMatchObject({ parameters: { near } });
      }),
      { numRuns: 60 },
    );
  });

  test('are not looked for once nobody is told of them', async () => {
    const scene = await sceneOf([lamp], { damping: '2 in 1m' });
    const near = [];
    for (let n = 0; n < 5; n++) near.push((await scene.types('wren', '!lmap')).outcome);
    const found = { code: 'command.unknown', parameters: { near: ['lamp'] } };
    expect(near).toMatchObject([found, found, found, found, { code: 'command.unknown', parameters: { near: [] } }]);
    expect((await scene.types('ines', '!lmap')).outcome).toMatchObject(found);
    expect((await scene.invokes('wren', 'lmap')).outcome).toMatchObject(found);
  });

  test('of a name that is longer than any are none, and it is not folded', async () => {
    const scene = await sceneOf([lamp]);
    const normalize = String.prototype.normalize;
    const folded: number[] = [];
    String.prototype.normalize = function (form?: string) {
      folded.push(this.length);
      return normalize.call(this, form);
    };
    try {
      expect(codeOf((await scene.types('wren', `!${'Ж'.repeat(100_000)}`)).outcome)).toBe('command.unknown');
      expect(codeOf((await scene.invokes('wren', 'Ж'.repeat(100_000))).outcome)).toBe('command.unknown');
    } finally {
      String.prototype.normalize = normalize;
    }
    expect(Math.max(0, ...folded)).toBeLessThan(50);
  });
});

describe('a paced channel', () => {
  const call = command({ ...described, name: 'call', run: ({ caller }) => `for ${caller.name}` });

  test('is not filled by one person: turns go around, and what does not fit is told once', async () => {
    const said: string[] = [];
    const told: object[] = [];
    const log = { warn: () => undefined, error: (fields: object) => void told.push(fields) };
    const layer = createCommandLayer({ commands: [call, lamp], prefixes: ['!'], clock, log });
    const platform = sink({ pace: paced('1 in 1s') }, said);
    const flood = Array.from({ length: 50 }, () => layer.handle(line('!call', {}, 'pim'), platform));
    await new Promise((done) => setTimeout(done, 0));
    const other = layer.handle(line('!lamp', {}, 'ines'), platform);
    const outcomes = await runUntil(clock, Promise.all([...flood, other]));
    expect(said.indexOf('The lamp is lit.')).toBeLessThan(4);
    expect(said.filter((one) => one === 'for pim')).toHaveLength(21);
    const warning = 'That is more than I can answer: some of it is left out.';
    expect(said.filter((one) => one === warning)).toHaveLength(1);
    expect(said.indexOf(warning)).toBeLessThan(4);
    expect(outcomes.at(-2)).toMatchObject({
      status: 'completed',
      delivery: { delivered: false, code: 'platform.slowed' },
    });
    expect(told).toMatchObject([{ platform: 'sink', channel: 'c', person: 'pim' }]);
  });

  test('nor by a thousand people with as much as each may have', async () => {
    const said: string[] = [];
    const layer = createCommandLayer({ commands: [call], prefixes: ['!'], clock, log: silentLog });
    const platform = sink({ pace: paced('1000 in 1s') }, said);
    const flood = Array.from({ length: 30_000 }, (_, n) => layer.handle(line('!call', {}, `p${n % 1200}`), platform));
    await new Promise((done) => setTimeout(done, 0));
    const other = layer.handle(line('!call', {}, 'ines'), platform);
    const outcomes = await runUntil(clock, Promise.all([other, ...flood]));
    expect(outcomes[0]).toMatchObject({ delivery: { delivered: true } });
    expect(said.length).toBeLessThan(23_000);
  });
});

describe('a flood of event ids', () => {
  test('by 170 people silences them alone, and is told once a minute', { timeout: 60_000 }, async () => {
    const told: object[] = [];
    const log = {
      warn: () => undefined,
      error: (fields: object, message: string) => void told.push({ message, ...fields }),
    };
    const layer = createCommandLayer({ commands: [lamp], prefixes: ['!'], clock, log, damping: 'off' });
    const platform = sink();
    const ignored = new Set<string>();
    for (let n = 0; n < 510_000; n++) {
      const person = `p${n % 170}`;
      const { status } = await layer.handle(line('!lamp', { id: `e${n}` }, person), platform);
      if (status === 'ignored') ignored.add(person);
    }
    expect(ignored.size).toBe(170);
    expect(told).toEqual([
      { message: 'Too many events of one person', platform: 'sink', person: expect.stringMatching(/^p/), alsoSince: 0 },
    ]);
    // Others are heard, as often as they ever ask.
    for (let n = 0; n < 500; n++)
      expect(codeOf(await layer.handle(line('!lamp', { id: `i${n}` }, 'ines'), platform))).toBe('completed');
  });
});

test('lines that wait for the settings of a hundred guilds leave room for those of another', async () => {
  const store = { ...memoryStore(), read: () => new Promise<never>(() => undefined) };
  const settings = guildSettings({ store, log: silentLog });
  const layer = createCommandLayer({ commands: [lamp], prefixes: ['!'], settings, log: silentLog, damping: 'off' });
  for (let n = 0; n < 6000; n++) void layer.handle(line('!lamp', {}, 'wren', `g${n % 110}`), sink());
  const slash = layer.handle({ ...line('', {}, 'ines', 'other'), surface: 'slash', path: ['lamp'] }, sink());
  // It waits, and is not told at once that nobody can look it up.
  expect(await Promise.race([slash, new Promise((done) => setTimeout(done, 20, 'it waits'))])).toBe('it waits');
});

describe('what is not known does not exempt', () => {
  type Exempt =
    NonNullable<Extract<NonNullable<Parameters<typeof command>[0]['cooldowns']>['user'], object>> extends {
      exempt?: infer E;
    }
      ? E
      : never;
  const cases: [string, unknown, string[]][] = [
    [
      'a yes',
      ({ caller }: never) => [(caller as { holds(of: string): unknown }).holds('steward')],
      ['completed', 'completed'],
    ],
    [
      'a no',
      ({ caller }: never) => [(caller as { can(of: string): unknown }).can('fly')],
      ['completed', 'cooldown.active'],
    ],
    [
      'about nobody',
      ({ caller }: never) => [(caller as { outranks(of: string): unknown }).outranks('who')],
      ['completed', 'cooldown.active'],
    ],
    ['of nothing', () => [], ['completed', 'cooldown.active']],
    [
      'a rank that is not known, under not',
      ({ caller, not }: { caller: { outranks(of: string): unknown }; not(of: unknown): unknown }) => [
        not(caller.outranks('whom')),
      ],
      ['completed', 'cooldown.active'],
    ],
  ];
  test.each(cases)('%s', async (_, exempt, expected) => {
    const act = command({
      ...described,
      name: 'act',
      args: { whom: arg.member(), who: arg.member({ optional: true }) },
      cooldowns: { user: { allow: '1 in 1m', exempt: exempt as Exempt } as never },
      run: () => 'done',
    });
    const scene = await sceneOf([act as Command]);
    const { directory } = scene.platform;
    const unranked = {
      ...scene.platform,
      directory: {
        ...directory,
        member: (...of: Parameters<typeof directory.member>) =>
          ({ ...(directory.member(...of) as object), rank: Number.NaN }) as never,
      },
    };
    const codes = [];
    for (let n = 0; n < 2; n++) {
      const input = scene.platform.typed({ person: 'ines', place: 'oddmere', text: '!act wren' });
      codes.push(codeOf(await scene.layer.handle(input, unranked)));
    }
    expect(codes).toEqual(expected);
  });
});

describe('a flood that has passed leaves the heap where it was', () => {
  setFlagsFromString('--expose-gc');
  const gc = runInNewContext('gc') as () => void;
  const inputs = Number(process.env['SOAK'] ?? (process.env['SWEEP'] === 'all' ? 100_000 : 30_000));
  /** For a million 20; what is left of fewer is mostly code that got warm. */
  const MOST_MB = inputs > 100_000 ? 20 : 8;

  const heapMB = async () => {
    for (let n = 0; n < 3; n++) {
      gc();
      await new Promise((done) => setTimeout(done, 5));
    }
    return process.memoryUsage().heapUsed / 1e6;
  };

  const scarce = command({ ...described, name: 'scarce', cooldowns: { user: '1 in 1h' }, run: () => 'once' });
  const all: Partial<LayerOptions> = { usage: countUsage };
  const floods: [string, Partial<LayerOptions>, (n: number) => Input][] = [
    ['chat of guilds that are not known', all, (n) => line('good morning', {}, 'wren', `g${n}`)],
    ['commands of guilds that are not known', {}, (n) => line('!lamp', {}, 'wren', `g${n}`)],
    ['commands of ever new people', all, (n) => line('!lamp', {}, `p${n}`)],
    ['events with ever new ids', all, (n) => line('!lamp', { id: `event ${n}` }, `p${n}`)],
    ['one person’s events with ever new ids', all, (n) => line('!lamp', { id: `event ${n}` })],
    ['unknown names', all, (n) => line(`!lmap${n}`, {}, `p${n}`)],
    ['refusals of ever new people', all, (n) => line('!lamp too much', {}, `p${n}`)],
    ['cooldowns of ever new people', all, (n) => line('!scarce', {}, `p${n >> 1}`)],
    ['ever new channels', all, (n) => line('!lamp', {}, 'wren', 'g', `c${n}`)],
    ['ever new languages', all, (n) => line('!lamp', { locale: `x-${n}` })],
    ['long nonsense', all, (n) => line(`!${'x'.repeat(2000)}${n}`, {}, `p${n}`)],
    ['slash commands that there are not', all, (n) => line('', { surface: 'slash', path: [`p${n}`], options: { n } })],
  ];
  const rows: string[] = [];
  test.each(floods)('%s', { timeout: 600_000 }, async (what, options, input) => {
    const store = memoryStore({ clock });
    const settings = guildSettings({ store, log: silentLog });
    const platform = sink({ pace: paced('999999 in 1s') });
    const layer = createCommandLayer({
      commands: [lamp, scarce],
      prefixes: ['!'],
      clock,
      log: silentLog,
      store,
      settings,
      ...options,
    });
    for (let n = 0; n < 2000; n++) await layer.handle(input(n), platform);
    const before = await heapMB();
    for (let n = 0; n < inputs; n++) {
      if (n % 10 === 0) clock.advance(1);
      await layer.handle(input(n), platform);
    }
    const during = await heapMB();
    // What passes by afterwards frees what has expired, a little with each.
    for (let n = 0; n < inputs / 4; n++) {
      clock.advance(Math.ceil(7_200_000 / (inputs / 4)));
      await layer.handle(line('!scarce', {}, `late ${n % 500}`), platform);
    }
    clock.advance(3_700_000);
    for (let n = 0; n < 200; n++) await layer.handle(line('!scarce', { id: `last ${n}` }, `last ${n}`), platform);
    const after = await heapMB();
    rows.push(`| ${what} | ${(during - before).toFixed(1)} MB | ${(after - before).toFixed(1)} MB |`);
    expect(after - before).toBeLessThan(MOST_MB);
    await layer.close();
    if (process.env['SOAK'] !== undefined) console.log(rows.at(-1));
  });
});
