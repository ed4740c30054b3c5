import {
  command,
  countUsage,
  createCommandLayer,
  type LayerEvents,
  type Log,
  logCalls,
  logWithout,
  memoryStore,
  refuse,
} from 'taxeon';
import { usageOf } from 'taxeon/queries';
import { describe, expect, expectTypeOf, test } from 'vitest';
import { codeOf, oddmere, type Scene, sceneOf } from '../../../test/support/oddmere.js';

const described = { description: 'Something' };
const names = [
  'connected',
  'received',
  'started',
  'completed',
  'refused',
  'invalid',
  'failed',
  'replied',
  'closed',
] as const;

function heardOf(layer: Scene['layer']) {
  const heard: { name: string; event: Record<string, unknown> }[] = [];
  for (const name of names) layer.on(name, (event) => heard.push({ name, event: event as Record<string, unknown> }));
  return heard;
}

describe('events', () => {
  const rows: [string, string, string, readonly (readonly [string, string?, string?])[]][] = [
    ['ordinary chat', 'wren', 'good morning', []],
    [
      'a call by an alias',
      'wren',
      '!TAKE spade',
      [['received'], ['started', 'borrow', 'take'], ['replied', 'borrow'], ['completed', 'borrow', 'take']],
    ],
    ['a refusal', 'pim', '!borrow spade', [['received'], ['replied', 'borrow'], ['refused', 'borrow']]],
    ['a line that does not read', 'wren', '!borrow', [['received'], ['replied', 'borrow'], ['invalid', 'borrow']]],
    ['an unknown name has no command', 'wren', '!borow', [['received'], ['replied'], ['refused']]],
    ['an unknown name that nobody answers', 'wren', '!anvil', [['received'], ['refused']]],
  ];
  test.each(rows)('%s', async (_, by, text, expected) => {
    const scene = await oddmere();
    const heard = heardOf(scene.layer);
    await scene.types(by, text);
    expect(heard.map(({ name, event }) => [name, event['command'], event['alias']])).toEqual(
      expected.map(([name, command, alias]) => [name, command, alias]),
    );
  });

  test('tell how long each stage took that was reached', async () => {
    const scene = await oddmere();
    const heard = heardOf(scene.layer);
    await scene.types('wren', '!borrow spade');
    await scene.types('pim', '!borrow spade');
    const stages = (name: string) => {
      // A spread keeps all of an event.
      const event = { ...heard.find((one) => one.name === name)?.event } as unknown as { stagesMs(): object };
      return Object.keys(event.stagesMs());
    };
    expect(stages('completed')).toEqual(['resolve', 'reach', 'access', 'read', 'standing', 'limits', 'run', 'reply']);
    expect(stages('refused')).toEqual(['resolve', 'reach', 'access', 'reply']);
  });

  test('tell what was said in plain text, and that it did not arrive', async () => {
    const scene = await oddmere();
    scene.platform.deliver = () => {
      throw new Error('no');
    };
    const heard = heardOf(scene.layer);
    await scene.types('wren', '!borrow');
    expect(heard.find(({ name }) => name === 'replied')?.event).toMatchObject({
      text: '“tool” is missing: one of drill, jigsaw, hedge trimmer, spade, ladder, clamps or chainsaw.\nUsage: !borrow <tool> [keep] [note…]\nExample: !borrow drill',
      visibleTo: 'everyone',
      delivery: { delivered: false, code: 'platform.failed' },
    });
  });

  test('tell what a handler says meanwhile, too', async () => {
    const chatty = command({
      ...described,
      name: 'chatty',
      run: async ({ reply }) => void [await reply('one'), await reply('two')],
    });
    const scene = await sceneOf([chatty]);
    const heard = heardOf(scene.layer);
    await scene.types('wren', '!chatty');
    expect(heard.filter(({ name }) => name === 'replied').map(({ event }) => event['text'])).toEqual(['one', 'two']);
  });

  test('a listener that throws or rejects harms nothing, and is logged', async () => {
    const logged: unknown[] = [];
    const log: Log = { error: (fields) => void logged.push(fields['event']), warn: () => undefined };
    const scene = await sceneOf([command({ ...described, name: 'act', run: () => 'ran' })], { log });
    scene.layer.on('started', () => {
      throw new Error('no');
    });
    scene.layer.on('completed', () => Promise.reject(new Error('no')));
    const heard = heardOf(scene.layer);
    expect((await scene.types('wren', '!act')).posts[0]?.notice.body).toBe('ran');
    await Promise.resolve();
    expect(heard.map(({ name }) => name)).toEqual(['received', 'started', 'replied', 'completed']);
    expect(logged).toEqual(['started', 'completed']);
  });

  test('tell when a platform is connected', async () => {
    const scene = await oddmere();
    const heard = heardOf(scene.layer);
    await scene.platform.serve(scene.layer);
    expect(heard).toEqual([
      {
        name: 'connected',
        event: { platform: 'stand-in', bot: { kind: 'user', id: 'mallet', name: 'Mallet', isBot: true } },
      },
    ]);
  });

  test('a listener that was taken away hears nothing', async () => {
    const scene = await oddmere();
    let heard = 0;
    const stop = scene.layer.on('completed', () => heard++);
    stop();
    stop();
    await scene.types('wren', '!shelf');
    expect(heard).toBe(0);
  });

  test('their types say which have a command', () => {
    expectTypeOf<LayerEvents['started']['command']>().toEqualTypeOf<string>();
    expectTypeOf<Extract<LayerEvents['refused'], { command: undefined }>['outcome']['code']>().toEqualTypeOf<
      'command.unknown' | 'command.changed' | 'layer.closing' | 'store.unavailable' | 'answer.none'
    >();
    expectTypeOf<Extract<LayerEvents['refused'], { command: string }>['alias']>().toEqualTypeOf<string | undefined>();
  });
});

describe('the log', () => {
  test('has one line a call, without what is to be left out', async () => {
    const scene = await oddmere();
    const lines: [string, Readonly<Record<string, unknown>>][] = [];
    const keep: Log['error'] = (fields, message) => void lines.push([message, fields]);
    const stop = logCalls(scene.layer, { log: { error: keep, warn: keep, info: keep }, leaveOut: ['note'] });
    await scene.types('wren', 'good morning');
    await scene.types('wren', '!take spade 2 days for my secret garden');
    await scene.types('pim', '!borrow spade');
    await scene.invokes('wren', 'anvil');
    stop();
    await scene.types('wren', '!shelf');
    expect(lines.map(([line]) => line)).toEqual([
      'Wren in #counter: borrow (as take) completed, 0 ms',
      'Pim in #counter: borrow refused (permission.caller), 0 ms',
      'Wren in #counter: refused (command.unknown), 0 ms',
    ]);
    expect(lines[0]?.[1]).toMatchObject({
      platform: 'stand-in',
      caller: 'wren',
      guild: 'oddmere',
      command: 'borrow',
      alias: 'take',
      status: 'completed',
      args: { tool: 'spade', note: '[left out]' },
    });
  });

  test('never holds a secret, however deep it stands', () => {
    const lines: unknown[] = [];
    const log = logWithout(
      { error: (fields, message) => void lines.push(message, fields), warn: () => undefined },
      { keys: ['token'], values: ['s3cret'] },
    );
    const loop: Record<string, unknown> = { token: 'abc' };
    loop['self'] = loop;
    log.error(
      { error: new Error('with s3cret', { cause: new Error('of s3cret') }), list: ['s3cret', { token: 1 }], loop },
      'a s3cret',
    );
    const [message, fields] = lines as [string, Record<string, Error & { cause: Error }>];
    expect(message).toBe('a [left out]');
    expect(fields['error']?.message).toBe('with [left out]');
    expect(fields['error']?.stack).not.toContain('s3cret');
    expect(fields['error']?.cause.message).toBe('of [left out]');
    expect(fields).toMatchObject({ list: ['[left out]', { token: '[left out]' }], loop: { token: '[left out]' } });
  });

  test('that throws stops nothing', async () => {
    const broken = () => {
      throw new Error('the disk is full');
    };
    const fall = command({
      ...described,
      name: 'fall',
      run: () => {
        throw new Error('no');
      },
    });
    const scene = await sceneOf([fall], { log: { error: broken, warn: broken } });
    expect(codeOf((await scene.types('wren', '!fall')).outcome)).toBe('handler.failed');
  });
});

describe('usage', () => {
  test('is counted by command, outcome, guild and day, under the name that stays', async () => {
    const scene = await oddmere();
    await scene.types('wren', '!take spade');
    await scene.types('wren', '!borrow spade');
    await scene.types('pim', '!borrow spade');
    await scene.types('wren', '!shelf', 'direct');
    await scene.types('wren', 'good morning');
    scene.clock.advance(86_400_000);
    await scene.types('wren', '!borrow drill');
    const base = { platform: 'stand-in', guild: 'oddmere', command: 'borrow' };
    expect(await usageOf(scene.layer)).toEqual([
      { day: '2026-05-09', platform: 'stand-in', guild: '', command: 'shelf', status: 'completed', count: 1 },
      { ...base, day: '2026-05-09', status: 'completed', count: 1 },
      { ...base, day: '2026-05-09', status: 'refused', count: 2 },
      { ...base, day: '2026-05-10', status: 'completed', count: 1 },
    ]);
  });

  test('is added to the store now and then, loses nothing while that does not answer, and is whole after closing', async () => {
    let isDown = true;
    const inner = memoryStore();
    const store = {
      ...inner,
      increment: (key: string, by: number) => {
        if (isDown) throw new Error('down');
        return inner.increment(key, by);
      },
    };
    const scene = await sceneOf([command({ ...described, name: 'act', run: () => 'ran' })], {
      store,
      usage: countUsage,
    });
    await scene.types('wren', '!act');
    scene.clock.advance(10_000);
    await scene.types('wren', '!act');
    expect(await inner.entries('usage/')).toEqual([]);
    isDown = false;
    await scene.layer.close();
    expect((await inner.entries('usage/')).map(([, count]) => count)).toEqual(['2']);
  });

  test('holds up no closing where the store hangs, and adds nothing twice that may have arrived', async () => {
    const inner = memoryStore();
    let asked = 0;
    const store = {
      ...inner,
      async increment(key: string, by: number) {
        asked += 1;
        await inner.increment(key, by);
        return new Promise<number>(() => undefined);
      },
    };
    const options = { store, usage: countUsage, storePatience: '20ms' } as const;
    const scene = await sceneOf([command({ ...described, name: 'act', run: () => 'ran' })], options);
    await scene.types('wren', '!act');
    await scene.invokes('wren', 'act');
    scene.clock.advance(10_000);
    await scene.layer.close();
    expect(asked).toBe(1);
    expect((await inner.entries('usage/')).map(([, count]) => count)).toEqual(['2']);
  });

  test('of more kinds than are kept at once is told once, and costs no memory', async () => {
    const told: object[] = [];
    const log: Log = { warn: () => undefined, error: (fields) => void told.push(fields) };
    const layer = createCommandLayer({
      commands: [command({ ...described, name: 'act', run: () => 'ran' })],
      usage: countUsage,
      log,
    });
    for (let n = 0; n < 20_100; n++) {
      const guild = { id: `g${n}`, name: 'G' };
      const caller = { kind: 'console', id: 'console', name: 'Console' } as const;
      const place = { kind: 'guild', guild, channel: { id: 'c', name: 'c' } } as const;
      await layer.handle({ surface: 'slash', path: ['act'], caller, place, at: 0 });
    }
    expect(told).toHaveLength(1);
  });
});

describe('closing', () => {
  const slow = (ends: Map<string, () => void>) =>
    command({
      ...described,
      name: 'slow',
      run: ({ caller }) => new Promise<string>((done) => ends.set(caller.id, () => done('finished'))),
    });

  test('takes nothing more, lets what runs finish, and says how it went', async () => {
    const ends = new Map<string, () => void>();
    const scene = await sceneOf([slow(ends)]);
    const heard = heardOf(scene.layer);
    const running = scene.types('wren', '!slow');
    const closing = scene.layer.close({ within: '10s' });
    const { outcome, posts } = await scene.types('ines', '!slow');
    expect(codeOf(outcome)).toBe('layer.closing');
    expect(posts[0]?.notice.body).toBe('I am about to restart. Please try again in a minute.');
    ends.get('wren')?.();
    expect((await running).outcome.status).toBe('completed');
    expect(await closing).toEqual({ aborted: 0 });
    expect(heard.at(-1)).toEqual({ name: 'closed', event: { aborted: 0 } });
    expect(await scene.layer.close()).toEqual({ aborted: 0 });
  });

  test('gives up what is over time, and tells whoever waits', async () => {
    const ends = new Map<string, () => void>();
    const scene = await sceneOf([slow(ends)]);
    const running = scene.types('wren', '!slow');
    const closing = scene.layer.close({ within: '10s' });
    scene.clock.advance(10_000);
    expect(await closing).toEqual({ aborted: 1 });
    const { outcome, posts } = await running;
    expect(outcome).toMatchObject({ status: 'failed', code: 'handler.timeout', parameters: { afterMs: undefined } });
    expect(posts[0]?.notice.body).toMatch(/^I have to restart and could not finish that\./);
  });

  test('takes away at once what was to go later, and is quick where nothing runs', async () => {
    const scene = await sceneOf([
      command({ ...described, name: 'brief', run: () => ({ body: 'gone soon', expires: '1h' }) }),
      command({ ...described, name: 'no', run: () => refuse('a.b', 'no') }),
    ]);
    Object.assign(scene.platform.capabilities, { expires: false });
    await scene.types('wren', '!brief');
    await scene.layer.close();
    expect(scene.platform.posts[0]?.goneAt).toBe(scene.clock.now());
  });

  test('of a layer that has done nothing yet', async () => {
    expect(await createCommandLayer({ commands: [] }).close()).toEqual({ aborted: 0 });
  });
});
