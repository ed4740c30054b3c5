import { execFileSync } from 'node:child_process';
import {
  chmodSync,
  closeSync,
  mkdtempSync,
  openSync,
  renameSync,
  rmSync,
  statSync,
  writeFileSync,
  writeSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { FileStoreError, fileStore } from '@taxeon/file-store';
import { runUntil, type VirtualClock, virtualClock } from '@taxeon/testing';
import { storeTrials } from '@taxeon/testing/trials';
import fc from 'fast-check';
import Database from 'libsql';
import {
  arg,
  command,
  createCommandLayer,
  guildSettings,
  type LayerOptions,
  memoryStore,
  refuse,
  type Store,
} from 'taxeon';
import { type Limit, PlatformError } from 'taxeon/platform';
import { giveUseBack, liveUsesOf, resetUses } from 'taxeon/queries';
import { afterAll, describe, expect, test } from 'vitest';
import { codeOf, liveIn, oddmere, sceneOf, silentLog, startOfAfternoon } from '../../../test/support/oddmere.js';
import { agreesWithList } from '../../../test/support/store-model.js';

const folder = mkdtempSync(join(tmpdir(), 'oddmere-store-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));

let files = 0;
const newFile = () => join(folder, `limits-${++files}.db`);
const openAnother = (clock: VirtualClock) =>
  fileStore({ path: join(folder, `limits-${files}.db`), clock, poll: { ms: 5 } });
const sharedTrials = new Set(storeTrials.slice(-3).map(({ name }) => name));

const stores: readonly [name: string, open: (clock: VirtualClock) => Store][] = [
  ['memory', (clock) => memoryStore({ clock })],
  ['file', (clock) => fileStore({ path: newFile(), clock })],
];

/** As it was before files had a header. */
const firstFormat = `
CREATE TABLE uses (
  id TEXT NOT NULL, key TEXT NOT NULL, window_ms INTEGER NOT NULL, times TEXT NOT NULL, ends_at INTEGER NOT NULL,
  PRIMARY KEY (id, key)
) WITHOUT ROWID;
CREATE TABLE "values" (key TEXT PRIMARY KEY, value TEXT NOT NULL, version INTEGER NOT NULL, expires_at INTEGER) WITHOUT ROWID;
CREATE TABLE messages (seq INTEGER PRIMARY KEY AUTOINCREMENT, topic TEXT NOT NULL, message TEXT NOT NULL, at INTEGER NOT NULL);
`;

const described = { description: 'Something', run: () => 'done' };

describe.each(stores)('the %s store', (name, open) => {
  const isSteady = name === 'memory';
  const another = name === 'file' ? { openAnother } : {};
  test.each(storeTrials.map((trial) => [trial.name, trial] as const))('%s', async (_, trial) => {
    const skipped = await trial.run({ open, ...another });
    // Memory is one process's alone.
    expect(skipped === undefined).toBe(name === 'file' || !sharedTrials.has(trial.name));
  });

  test('agrees with a plain list of times, clock steps both ways included', () => agreesWithList(open, isSteady));
});

describe('the memory store frees what has expired', () => {
  test.each([3, 40])('as other keys are used (%i uses)', async (uses) => {
    const clock = virtualClock(startOfAfternoon);
    const store = memoryStore({ clock });
    const limit: Limit = { id: 'many', uses, windowMs: 1000 };
    for (let key = 0; key < 5000; key++) store.acquire([limit], [`old ${key}`]);
    clock.advance(1000);
    for (let key = 0; key < 5000; key++) store.acquire([limit], [`new ${key}`]);
    clock.advance(-1000);
    expect(await liveIn(store)).toHaveLength(5000);
  });
});

describe('a cooldown', () => {
  test('is shared by all spellings and surfaces, and passes', async () => {
    const scene = await oddmere();
    expect((await scene.types('tobias', '!borrow drill')).outcome.status).toBe('completed');
    scene.clock.advance(60_000);
    expect((await scene.types('tobias', '!TAKE spade')).outcome.status).toBe('completed');
    const refused = {
      status: 'refused',
      code: 'cooldown.active',
      parameters: { counts: 'user', retryAfterMs: 9 * 60_000 },
    };
    expect((await scene.types('tobias', '!take ladder')).outcome).toMatchObject(refused);
    expect((await scene.invokes('tobias', 'borrow', { tool: 'ladder' })).outcome).toMatchObject(refused);
    expect((await scene.types('wren', '!take ladder')).outcome.status).toBe('completed');
    scene.clock.advance(9 * 60_000 - 1);
    expect(codeOf((await scene.types('tobias', '!take clamps')).outcome)).toBe('cooldown.active');
    scene.clock.advance(1);
    expect((await scene.types('tobias', '!take clamps')).outcome.status).toBe('completed');
  });

  const whom: [string, object, [by: string, at: string][], [by: string, at: string][]][] = [
    [
      'a user everywhere',
      { user: '1m' },
      [
        ['ines', 'oddmere'],
        ['ines', 'pellbrook'],
        ['ines', 'direct'],
      ],
      [['wren', 'oddmere']],
    ],
    [
      'a member in one guild',
      { userHere: '1m' },
      [
        ['ines', 'oddmere/counter'],
        ['ines', 'oddmere/workshop'],
      ],
      [
        ['ines', 'pellbrook'],
        ['wren', 'oddmere'],
        ['ines', 'direct'],
      ],
    ],
    [
      'a channel',
      { channel: '1m' },
      [
        ['ines', 'oddmere/counter'],
        ['wren', 'oddmere/counter'],
      ],
      [
        ['ines', 'oddmere/workshop'],
        ['ines', 'direct'],
      ],
    ],
    [
      'a guild, or a conversation',
      { guild: '1m' },
      [
        ['ines', 'oddmere/counter'],
        ['wren', 'oddmere/workshop'],
      ],
      [
        ['ines', 'pellbrook'],
        ['ines', 'direct'],
        ['wren', 'direct'],
      ],
    ],
    [
      'everyone',
      { everyone: '1m' },
      [
        ['ines', 'oddmere'],
        ['wren', 'pellbrook'],
        ['pim', 'direct'],
      ],
      [],
    ],
    [
      'a key of one’s own',
      { letter: { allow: '1m', key: ({ caller }: { caller: { name: string } }) => caller.name.slice(-1) } },
      [
        ['ines', 'oddmere'],
        ['odalys', 'oddmere'],
      ],
      [['wren', 'oddmere']],
    ],
    [
      'a key that comes later',
      { letter: { allow: '1m', key: async () => 'same' } },
      [
        ['ines', 'oddmere'],
        ['wren', 'pellbrook'],
      ],
      [],
    ],
  ];
  test.each(whom)('counts %s', async (_, cooldowns, together, apart) => {
    const scene = await sceneOf([command({ ...described, name: 'lamp', cooldowns } as never)], { damping: 'off' });
    const lamp = async ([by, at]: [string, string]) => codeOf((await scene.types(by, '!lamp', at)).outcome);
    for (const [index, one] of together.entries())
      expect([one, await lamp(one)]).toEqual([one, index === 0 ? 'completed' : 'cooldown.active']);
    for (const one of apart) expect([one, await lamp(one)]).toEqual([one, 'completed']);
  });

  test('may be shared by several commands', async () => {
    const lending = { user: { allow: '2 in 1m', shared: 'lending' } } as const;
    const scene = await sceneOf([
      command({ ...described, name: 'borrow', cooldowns: lending }),
      command({ ...described, name: 'reserve', cooldowns: lending }),
    ]);
    expect(codeOf((await scene.types('wren', '!borrow')).outcome)).toBe('completed');
    expect(codeOf((await scene.types('wren', '!reserve')).outcome)).toBe('completed');
    expect(codeOf((await scene.types('wren', '!borrow')).outcome)).toBe('cooldown.active');
  });

  test('may leave some uncounted', async () => {
    const cooldowns = {
      user: {
        allow: '1m',
        exempt: ({ caller }: { caller: { holds(role: string): never } }) => [caller.holds('steward')],
      },
    } as const;
    const scene = await sceneOf([command({ ...described, name: 'lamp', cooldowns } as never)]);
    for (let time = 0; time < 3; time++) expect(codeOf((await scene.types('ines', '!lamp')).outcome)).toBe('completed');
    expect(codeOf((await scene.types('wren', '!lamp')).outcome)).toBe('completed');
    expect(codeOf((await scene.types('wren', '!lamp')).outcome)).toBe('cooldown.active');
  });

  test('may cost more for more', async () => {
    const print = command({
      ...described,
      name: 'print',
      args: { pages: arg.integer({ min: 1 }) },
      cooldowns: { user: { allow: '10 in 1m', cost: ({ pages }) => pages } },
    });
    const scene = await sceneOf([print]);
    expect(codeOf((await scene.types('wren', '!print 7')).outcome)).toBe('completed');
    expect(codeOf((await scene.types('wren', '!print 4')).outcome)).toBe('cooldown.active');
    expect(codeOf((await scene.types('wren', '!print 3')).outcome)).toBe('completed');
  });

  const odd: [string, () => number][] = [
    ['is no number', () => Number.NaN],
    ['is nothing', () => 0],
    [
      'throws',
      () => {
        throw new Error('boom');
      },
    ],
  ];
  const never = () => new Promise<never>(() => undefined);
  test.each([
    ['cost', { cost: never }],
    ['key', { key: never }],
  ])('whose %s never comes fails closed', async (_, options) => {
    const lamp = command({ ...described, name: 'lamp', cooldowns: { user: { allow: '1m', ...options } } });
    const scene = await sceneOf([lamp], { patience: '50ms' });
    expect(codeOf((await runUntil(scene.clock, scene.types('wren', '!lamp'))).outcome)).toBe('callback.failed');
    expect(await liveUsesOf(scene.layer)).toEqual([]);
  });

  test.each(odd)('whose cost %s fails closed', async (_, cost) => {
    const scene = await sceneOf([command({ ...described, name: 'lamp', cooldowns: { user: { allow: '1m', cost } } })]);
    expect(codeOf((await scene.types('wren', '!lamp')).outcome)).toBe('callback.failed');
  });

  const handlers: [string, () => unknown, number][] = [
    ['completed', () => 'done', 1],
    ['refused by the handler', () => refuse('tool.out', 'It is out.'), 0],
    [
      'failed',
      () => {
        throw new Error('boom');
      },
      0,
    ],
  ];
  test.each(handlers)('charged for completed calls alone, when the call %s', async (_, run, used) => {
    const scene = await sceneOf([
      command({
        ...described,
        name: 'lamp',
        run: run as () => string,
        cooldowns: { user: { allow: '5 in 1m', charge: 'completed' }, guild: '5 in 1m' },
      }),
    ]);
    await scene.types('wren', '!lamp');
    const live = await liveUsesOf(scene.layer);
    expect(live.find(({ id }) => id.endsWith('/user'))?.uses ?? 0).toBe(used);
    expect(live.find(({ id }) => id.endsWith('/guild'))?.uses).toBe(1);
  });

  test('tells the wait rounded up, and in words', async () => {
    const scene = await sceneOf([command({ ...described, name: 'lamp', cooldowns: { user: '90s' } })]);
    await scene.types('wren', '!lamp');
    scene.clock.advance(100);
    expect((await scene.types('wren', '!lamp')).posts[0]?.notice.body).toBe(
      'Not yet. This works again in 1 minute 30 seconds.',
    );
  });

  test('can be looked at, reset and given back', async () => {
    const scene = await sceneOf([command({ ...described, name: 'lamp', cooldowns: { user: '1m' } })]);
    await scene.types('wren', '!lamp');
    const [live] = await liveUsesOf(scene.layer, 'wren');
    expect(live).toEqual({ id: 'stand-in/lamp/user', key: 'wren', uses: 1, endsAt: startOfAfternoon + 60_000 });
    expect(await liveUsesOf(scene.layer, 'ines')).toEqual([]);
    expect(await resetUses(scene.layer, 'stand-in/lamp/user', 'wren')).toBe(true);
    scene.clock.advance(1);
    expect(codeOf((await scene.types('wren', '!lamp')).outcome)).toBe('completed');
    await giveUseBack(scene.layer, { id: 'stand-in/lamp/user', uses: 1, windowMs: 60_000 }, 'wren', scene.clock.now());
    expect(codeOf((await scene.types('wren', '!lamp')).outcome)).toBe('completed');
  });
});

describe('a running limit', () => {
  function running(options: Partial<LayerOptions> = {}) {
    const waiting: { resolve(answer: string): void; reject(error: Error): void }[] = [];
    const stocktake = command({
      ...described,
      name: 'stocktake',
      in: 'guild',
      running: { guild: 2, user: 1 },
      cooldowns: { guild: '50 in 1h' },
      run: () => new Promise<string>((resolve, reject) => waiting.push({ resolve, reject })),
    });
    return sceneOf([stocktake], options).then((scene) => ({ scene, waiting }));
  }

  test('lets so many run at once, and the next when one ends, however it ends', async () => {
    const { scene, waiting } = await running();
    const first = scene.types('ines', '!stocktake');
    expect(codeOf((await scene.types('ines', '!stocktake')).outcome)).toBe('running.full');
    const second = scene.types('wren', '!stocktake');
    const full = await scene.types('tobias', '!stocktake');
    expect(full.outcome).toMatchObject({ code: 'running.full', parameters: { counts: 'guild', most: 2 } });
    expect(full.posts[0]?.notice.body).toBe('That is being done 2 times already. Please wait.');
    waiting[0]?.reject(new Error('boom'));
    expect(codeOf((await first).outcome)).toBe('handler.failed');
    const third = scene.types('tobias', '!stocktake');
    waiting[1]?.resolve('done');
    waiting[2]?.resolve('done');
    expect([codeOf((await second).outcome), codeOf((await third).outcome)]).toEqual(['completed', 'completed']);
    expect((await liveUsesOf(scene.layer)).filter(({ id }) => id.includes('running'))).toEqual([]);
  });

  test('that is full takes nothing of the cooldowns', async () => {
    const { scene, waiting } = await running();
    const first = scene.types('ines', '!stocktake');
    for (let time = 0; time < 3; time++) await scene.types('ines', '!stocktake');
    expect((await liveUsesOf(scene.layer)).find(({ id }) => id === 'stand-in/stocktake/guild')?.uses).toBe(1);
    waiting[0]?.resolve('done');
    await first;
  });

  test('is let go after its lease, should its process have died', async () => {
    const { scene } = await running({ lease: '5m' });
    void scene.types('ines', '!stocktake');
    scene.clock.advance(5 * 60_000 - 1);
    expect(codeOf((await scene.types('ines', '!stocktake')).outcome)).toBe('running.full');
    scene.clock.advance(1);
    void scene.types('ines', '!stocktake');
    expect((await liveUsesOf(scene.layer, 'ines')).map(({ uses }) => uses)).toEqual([1]);
  });
});

test('a call that stops before or at the limits leaves every limit as it was', async () => {
  const open = { lamp: 0 };
  const limited = command({
    name: 'lamp',
    description: 'Light the lamp',
    args: { who: arg.member(), n: arg.integer({ max: 5 }) },
    requires: ({ caller, condition }) => [
      caller.can('fine'),
      caller.outranks('who'),
      condition('even', ({ args }) => args.n % 2 === 0 || 'Odd.'),
    ],
    cooldowns: { user: '3 in 1m', guild: '4 in 1m' },
    running: { guild: 1 },
    run: () => `${++open.lamp}`,
  });
  const scene = await sceneOf([limited]);
  const by = fc.constantFrom('ines', 'odalys', 'wren', 'pim');
  const broken = fc
    .tuple(
      fc.constantFrom('!lamp', '!lmap', 'lamp', '!lamp "'),
      fc.constantFrom('', 'wren', 'ines', 'mallet', 'zed'),
      fc.constantFrom('', '1', '2', '4', '9', 'x'),
    )
    .map((parts) => parts.join(' '));
  const line = fc.oneof({ weight: 3, arbitrary: broken }, { weight: 1, arbitrary: fc.constant('!lamp wren 2') });
  await fc.assert(
    fc.asyncProperty(by, line, fc.constantFrom('oddmere', 'direct'), async (person, text, at) => {
      const before = await liveUsesOf(scene.layer);
      const { outcome } = await scene.types(person, text, at);
      const after = await liveUsesOf(scene.layer);
      if (outcome.status === 'completed') expect(after).not.toEqual(before);
      else expect(after).toEqual(before);
      scene.clock.advance(7_000);
    }),
    { numRuns: 300 },
  );
  expect(open.lamp).toBeGreaterThan(0);
});

describe('a store that does not answer', () => {
  const lamp = (outage?: 'refuse' | 'allow') =>
    command({
      ...described,
      name: 'lamp',
      cooldowns: {
        user: { allow: '90s', ...(outage === undefined ? {} : { outage }) },
        guild: { allow: '90s', ...(outage === undefined ? {} : { outage }) },
      },
    });
  const faults: [string, Partial<Store>][] = [
    [
      'throws',
      {
        acquire: () => {
          throw new Error('gone');
        },
      },
    ],
    ['rejects', { acquire: () => Promise.reject(new Error('gone')) }],
    ['hangs', { acquire: () => new Promise(() => undefined) }],
  ];
  const policies: ['refuse' | 'allow', 'refuse' | 'allow' | undefined, string][] = [
    ['refuse', undefined, 'store.unavailable'],
    ['allow', undefined, 'completed'],
    ['refuse', 'allow', 'completed'],
    ['allow', 'refuse', 'store.unavailable'],
  ];
  for (const [fault, broken] of faults) {
    test.each(policies)(`and ${fault}: the layer says %s, the limits %s`, async (outage, own, expected) => {
      const scene = await sceneOf([lamp(own)], {
        store: { ...memoryStore(), ...broken },
        outage,
        storePatience: '30ms',
        reference: () => 'abcd2345',
      });
      const { outcome, posts } = await runUntil(scene.clock, scene.types('wren', '!lamp'));
      expect(codeOf(outcome)).toBe(expected);
      if (expected !== 'completed')
        expect(posts[0]?.notice.body).toBe(
          'I cannot look up what holds here just now. Please try again later. (abcd2345)',
        );
    });
  }

  test('is told in one log line a minute', async () => {
    const logged: unknown[] = [];
    const log = {
      error: (fields: object, message: string) =>
        void logged.push([message, 'alsoSince' in fields && fields.alsoSince]),
      warn: () => undefined,
    };
    const scene = await sceneOf([lamp()], {
      store: { ...memoryStore(), acquire: () => Promise.reject(new Error('gone')) },
      log,
    });
    for (let second = 0; second < 120; second++) {
      await scene.invokes('wren', 'lamp');
      scene.clock.advance(1000);
    }
    expect(logged).toEqual([
      ['The store did not answer', 0],
      ['The store did not answer', 59],
    ]);
  });

  test('and grants too late gets it back, since the call did not run on it', async () => {
    const real = memoryStore();
    let answer = () => {};
    const late = new Promise<void>((resolve) => {
      answer = resolve;
    });
    const given: number[] = [];
    const slow: Store = {
      ...real,
      giveBack(uses) {
        given.push(uses.length);
        return real.giveBack(uses);
      },
      acquire: async (...asked: Parameters<Store['acquire']>) => {
        await late;
        return real.acquire(...asked);
      },
    };
    const scene = await sceneOf([lamp()], { store: slow });
    expect(codeOf((await runUntil(scene.clock, scene.types('wren', '!lamp'))).outcome)).toBe('store.unavailable');
    answer();
    await new Promise((resolve) => setTimeout(resolve, 0));
    expect(given).toEqual([2]);
    expect(await liveIn(real)).toEqual([]);
  });
});

describe('refusals on text are damped', () => {
  const commands = [
    command({ ...described, name: 'lamp', cooldowns: { user: '1m' } }),
    command({ ...described, name: 'fine', args: { pence: arg.integer() } }),
  ];
  const said = async (exchange: Promise<{ posts: readonly unknown[] }>) => (await exchange).posts.length;

  test('a running cooldown is told once until it ends', async () => {
    const scene = await sceneOf(commands);
    await scene.types('wren', '!lamp');
    expect(await said(scene.types('wren', '!lamp'))).toBe(1);
    scene.clock.advance(40_000);
    expect(await said(scene.types('wren', '!lamp'))).toBe(0);
    expect(await said(scene.types('tobias', '!lamp'))).toBe(1);
    expect(await said(scene.types('tobias', '!lamp'))).toBe(1);
    scene.clock.advance(20_000);
    expect(await said(scene.types('wren', '!lamp'))).toBe(1);
    expect(await said(scene.types('wren', '!lamp'))).toBe(1);
  });

  const quiet = (wait: string) => `I have said that a few times now, so I leave it at that for ${wait}.`;

  test('after five repetitions in half a minute it is said once that there is silence, then there is', async () => {
    const logged: unknown[] = [];
    const scene = await sceneOf(commands, { log: { ...silentLog, info: (fields) => void logged.push(fields) } });
    const mistakes = [];
    // Other values are the same refusal.
    for (let time = 0; time < 9; time++) mistakes.push(await scene.types('wren', `!fine x${time}`));
    expect(mistakes.map(({ posts }) => posts.length)).toEqual([1, 1, 1, 1, 1, 1, 1, 0, 0]);
    expect(mistakes[6]?.posts[0]?.notice.body).toBe(quiet('30 seconds'));
    expect(mistakes[7]?.outcome).toMatchObject({
      code: 'argument.invalid',
      reply: undefined,
      delivery: undefined,
      heldBack: { notice: { body: '“pence” takes a whole number; “x7” is not that.' } },
    });
    expect(logged).toEqual([
      {
        code: 'argument.invalid',
        command: 'fine',
        platform: 'stand-in',
        channel: 'oddmere/counter',
        person: 'wren',
        alsoSince: 0,
      },
    ]);
    // What was not told before is told.
    expect(await said(scene.types('wren', '!fine'))).toBe(1);
    expect(await said(scene.types('wren', '!fine 5 6'))).toBe(1);
    expect(await said(scene.types('wren', '!fine 5'))).toBe(1);
    expect(await said(scene.types('tobias', '!fine x'))).toBe(1);
    expect(await said(scene.types('wren', '!fine x', 'oddmere/workshop'))).toBe(1);
    scene.clock.advance(30_000);
    expect(await said(scene.types('wren', '!fine x'))).toBe(1);
  });

  test('someone who mistypes twice is answered twice', async () => {
    const scene = await sceneOf(commands);
    expect([await said(scene.types('wren', '!fine x')), await said(scene.types('wren', '!fine x'))]).toEqual([1, 1]);
  });

  test('by slash and at the console everything is answered', async () => {
    const scene = await sceneOf(commands);
    for (let time = 0; time < 8; time++) {
      expect(await said(scene.invokes('wren', 'lamp'))).toBe(1);
      expect(await said(scene.console('fine x'))).toBe(1);
    }
  });

  test('as often as is configured, or never', async () => {
    const once = await sceneOf(commands, { damping: '1 in 1m' });
    const times = [];
    for (let time = 0; time < 4; time++) times.push(await said(once.types('wren', '!fine x')));
    expect(times).toEqual([1, 1, 1, 0]);
    const off = await sceneOf(commands, { damping: 'off' });
    for (let time = 0; time < 9; time++) expect(await said(off.types('wren', '!fine x'))).toBe(1);
  });

  test('varied nonsense has a larger bound', async () => {
    const many = Array.from({ length: 25 }, (_, n) =>
      command({ ...described, name: `lamp${n}`, args: { n: arg.integer() } }),
    );
    const scene = await sceneOf(many);
    const mistakes = [];
    for (let n = 0; n < 25; n++) mistakes.push(await scene.types('wren', `!lamp${n} x`));
    expect(mistakes.map(({ posts }) => posts.length)).toEqual([...Array(21).fill(1), 0, 0, 0, 0]);
    expect(mistakes[20]?.posts[0]?.notice.body).toBe(quiet('1 minute'));
    scene.clock.advance(60_000);
    expect(await said(scene.types('wren', '!lamp0 x'))).toBe(1);
  });

  test.each<[string, string, Partial<LayerOptions>]>([
    ['the bot’s owners', 'odalys', { owners: ['stand-in/odalys'], damping: '1 in 1m' }],
    [
      'whoever holds the permission that is configured for it',
      'ines',
      { damping: { repeats: '1 in 1m', always: 'fine' } },
    ],
  ])('%s are always answered', async (_, who, options) => {
    const scene = await sceneOf(commands, options);
    for (let time = 0; time < 30; time++) expect(await said(scene.types(who, '!fine x'))).toBe(1);
    for (let time = 0; time < 3; time++) await scene.types('wren', '!fine x');
    expect(await said(scene.types('wren', '!fine x'))).toBe(0);
  });

  test('a cooldown counts as told once it was delivered', async () => {
    const scene = await sceneOf(commands);
    await scene.types('wren', '!lamp');
    const { deliver } = scene.platform;
    scene.platform.deliver = () => {
      throw new PlatformError('platform.forbidden', 'Not here');
    };
    expect((await scene.types('wren', '!lamp')).outcome).toMatchObject({
      delivery: { delivered: false, arrived: 'no' },
    });
    scene.platform.deliver = deliver;
    expect(await said(scene.types('wren', '!lamp'))).toBe(1);
    expect(await said(scene.types('wren', '!lamp'))).toBe(0);
  });

  test('a wait is true for as long as it stands there', async () => {
    const scene = await sceneOf([command({ ...described, name: 'lamp', cooldowns: { user: '1m' } })], {
      damping: 'off',
    });
    await scene.types('wren', '!lamp');
    for (const [later, wait, stays] of [
      [10_500, '50 seconds', 20_000],
      [39_500, '10 seconds', 10_000],
      [9_600, '3 seconds', 3000],
    ] as const) {
      scene.clock.advance(later);
      const [post] = (await scene.types('wren', '!lamp')).posts;
      expect(post?.notice.body).toBe(`Not yet. This works again in ${wait}.`);
      expect((post?.goneAt ?? 0) - scene.clock.now()).toBe(stays);
    }
  });
});

describe('a file', () => {
  test('gives no two grants one time, though its clock was ahead meanwhile', async () => {
    const clock = virtualClock(startOfAfternoon);
    const store = fileStore({ path: newFile(), clock });
    const limit = { id: 'lamp', uses: 7, windowMs: 60_000 };
    const times: number[] = [];
    for (const step of [0, 0, 5000, 0, -5000, 0]) {
      clock.advance(step);
      const verdict = await store.acquire([limit], ['wren']);
      if (verdict.granted) times.push(verdict.at);
    }
    expect([times.length, new Set(times).size]).toEqual([6, 6]);
    // What is given back twice, since the answer was lost, undoes nobody else's.
    const use = { limit, key: 'wren', cost: 1, at: times[1] as number };
    for (let n = 0; n < 2; n++) await store.giveBack([use]);
    expect((await liveIn(store)).map(({ uses }) => uses)).toEqual([5]);
    await store.close();
  });

  test('keeps limits and settings for whoever opens it next', async () => {
    const path = newFile();
    const clock = virtualClock(startOfAfternoon);
    const lamp = command({ ...described, name: 'lamp', in: 'guild', cooldowns: { user: '1m' } });
    async function opened() {
      const store = fileStore({ path, clock });
      const settings = guildSettings({ store, log: silentLog });
      const scene = await oddmere(() =>
        createCommandLayer({ commands: [lamp], prefixes: ['!'], store, settings, clock, log: silentLog }),
      );
      return { store, settings, scene };
    }
    const before = await opened();
    await before.settings.change('stand-in/oddmere', () => ({ prefixes: ['%'] }));
    expect(codeOf((await before.scene.types('wren', '%lamp')).outcome)).toBe('completed');
    await before.store.close();
    const after = await opened();
    await after.settings.load('stand-in/oddmere');
    expect((await after.scene.types('wren', '%lamp')).outcome).toMatchObject({
      code: 'cooldown.active',
      parameters: { retryAfterMs: 60_000 },
    });
    await after.store.close();
  });

  test('frees what has expired as other keys are used', async () => {
    const path = newFile();
    const clock = virtualClock(startOfAfternoon);
    const store = fileStore({ path, clock });
    const limit: Limit = { id: 'many', uses: 1, windowMs: 1000 };
    for (let key = 0; key < 300; key++) await store.acquire([limit], [`old ${key}`]);
    clock.advance(1000);
    for (let key = 0; key < 300; key++) await store.acquire([limit], [`new ${key}`]);
    await store.close();
    const rows = new Database(path).prepare("SELECT count(*) AS count FROM uses WHERE key LIKE 'old %'").get();
    expect(rows).toMatchObject({ count: 0 });
  });
});

describe('a file that does not serve says what to do:', () => {
  const limit: Limit = { id: 'irc/lamp/user', uses: 1, windowMs: 60_000 };
  const problemOf = async (act: () => unknown) => {
    try {
      await act();
    } catch (error) {
      return error instanceof FileStoreError ? error.problem : error;
    }
    return undefined;
  };

  test('there is no such folder', async () => {
    const path = join(folder, 'no', 'such', 'folder.db');
    expect(await problemOf(() => fileStore({ path }))).toBe('unwritable');
    expect(() => fileStore({ path })).toThrow(`${path} cannot be opened or written. Look at the permissions`);
  });

  test('its path holds what no path may', () => {
    expect(() => fileStore({ path: 'mallet\0.db' })).toThrow('is no path of a file');
  });

  test('it is a pipe, to which nobody listens', () => {
    const path = newFile();
    execFileSync('mkfifo', [path]);
    expect(() => fileStore({ path })).toThrow(path);
  });

  test('all that it makes is for its owner alone', async () => {
    const path = newFile();
    const store = fileStore({ path });
    await store.increment('n', 1);
    const modes = [path, `${path}-wal`, `${path}-shm`].map((file) => (statSync(file).mode & 0o777).toString(8));
    expect(modes).toEqual(['600', '600', '600']);
    await store.close();
    chmodSync(path, 0o640);
    await fileStore({ path }).close();
    expect((statSync(path).mode & 0o777).toString(8)).toBe('640');
  });

  test('it is something else', async () => {
    const text = newFile();
    writeFileSync(text, 'Where the drill is kept: upper shelf.\n'.repeat(200));
    expect(await problemOf(() => fileStore({ path: text }))).toBe('damaged');
    const foreign = newFile();
    new Database(foreign).exec('CREATE TABLE tools (name TEXT)');
    expect(await problemOf(() => fileStore({ path: foreign }))).toBe('foreign');
  });

  test('it was written by a newer version', async () => {
    const path = newFile();
    fileStore({ path }).close();
    new Database(path).pragma('user_version = 99');
    expect(await problemOf(() => fileStore({ path }))).toBe('newer');
    expect(() => fileStore({ path })).toThrow('Update the package');
  });

  test('it is damaged', async () => {
    const path = newFile();
    const first = fileStore({ path });
    for (let key = 0; key < 2000; key++) await first.acquire([limit], [`person ${key}`]);
    first.close();
    const file = openSync(path, 'r+');
    writeSync(file, Buffer.alloc(60_000, 7), 0, 60_000, 4096);
    closeSync(file);
    const touched = async () => {
      const store = fileStore({ path });
      for (let key = 0; key < 2000; key++) await store.acquire([limit], [`person ${key}`]);
    };
    expect(await problemOf(touched)).toBe('damaged');
  });

  test('there is no path, or it is closed', async () => {
    for (const path of [undefined, '', ':memory:', 7]) {
      expect(() => fileStore({ path } as never)).toThrow(/is no path of a file; write \{ path: 'mallet\.db' \}/);
    }
    const store = fileStore({ path: newFile() });
    store.close();
    store.close();
    expect(await problemOf(() => store.acquire([limit], ['wren']))).toBe('closed');
    expect(await problemOf(() => store.read('a'))).toBe('closed');
  });

  test('it holds what is no time', async () => {
    const path = newFile();
    const store = fileStore({ path });
    await store.acquire([limit], ['wren']);
    new Database(path).exec("UPDATE uses SET times = '!'");
    expect(await problemOf(() => store.acquire([limit], ['wren']))).toBe('damaged');
  });

  test('it is held', async () => {
    const path = newFile();
    const store = fileStore({ path, patience: { ms: 50 } });
    const other = new Database(path);
    other.exec('BEGIN IMMEDIATE');
    expect(await problemOf(() => store.acquire([limit], ['wren']))).toBe('held');
    expect(await problemOf(() => store.compareAndSet('a', 0, 'b'))).toBe('held');
    other.exec('COMMIT');
    expect(await problemOf(() => store.acquire([limit], ['wren']))).toBeUndefined();
  });

  test.each(['deleted', 'replaced'] as const)('it was %s while it was open', async (how) => {
    const path = newFile();
    const store = fileStore({ path });
    const logged: unknown[] = [];
    const watching = fileStore({
      path,
      poll: { ms: 5 },
      log: { ...silentLog, error: ({ error }) => void logged.push((error as FileStoreError).problem) },
    });
    watching.subscribe('news', () => undefined);
    await store.acquire([limit], ['wren']);
    if (how === 'deleted') for (const end of ['', '-wal', '-shm']) rmSync(path + end, { force: true });
    else {
      const another = newFile();
      fileStore({ path: another }).close();
      for (const end of ['-wal', '-shm']) rmSync(path + end, { force: true });
      renameSync(another, path);
    }
    // It is looked at once a second.
    await new Promise((done) => setTimeout(done, 1300));
    expect(await problemOf(() => store.acquire([limit], ['ines']))).toBe('replaced');
    expect(await problemOf(() => store.read('x'))).toBe('replaced');
    expect(logged).toEqual(['replaced']);
    expect(await problemOf(() => fileStore({ path }).acquire([limit], ['ines']))).toBeUndefined();
  });
});

describe('what a file holds', () => {
  test('of the first format is brought to this one', async () => {
    const path = newFile();
    const clock = virtualClock(startOfAfternoon);
    const old = new Database(path);
    old.exec(firstFormat);
    const at = startOfAfternoon - 10_000;
    old
      .prepare('INSERT INTO uses VALUES (?, ?, ?, ?, ?)')
      .run('irc/lamp/user', 'wren', 60_000, `${at.toString(36)} ${(2000).toString(36)}`, at + 62_000);
    old.prepare('INSERT INTO "values" VALUES (?, ?, ?, ?)').run('settings/irc/#oddmere', '{"prefixes":["?"]}', 7, null);
    old.close();
    const store = fileStore({ path, clock });
    expect(await liveIn(store)).toEqual([{ id: 'irc/lamp/user', key: 'wren', uses: 2, endsAt: at + 62_000 }]);
    const limit: Limit = { id: 'irc/lamp/user', uses: 2, windowMs: 60_000 };
    expect(await store.acquire([limit], ['wren'])).toMatchObject({ granted: false, retryAfterMs: 50_000 });
    expect(await store.read('settings/irc/#oddmere')).toEqual({ value: '{"prefixes":["?"]}', version: 7 });
    expect(await store.compareAndSet('settings/irc/#oddmere', 7, '{}')).toBe(true);
    expect((await store.read('settings/irc/#oddmere'))?.version).toBeGreaterThan(7);
    store.close();
    expect(await liveIn(fileStore({ path, clock }))).toHaveLength(1);
  });

  test('gives its space back once it has expired', async () => {
    const path = newFile();
    const clock = virtualClock(startOfAfternoon);
    const store = fileStore({ path, clock });
    const limit: Limit = { id: 'irc/lamp/user', uses: 1, windowMs: 60_000 };
    for (let key = 0; key < 5000; key++) await store.acquire([limit], [`person ${key} of the library`]);
    for (let n = 0; n < 500; n++) await store.compareAndSet(`asked/${n}`, 0, 'x'.repeat(1000), 1000);
    store.close();
    const before = statSync(path).size;
    const again = fileStore({ path, clock });
    clock.advance(60_000);
    for (let n = 0; n < 3000; n++) {
      await again.acquire([limit], ['wren']);
      if (n < 1000) await again.compareAndSet('one', (await again.read('one'))?.version ?? 0, 'x');
      clock.advance(60_000);
    }
    again.close();
    expect(statSync(path).size).toBeLessThan(before / 10);
  });

  test('is listed in pages, 100,000 keys too, and others have their turn between them', async () => {
    const path = newFile();
    fileStore({ path }).close();
    const filling = new Database(path);
    filling.exec('BEGIN');
    const put = filling.prepare('INSERT INTO uses VALUES (?, ?, ?, ?, ?)');
    const packed = (Date.now() * 1024).toString(36);
    const endsAt = Date.now() + 600_000;
    for (let key = 0; key < 100_000; key++) put.run('irc/lamp/user', `person ${key}`, 600_000, packed, endsAt);
    filling.exec('COMMIT');
    filling.close();
    const store = fileStore({ path });
    let turns = 0;
    let isDone = false;
    const turn = () => {
      turns += 1;
      if (!isDone) setImmediate(turn);
    };
    setImmediate(turn);
    let count = 0;
    let longest = 0;
    for await (const page of store.live()) {
      count += page.length;
      longest = Math.max(longest, page.length);
    }
    isDone = true;
    expect([count, longest]).toEqual([100_000, 500]);
    expect(turns).toBeGreaterThan(150);
    store.close();
  });

  test('while another process holds it is opened within the patience, or not at all', () => {
    const path = newFile();
    const other = new Database(path);
    other.exec('BEGIN EXCLUSIVE');
    const before = performance.now();
    expect(() => fileStore({ path, patience: { ms: 200 } })).toThrow(/is held by another process/);
    expect(performance.now() - before).toBeLessThan(2000);
    other.exec('COMMIT');
    other.close();
    fileStore({ path, patience: { ms: 200 } }).close();
  });
});

test('limits that are declared wrong are told with the rest', () => {
  const wrong = [
    command({
      ...described,
      name: 'a',
      cooldowns: { user: { allow: '5' as never }, moon: '20s', own: { allow: '20s', key: () => 'k', cost: 0 } },
    }),
    command({ ...described, name: 'b', running: { guild: 0, moon: 2 } as never }),
    command({ ...described, name: 'c', cooldowns: { user: { allow: '20s', shared: 's' } } }),
    command({ ...described, name: 'd', cooldowns: { user: { allow: '6s', shared: 's' } } }),
    command({
      ...described,
      name: 'e',
      cooldowns: { user: { allow: '6s', exempt: ({ condition }) => [condition('x', () => true)] } },
    }),
  ];
  expect(() => createCommandLayer({ commands: wrong, damping: 'often' as never, lease: '5' as never })).toThrow(
    /lease.*\n.*damping/,
  );
  expect(() => createCommandLayer({ commands: wrong })).toThrow(
    /a, cooldowns\.user: "5" does not read.*\n.*a, cooldowns\.moon: counts by nothing.*\n.*a, cooldowns\.own: costs 0.*\n.*b, running\.guild: allows 0.*\n.*b, running\.moon: counts by nothing.*\n.*e, cooldowns\.user: exempts by a condition.*\n.*d, cooldowns\.user: shares "s" but allows 6s, where c allows 20s/,
  );
});
