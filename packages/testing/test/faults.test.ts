import { type Fault, injectFaults, runUntil, virtualClock } from '@taxeon/testing';
import fc from 'fast-check';
import {
  type Call,
  command,
  type LayerEvents,
  type LayerOptions,
  memoryStore,
  type Outcome,
  plainText,
  refuse,
} from 'taxeon';
import { PlatformError, paced, splitNotice } from 'taxeon/platform';
import { describe, expect, test } from 'vitest';
import {
  codeOf,
  liveIn,
  oddmere,
  type Scene,
  sceneOf,
  silentLog,
  startOfAfternoon,
} from '../../../test/support/oddmere.js';

const described = { description: 'Something' };
const lost = () => new PlatformError('platform.unreachable', 'The connection was lost', { mayHaveArrived: true });
const never = () => new Promise<never>(() => undefined);

/** A layer of one command `act`, whose platform meets a fault at calls of one kind. */
async function acting(
  run: (call: Call) => unknown,
  { faults = {}, deadline, limits, ...options }: Partial<LayerOptions> & Faulty = {},
): Promise<Acting> {
  const logged: string[] = [];
  const log = {
    error: (_: object, message: string) => void logged.push(message),
    warn: (_: object, message: string) => void logged.push(message),
  };
  const act = command({
    ...described,
    name: 'act',
    timeout: '1m',
    run: run as () => undefined,
    ...(limits === 'none' ? {} : { running: { guild: 1 } }),
  });
  const scene = await sceneOf([act], { log, damping: 'off', ...options });
  if (deadline === 'none') Object.assign(scene.platform.capabilities, { replyDeadlineMs: undefined });
  const replied: LayerEvents['replied'][] = [];
  scene.layer.on('replied', (event) => replied.push(event));
  const calls: string[] = [];
  injectFaults(
    scene.platform,
    (call) => {
      if (call.includes('.')) return faults[call]?.shift();
      if (call !== 'send' && call !== 'typed' && call !== 'invoked') calls.push(call);
      return faults[call]?.shift();
    },
    scene.clock,
  );
  const says = async (how: 'text' | 'slash') => {
    const before = scene.clock.now();
    const given = runUntil(scene.clock, how === 'text' ? scene.types('wren', '!act') : scene.invokes('wren', 'act'));
    return { ...(await given), tookMs: scene.clock.now() - before };
  };
  return { ...scene, says, logged, replied, calls };
}

interface Faulty {
  /** The faults of the first calls of each kind, one after the other. */
  readonly faults?: Readonly<Record<string, (Fault | undefined)[]>>;
  readonly deadline?: 'none';
  readonly limits?: 'none';
}

interface Acting extends Scene {
  says(
    how: 'text' | 'slash',
  ): ReturnType<Scene['types']> extends Promise<infer Exchange>
    ? Promise<Exchange & { readonly tookMs: number }>
    : never;
  readonly logged: string[];
  readonly replied: LayerEvents['replied'][];
  readonly calls: string[];
}

const many = (fault: Fault, count = 20): Fault[] => Array.from({ length: count }, () => fault);
const texts = (scene: Scene) =>
  scene.platform.posts
    .filter(({ goneAt }) => goneAt === undefined || goneAt > scene.clock.now())
    .map(({ notice }) => notice.body);

describe('a platform call that never settles is given up, and may have arrived', () => {
  const hang: Fault = { kind: 'hang' };
  const slow = async ({ progress, tell, post, caller, channel, removeInput, reply }: Call) => {
    progress(0.5, 'Counting');
    await new Promise((resolve) => setTimeout(resolve, 5));
    await tell(caller as never, 'You owe a drill');
    await post(channel as never, 'A drill is due').catch(() => undefined);
    await removeInput();
    const said = await reply('Looking').catch(() => undefined);
    await said?.edit('Found');
    await said?.remove();
    return 'Done it';
  };
  const rows = ['deliver', 'hold', 'edit', 'remove', 'typing', 'tell', 'post', 'removeInput'].flatMap((call) =>
    (['text', 'slash'] as const).map((how) => [call, how] as const),
  );
  test.each(rows)('%s, by %s: the outcome comes, and the next call is as good as any', async (call, how) => {
    const scene = await acting(slow, { faults: { [call]: many(hang, 1) } });
    const { outcome, tookMs } = await scene.says(how);
    expect(outcome.status).toBe('completed');
    expect(tookMs).toBeLessThan(10_000);
    const again = await scene.says(how);
    expect([again.outcome.status, again.outcome.status === 'completed' && again.outcome.delivery]).toEqual([
      'completed',
      { delivered: true, as: 'reply', seenBy: 'everyone' },
    ]);
  });

  test('all of them at once: the handler’s work is done, and nothing runs any more', async () => {
    const everything = ['deliver', 'hold', 'edit', 'remove', 'typing', 'tell', 'post', 'removeInput'];
    const faults = Object.fromEntries(everything.map((call) => [call, many(hang)]));
    const scene = await acting(slow, { faults });
    for (const how of ['text', 'slash'] as const) {
      const { outcome, tookMs } = await scene.says(how);
      expect(outcome).toMatchObject({
        status: 'completed',
        delivery: { delivered: false, code: 'platform.unreachable', arrived: 'perhaps' },
      });
      expect(tookMs).toBeLessThan(60_000);
    }
  });

  test('the patience is 15 s where there is no deadline, less where there is one, and logged once', async () => {
    const took = async (options: Partial<LayerOptions> & Faulty) => {
      const scene = await acting(() => 'lit', { faults: { deliver: [hang] }, ...options });
      const { tookMs } = await scene.says('text');
      expect(scene.logged).toEqual(['A reply was not delivered']);
      return tookMs;
    };
    expect(await took({ deadline: 'none' })).toBe(15_000);
    expect(await took({ deadline: 'none', platformPatience: '3s' })).toBe(3000);
    expect(await took({})).toBe(2000);
  });

  test('many messages to a platform that hangs are all handed over, and held up for little longer than one', async () => {
    const scene = await acting(
      ({ reply }) => {
        for (let n = 0; n < 100; n++) void reply(`message ${n}`);
        return 'lit';
      },
      { faults: { deliver: many(hang, 200) }, deadline: 'none' },
    );
    const { outcome, tookMs } = await scene.says('text');
    expect(outcome.status).toBe('completed');
    expect(scene.calls.filter((call) => call === 'deliver')).toHaveLength(101);
    expect(tookMs).toBeLessThanOrEqual(30_000);
  });

  test('a hold that hangs leaves time for the answer before the deadline', async () => {
    const scene = await acting(() => new Promise((done) => scene.clock.after(2500, () => done('late'))), {
      faults: { hold: [hang] },
    });
    const { outcome, posts, tookMs } = await scene.says('slash');
    // What may be held is closed with a neutral word.
    expect(outcome).toMatchObject({ status: 'completed', delivery: { delivered: true, as: 'reply' } });
    // Asked after 2 s, it is given up 1 s later; the deadline is at 4 s.
    expect(tookMs).toBe(3000);
    expect(posts.map(({ notice }) => notice.body)).toContain('late');
  });

  test('a hold that is refused is not tried again while the answer waits behind it', async () => {
    const slowed = new PlatformError('platform.slowed', 'no', { retryAfterMs: 30_000 });
    const scene = await acting(() => new Promise((done) => scene.clock.after(2500, () => done('late'))), {
      faults: { hold: [{ kind: 'fail', error: slowed }] },
    });
    const { outcome, tookMs } = await scene.says('slash');
    expect(outcome).toMatchObject({ delivery: { delivered: true, as: 'reply' } });
    expect(tookMs).toBe(2500);
  });

  test('a timeout is told although an earlier message of the handler hangs, and what was queued is dropped', async () => {
    const scene = await acting(
      ({ reply }) => {
        for (let n = 0; n < 10; n++) void reply(`message ${n}`);
        return never();
      },
      { faults: { deliver: [hang] }, deadline: 'none', platformPatience: '10m' },
    );
    const { outcome, posts, tookMs } = await scene.says('text');
    expect([codeOf(outcome), posts.map(({ notice }) => notice.tone)]).toEqual(['handler.timeout', ['problem']]);
    expect(tookMs).toBe(10 * 60_000);
    expect(scene.logged.filter((line) => line.includes('was dropped'))).toHaveLength(9);
  });

  test('running limits end with the handler, while its reply hangs', async () => {
    const scene = await acting(() => 'lit', { faults: { deliver: [hang] } });
    const first = scene.types('wren', '!act');
    expect(codeOf((await scene.types('ines', '!act')).outcome)).toBe('completed');
    expect(codeOf((await runUntil(scene.clock, first)).outcome)).toBe('completed');
  });

  test.each(['directory.self', 'directory.member', 'directory.membersNamed', 'directory.roles'])(
    'a look-up: %s',
    async (call) => {
      const scene = await oddmere();
      injectFaults(scene.platform, (name) => (name === call ? hang : undefined));
      const before = scene.clock.now();
      const { outcome } = await runUntil(scene.clock, scene.types('ines', '!induct wren lathe'));
      expect(['completed', 'failed']).toContain(outcome.status);
      expect(scene.clock.now() - before).toBeLessThanOrEqual(20_000);
      // Being served waits for it no longer either.
      await runUntil(scene.clock, scene.platform.serve(scene.layer));
    },
  );
});

describe('what is waited for', () => {
  type Then = (use: (value: string) => void, fail: (error: unknown) => void) => void;
  /** A promise of another library: types do not hold for it. */
  const promiseOf = (then: Then) => Object.fromEntries([['then', then]]);
  const odd: readonly [string, () => unknown][] = [
    ['calls back at once, and gives nothing', () => promiseOf((use) => use('done'))],
    [
      'calls back twice',
      () =>
        promiseOf((use, fail) => {
          use('done');
          fail(new Error('after all not'));
        }),
    ],
    ['comes a little later', async () => void (await Promise.resolve().then(() => undefined))],
  ];
  test.each(odd)('may be of another library: one that %s', async (_, given) => {
    const scene = await acting(given);
    const { deliver } = scene.platform;
    scene.platform.deliver = (...of) => {
      void deliver(...of);
      return given() as Promise<undefined>;
    };
    const { outcome } = await scene.says('slash');
    expect(outcome).toMatchObject({ status: 'completed', delivery: { delivered: true } });
    expect(scene.logged).toEqual([]);
  });

  test('fails where its `then` throws', async () => {
    const thrower = () =>
      promiseOf(() => {
        throw new Error('no then');
      });
    expect(codeOf((await (await acting(thrower)).says('slash')).outcome)).toBe('handler.failed');
  });

  test('needs no timer where it comes at once, and one where it does not', async () => {
    const timers: number[] = [];
    const clock = virtualClock(startOfAfternoon);
    const counting = {
      ...clock,
      after(ms: number, then: () => void) {
        timers.push(ms);
        return clock.after(ms, then);
      },
    };
    const prompt = command({ ...described, name: 'prompt', run: async () => 'at once' });
    const slow = command({
      ...described,
      name: 'slow',
      timeout: '3m',
      run: () => new Promise<string>((resolve) => void clock.after(1000, () => resolve('later'))),
    });
    const scene = await sceneOf([prompt, slow], { clock: counting });
    const { deliver } = scene.platform;
    scene.platform.deliver = async (...of) => deliver(...of);
    const handled = (name: string) =>
      scene.layer.handle(scene.platform.typed({ person: 'wren', place: 'oddmere', text: `!${name}` }), scene.platform);
    timers.length = 0;
    expect(codeOf(await handled('prompt'))).toBe('completed');
    expect(timers.filter((ms) => ms > 700)).toEqual([]);
    expect(codeOf(await runUntil(clock, handled('slow')))).toBe('completed');
    expect(timers.filter((ms) => ms > 700)).toEqual([3 * 60_000]);
  });

  test('is given up in time, although the clock moves on before anything else happens', async () => {
    const act = command({ ...described, name: 'act', timeout: '1m', run: never });
    const scene = await sceneOf([act], { log: silentLog });
    const given = scene.layer.handle(
      scene.platform.typed({ person: 'wren', place: 'oddmere', text: '!act' }),
      scene.platform,
    );
    scene.clock.advance(60_000);
    expect(codeOf(await given)).toBe('handler.timeout');
  });
});

describe('editing and removing', () => {
  const showing = (call: Call) => {
    call.progress(0.5, 'Counting');
    return new Promise((done) => setTimeout(() => done('There are 7.'), 5));
  };
  const faults: [string, Fault][] = [
    ['throws at once', { kind: 'fail', at: 'once' }],
    ['throws a platform’s error at once', { kind: 'fail', at: 'once', error: lost() }],
    ['rejects', { kind: 'fail' }],
    ['is forbidden', { kind: 'fail', error: new PlatformError('platform.forbidden', 'no') }],
    ['finds nothing', { kind: 'fail', error: new PlatformError('platform.gone', 'no') }],
    ['is done and loses the answer', { kind: 'lose' }],
    ['is done and fails oddly', { kind: 'lose', error: new Error('odd') }],
    ['hangs', { kind: 'hang' }],
    ['is done and hangs', { kind: 'hang', done: true }],
    ['answers with nonsense', { kind: 'lie', answer: { done: 'perhaps' } }],
  ];
  // Who says that it has removed a message, or that there is none, and lies, is believed.
  const honest = faults.filter(([name]) => name !== 'finds nothing' && name !== 'answers with nonsense');
  const pairs = faults.flatMap((edit) => honest.map((remove) => [edit[0], remove[0], edit[1], remove[1]] as const));
  test.each(pairs)(
    'an edit that %s, a removal that %s: shown at most once, and honestly told',
    async (_, __, edit, remove) => {
      const scene = await acting(showing, { faults: { edit: many(edit), remove: many(remove) } });
      const { outcome } = await scene.says('text');
      const shown = texts(scene).filter((text) => text === 'There are 7.').length;
      expect(outcome.status).toBe('completed');
      const { delivery } = outcome as Extract<Outcome, { status: 'completed' }>;
      expect(shown).toBeLessThanOrEqual(1);
      if (delivery?.delivered === true && edit.kind !== 'lie') expect(shown).toBe(1);
      if (delivery?.delivered === false) expect(delivery.arrived).toBe('perhaps');
      // An edit that surely was not done is made up for, as far as others can be removed.
      if (edit.kind === 'fail' && edit.error !== undefined && (edit.error as PlatformError).mayHaveArrived === false) {
        expect(shown).toBe(1);
      }
      // Nor was one that threw at once.
      if (edit.kind === 'fail' && edit.at === 'once' && edit.error === undefined) expect(shown).toBe(1);
    },
  );

  test('a handler’s own edit and removal never throw', async () => {
    for (const [, fault] of faults) {
      const scene = await acting(
        async ({ reply }) => {
          const said = await reply('one');
          return `${await said.edit('two')} ${await said.remove()}`;
        },
        { faults: { edit: many(fault), remove: many(fault) } },
      );
      expect((await scene.says('text')).outcome.status).toBe('completed');
    }
  });
});

describe('a reply in parts', () => {
  const long = Array.from({ length: 40 }, (_, line) => `Line ${line} of the long list of tools.`).join('\n');

  test('of which a later part failed is not delivered: its beginning is there', async () => {
    const scene = await acting(() => long.repeat(4), {
      faults: { deliver: [undefined, { kind: 'fail', error: new PlatformError('platform.forbidden', 'no') }] },
    });
    const { outcome, posts } = await scene.says('text');
    expect(outcome).toMatchObject({ delivery: { delivered: false, code: 'platform.forbidden', arrived: 'partly' } });
    expect(posts).toHaveLength(1);
  });

  test('is edited and removed as one', async () => {
    const scene = await acting(async ({ reply }) => {
      const said = await reply(long.repeat(4));
      await said.edit('Short now.');
    });
    await scene.says('text');
    expect(texts(scene)).toEqual(['Short now.']);
  });

  test.each(['', '  \n ', '\u3000'])('white space alone is not said: %j', async (nothing) => {
    const scene = await acting(async ({ reply }) => {
      await expect(reply(nothing)).rejects.toThrow(TypeError);
      return nothing;
    });
    const { outcome, posts } = await scene.says('text');
    expect([outcome.status, posts]).toEqual(['completed', []]);
  });
});

describe('splitting', () => {
  const segments = new Intl.Segmenter(undefined, { granularity: 'grapheme' });
  const characters = (text: string) => [...segments.segment(text)].map(({ segment }) => segment);
  const piece = fc.constantFrom(
    'drill',
    ' ',
    '\n',
    '\n\n',
    '. ',
    '🇬🇧',
    '🇵🇱🇯🇵',
    '👨‍👩‍👧‍👦',
    'é',
    'ｶﾞ',
    '```',
    '```ts\n',
    '\n```\n',
    '   ',
    '*',
    'x'.repeat(30),
  );
  const measures: [string, (text: string) => number][] = [
    ['as it stands', (text) => text.length],
    ['with signs that are escaped', (text) => text.replace(/[*`]/g, '\\$&').length],
  ];
  test.each(measures)(
    '%s: no part is over the limit or white space alone, and characters stay whole',
    (_, lengthOf) => {
      fc.assert(
        fc.property(
          fc.array(piece, { maxLength: 120 }),
          fc.array(piece, { maxLength: 12 }),
          fc.integer({ min: 40, max: 200 }),
          (pieces, details, longest) => {
            const notice = { body: pieces.join(''), ...(details.length === 0 ? {} : { details: [details.join('')] }) };
            const parts = splitNotice(notice, longest, (one) => lengthOf(plainText(one)), '… The rest is left out.');
            if (parts[0] === notice) return;
            const whole = new Set(characters(plainText(notice)));
            for (const part of parts) {
              const text = plainText(part);
              expect(lengthOf(text)).toBeLessThanOrEqual(longest);
              expect(text.trim()).not.toBe('');
              for (const one of characters(text.replaceAll('… The rest is left out.', ''))) {
                if (!/[\s`]/.test(one)) expect(whole).toContain(one);
              }
            }
            expect(parts.length).toBeLessThanOrEqual(5);
          },
        ),
        { numRuns: 2000 },
      );
    },
  );
});

describe('a running limit', () => {
  /** `act` runs until it is told to end. */
  async function running(options: Partial<LayerOptions> & { readonly timeout?: '30m' | '1h' } = {}) {
    const { timeout = '1h', ...rest } = options;
    let end = () => {};
    const act = command({
      ...described,
      name: 'act',
      timeout,
      running: { guild: 1 },
      run: () =>
        new Promise<string>((done) => {
          end = () => done('over');
        }),
    });
    const scene = await sceneOf([act], { damping: 'off', ...rest });
    const minutes = async (count: number) => {
      for (let minute = 0; minute < count; minute++) {
        scene.clock.advance(60_000);
        await new Promise((done) => setTimeout(done, 0));
      }
    };
    const codeNow = async () => codeOf((await scene.invokes('ines', 'act')).outcome);
    return { ...scene, minutes, codeNow, end: () => end() };
  }

  test('of one keeps its place through a handler of 20 minutes, and more than that', async () => {
    const scene = await running();
    const first = scene.types('wren', '!act');
    for (let n = 0; n < 5; n++) {
      await scene.minutes(9);
      expect(await scene.codeNow()).toBe('running.full');
    }
    scene.end();
    expect(codeOf((await first).outcome)).toBe('completed');
    const next = scene.invokes('ines', 'act');
    await new Promise((done) => setTimeout(done, 0));
    scene.end();
    expect(codeOf((await next).outcome)).toBe('completed');
  });

  test('of a dead process is free after the lease', async () => {
    const clock = virtualClock(startOfAfternoon);
    const store = memoryStore({ clock });
    const first = await running({ store });
    void first.types('wren', '!act');
    // Its process has died: nothing renews it, and time goes on.
    const later = await running({ store });
    clock.advance(10 * 60_000 - 1);
    expect(await later.codeNow()).toBe('running.full');
    clock.advance(1);
    const next = later.invokes('ines', 'act');
    await new Promise((done) => setTimeout(done, 0));
    later.end();
    expect(codeOf((await next).outcome)).toBe('completed');
  });

  test('is renewed for all calls of a process at once', async () => {
    const inner = memoryStore();
    const renewals: number[] = [];
    const store = {
      ...inner,
      renew(uses: Parameters<typeof inner.renew>[0]) {
        renewals.push(uses.length);
        return inner.renew(uses);
      },
    };
    const slow = command({ ...described, name: 'slow', timeout: '1h', running: { user: 1 }, run: never });
    const scene = await sceneOf([slow], { store, damping: 'off' });
    for (const who of ['wren', 'ines', 'tobias', 'odalys']) void scene.types(who, '!slow');
    for (let minute = 0; minute < 10; minute++) {
      scene.clock.advance(60_000);
      await new Promise((done) => setTimeout(done, 0));
    }
    expect(renewals.every((count) => count === 4)).toBe(true);
    expect(renewals.length).toBeLessThanOrEqual(3);
  });

  test('is kept through a store that fails once in a while', async () => {
    const store = memoryStore();
    let asks = 0;
    injectFaults(store, (call) => (call === 'renew' && asks++ % 2 === 0 ? { kind: 'fail' } : undefined));
    const scene = await running({ store, log: silentLog });
    void scene.types('wren', '!act');
    await scene.minutes(40);
    expect(await scene.codeNow()).toBe('running.full');
  });

  test('after a night of sleep is taken again where nobody else came', async () => {
    const scene = await running({ timeout: '30m' });
    void scene.types('wren', '!act');
    scene.clock.advance(20 * 60_000);
    await scene.minutes(5);
    expect(await scene.codeNow()).toBe('running.full');
  });
});

describe('a clock that was ahead by a year for a moment, or is set back by an hour', () => {
  const YEAR = 365 * 86_400_000;
  const steps: [string, (clock: Scene['clock']) => void, (clock: Scene['clock']) => void][] = [
    ['ahead', (clock) => clock.advance(YEAR), (clock) => clock.advance(-YEAR)],
    ['back', () => undefined, (clock) => clock.advance(-3_600_000)],
  ];
  test.each(steps)('%s: a paced channel goes on', async (_, before, after) => {
    const scene = await acting(() => 'lit', { limits: 'none' });
    Object.assign(scene.platform.capabilities, { pace: paced('1 in 1s') });
    before(scene.clock);
    await scene.says('text');
    after(scene.clock);
    const { tookMs, outcome } = await scene.says('text');
    expect([outcome.status, tookMs <= 1000]).toEqual(['completed', true]);
  });

  test.each(steps)('%s: refusals are told again once their time has passed', async (_, before, after) => {
    const scene = await sceneOf(
      [command({ ...described, name: 'lamp', cooldowns: { user: '10s' }, run: () => 'lit' })],
      { log: silentLog },
    );
    const said = async () => (await scene.types('wren', '!lamp')).posts.map(({ notice }) => notice.body.slice(0, 7));
    before(scene.clock);
    expect([await said(), await said(), await said()]).toEqual([['lit'], ['Not yet'], []]);
    after(scene.clock);
    scene.clock.advance(10_000);
    expect([await said(), await said()]).toEqual([['lit'], ['Not yet']]);
  });

  test.each(steps)('%s: a slow answer is held in time, and shows its progress', async (_, before, after) => {
    const scene = await acting(
      async ({ progress }) => {
        progress(0.1, 'begun');
        await new Promise((resolve) => setTimeout(resolve, 2));
        after(scene.clock);
        for (const part of [0.4, 0.8]) {
          progress(part, `at ${part}`);
          await new Promise((resolve) => scene.clock.after(3000, () => resolve(undefined)));
        }
        return 'done';
      },
      { limits: 'none' },
    );
    before(scene.clock);
    const { outcome } = await scene.says('text');
    expect(outcome.status).toBe('completed');
    expect(scene.replied.map(({ text }) => text.split('\n').at(-1))).toEqual(['begun', 'at 0.4', 'at 0.8', 'done']);
  });

  test('a slash invocation is held in time, whatever the platform’s clock says', async () => {
    const scene = await acting(() => new Promise((done) => scene.clock.after(3000, () => done('late'))));
    const input = {
      ...scene.platform.invoked({ person: 'wren', place: 'oddmere', path: ['act'] }),
      at: scene.clock.now() + 60_000,
    };
    const { posts } = await runUntil(scene.clock, scene.platform.send(input));
    expect(scene.calls).toContain('hold');
    expect(posts.map(({ notice }) => notice.body)).toEqual(['late']);
  });
});

describe('what is to be given back', () => {
  const charged = () =>
    command({
      ...described,
      name: 'act',
      cooldowns: { user: { allow: '10m', charge: 'completed' } },
      run: () => refuse('not.now', 'Not now'),
    });

  test.each<[string, Fault]>([
    ['fails', { kind: 'fail' }],
    ['throws', { kind: 'fail', at: 'once' }],
    ['loses its answer', { kind: 'lose' }],
    ['hangs', { kind: 'hang' }],
  ])('and %s is tried again until it is', async (_, fault) => {
    const store = memoryStore();
    let left = 6;
    injectFaults(store, (call) => (call === 'giveBack' && left-- > 0 ? fault : undefined));
    const scene = await sceneOf([charged()], { store, log: silentLog });
    expect(codeOf((await scene.types('wren', '!act')).outcome)).toBe('not.now');
    for (let step = 0; step < 40; step++) {
      scene.clock.advance(10_000);
      await new Promise((done) => setTimeout(done, 0));
    }
    expect(await liveIn(store)).toEqual([]);
    expect(left).toBe(-1);
  });

  test('is tried once more at close, and not after its window', async () => {
    for (const waitMs of [0, 11 * 60_000]) {
      const store = memoryStore();
      let isDown = true;
      let asks = 0;
      injectFaults(store, (call) => {
        if (call !== 'giveBack') return undefined;
        asks += 1;
        return isDown ? { kind: 'fail' } : undefined;
      });
      const scene = await sceneOf([charged()], { store, log: silentLog });
      await scene.types('wren', '!act');
      for (let passed = 0; passed < waitMs; passed += 60_000) {
        scene.clock.advance(60_000);
        await new Promise((done) => setTimeout(done, 0));
      }
      isDown = false;
      const before = asks;
      await runUntil(scene.clock, scene.layer.close());
      expect(asks - before).toBe(waitMs === 0 ? 1 : 0);
      if (waitMs === 0) expect(await liveIn(store)).toEqual([]);
    }
  });
});

describe('closing', () => {
  test('delivers the last words, then closes the connections, in the time it was given', async () => {
    const order: string[] = [];
    const act = command({ ...described, name: 'act', run: never });
    const scene = await sceneOf([act], { log: silentLog });
    const { deliver } = scene.platform;
    scene.platform.deliver = (...asked) => {
      order.push('deliver');
      return deliver(...asked);
    };
    await scene.layer.connected(scene.platform, { close: async () => void order.push('connection closed') });
    scene.layer.on('closed', () => order.push('closed'));
    const call = scene.types('wren', '!act');
    const before = scene.clock.now();
    expect(await runUntil(scene.clock, scene.layer.close({ within: '10s' }))).toEqual({ aborted: 1 });
    expect(order).toEqual(['deliver', 'connection closed', 'closed']);
    expect(codeOf((await call).outcome)).toBe('handler.timeout');
    expect(scene.clock.now() - before).toBeLessThanOrEqual(10_000);
    const late = scene.platform.typed({ person: 'wren', place: 'oddmere', text: '!act' });
    expect(codeOf(await scene.layer.handle(late, scene.platform))).toBe('layer.closing');
  });

  test.each(['10s', '1s', { ms: 0 }] as const)('ends within %j whatever hangs', async (within) => {
    const store = memoryStore();
    const act = command({
      ...described,
      name: 'act',
      running: { guild: 9 },
      run: async ({ reply }) => {
        await reply({ body: 'soon gone', expires: '1h' });
        return never();
      },
    });
    const scene = await sceneOf([act], { store, log: silentLog });
    Object.assign(scene.platform.capabilities, { expires: false });
    await scene.layer.connected(scene.platform, { close: never });
    for (let n = 0; n < 3; n++) void scene.types('wren', '!act');
    await new Promise((done) => setTimeout(done, 5));
    const hang: Fault = { kind: 'hang' };
    injectFaults(scene.platform, (call) => (call === 'send' ? undefined : hang));
    injectFaults(store, () => hang);
    const before = scene.clock.now();
    await runUntil(scene.clock, scene.layer.close({ within }));
    expect(scene.clock.now() - before).toBeLessThanOrEqual(
      typeof within === 'string' ? Number.parseInt(within, 10) * 1000 : 0,
    );
  });
});

describe('events tell what happened', () => {
  test('a failure’s error, and `ended` once for every input that was no chat', async () => {
    const boom = new Error('boom');
    const commands = [
      command({ ...described, name: 'lamp', aliases: ['light'], run: () => 'The lamp is lit.' }),
      command({
        ...described,
        name: 'broken',
        run: () => {
          throw boom;
        },
      }),
    ];
    const scene = await sceneOf(commands, { log: silentLog });
    const failed: unknown[] = [];
    const ended: unknown[] = [];
    scene.layer.on('failed', ({ error }) => failed.push(error));
    scene.layer.on('ended', ({ command: name, alias, status, code }) => ended.push([name, alias, status, code]));
    for (const line of ['good morning', '!light', '!broken', '!lamp 5', '!anvil']) await scene.types('wren', line);
    expect(failed).toEqual([boom]);
    expect(ended).toEqual([
      ['lamp', 'light', 'completed', undefined],
      ['broken', undefined, 'failed', 'handler.failed'],
      ['lamp', undefined, 'invalid', 'argument.extra'],
      [undefined, undefined, 'refused', 'command.unknown'],
    ]);
  });

  test('everything that is said', async () => {
    const scene = await acting(async ({ progress, tell, post, caller, channel, reply }) => {
      progress(0.5, 'Counting');
      await new Promise((resolve) => setTimeout(resolve, 5));
      await tell(caller as never, 'You owe a drill');
      await post(channel as never, 'A drill is due');
      const said = await reply('Looking');
      await said.edit('Found');
      return 'Done it';
    });
    await scene.says('text');
    expect(
      scene.replied.map(({ as, text, person, channel, delivery }) => [
        as,
        text.split('\n').at(-1),
        person?.id,
        channel?.id,
        delivery?.delivered,
      ]),
    ).toEqual([
      ['progress', 'Counting', undefined, undefined, true],
      ['tell', 'You owe a drill', 'wren', undefined, true],
      ['post', 'A drill is due', undefined, 'oddmere/counter', true],
      ['message', 'Looking', undefined, undefined, true],
      ['edit', 'Found', undefined, undefined, true],
      ['answer', 'Done it', undefined, undefined, true],
    ]);
  });

  test('a post is seen by everyone, also one of a private command', async () => {
    const act = command({
      ...described,
      name: 'act',
      visibleTo: 'caller',
      run: ({ post, channel }) => post(channel as never, 'A drill is due'),
    });
    const scene = await sceneOf([act]);
    const seen: unknown[] = [];
    scene.layer.on('replied', ({ as, delivery }) => seen.push([as, delivery]));
    await scene.invokes('wren', 'act');
    expect(seen[0]).toEqual(['post', { delivered: true, as: 'post', seenBy: 'everyone' }]);
  });

  test('names that no command has are logged as they were typed, neutralised, and not once each', async () => {
    const logged: unknown[] = [];
    const scene = await sceneOf([command({ ...described, name: 'lamp', run: () => 'lit' })], {
      log: { ...silentLog, info: (fields, message) => void logged.push([message, fields]) },
    });
    for (const line of ['!an\u202Evil', '!anvil2', '!anvil3']) await scene.types('wren', line);
    scene.clock.advance(60_000);
    await scene.types('wren', '!anvil4');
    expect(logged).toEqual([
      [
        'No command has a name that was called',
        { name: 'anvil', near: [], platform: 'stand-in', guild: 'oddmere', alsoSince: 0 },
      ],
      [
        'No command has a name that was called',
        { name: 'anvil4', near: [], platform: 'stand-in', guild: 'oddmere', alsoSince: 2 },
      ],
    ]);
  });
});
