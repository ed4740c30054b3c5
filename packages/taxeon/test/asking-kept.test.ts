import { type Exchange, injectFaults, standIn, type VirtualClock, virtualClock } from '@taxeon/testing';
import { arg, type CommandOrGroup, command, createCommandLayer, memoryStore, plainText, type Store } from 'taxeon';
import { askInChat } from 'taxeon/asking';
import { forgetPerson } from 'taxeon/queries';
import { describe, expect, test } from 'vitest';
import { fine } from '../../../test/support/asking.js';
import { oddmereData, startOfAfternoon } from '../../../test/support/oddmere.js';

const reserve = command({
  name: 'reserve',
  description: 'Reserve',
  run: async (call) => `Reserved for ${await call.ask(arg.text(), 'For which day?')}.`,
});

/** As a process of its own: a layer and a connection, on a store that others have, too. */
async function process(store: Store, clock: VirtualClock, commands: readonly CommandOrGroup[] = [fine, reserve]) {
  const logged: string[] = [];
  const log = {
    error: (_: object, what: string) => void logged.push(what),
    warn: (_: object, what: string) => void logged.push(what),
  };
  const platform = standIn(oddmereData().world, { clock });
  const layer = createCommandLayer({ commands, prefixes: ['!'], clock, store, log, asking: askInChat() });
  await platform.serve(layer);
  await settled();
  const says = (text: string, person = 'ines') =>
    platform.send(platform.typed({ person, place: 'oddmere/counter', text }));
  return { says, layer, platform, logged, told: () => platform.posts.map(({ notice }) => plainText(notice)) };
}

const settled = () => new Promise((resolve) => setTimeout(resolve, 5));
const begin = () => {
  const clock = virtualClock(startOfAfternoon);
  return { clock, store: memoryStore({ clock }) };
};
const statusOf = ({ outcome }: Exchange) => ('code' in outcome ? outcome.code : outcome.status);

describe('a question that is kept in the store', () => {
  test('is answered to another process, once', async () => {
    const { clock, store } = begin();
    const [one, other] = [await process(store, clock), await process(store, clock)];
    await one.says('!fine Tobias');
    await settled();
    expect((await other.says('50')).posts.map(({ notice }) => notice.body)).toEqual(['Tobias pays 50.']);
    await settled();
    expect(statusOf(await one.says('50'))).toBe('ignored');
    clock.advance(120_000);
    await settled();
    expect(one.told().join()).not.toContain('no answer');
  });

  test('that two processes hear at once is answered once', async () => {
    const { clock, store } = begin();
    const [one, other] = [await process(store, clock), await process(store, clock)];
    await one.says('!fine Tobias');
    await settled();
    const both = await Promise.all([one.says('50'), other.says('50')]);
    expect(both.map(statusOf).sort()).toEqual(['completed', 'ignored']);
  });

  test('of two at once is the newer one', async () => {
    const { clock, store } = begin();
    const note = command({
      name: 'note',
      description: 'x',
      whenMissing: 'ask',
      args: { text: arg.text() },
      run: ({ args }) => args.text,
    });
    const one = await process(store, clock, [fine, note]);
    const both = await Promise.all([one.says('!fine Tobias'), one.says('!note')]);
    expect(both.map(statusOf)).toEqual(['waiting', 'waiting']);
    expect((await one.says('50')).posts.map(({ notice }) => notice.body)).toEqual(['50']);
    await settled();
    expect(statusOf(await one.says('50'))).toBe('ignored');
  });

  test('is asked behind another whose trace is gone by the time that it is written', async () => {
    const { clock, store } = begin();
    const compareAndSet: Store['compareAndSet'] = (...given) => {
      clock.advance(2);
      return store.compareAndSet(...given);
    };
    const one = await process({ ...store, compareAndSet }, clock);
    expect([await one.says('!fine'), await one.says('Tobias')].map(statusOf)).toEqual(['waiting', 'waiting']);
    expect(statusOf(await one.says('50'))).toBe('completed');
  });

  test('outlasts the process that asked', async () => {
    const { clock, store } = begin();
    const one = await process(store, clock);
    await one.says('!fine');
    await one.says('Tobias');
    await one.layer.close();
    const again = await process(store, clock);
    expect((await again.says('50')).posts.map(({ notice }) => notice.body)).toEqual(['Tobias pays 50.']);
  });

  test('is over in every process when its time is', async () => {
    const { clock, store } = begin();
    const one = await process(store, clock);
    await one.says('!fine Tobias');
    await one.layer.close();
    const again = await process(store, clock);
    clock.advance(60_000);
    expect(statusOf(await again.says('50'))).toBe('ignored');
  });

  test('is over at its time, though a process that knows of it has not noticed', async () => {
    const { clock, store } = begin();
    const one = await process(store, clock);
    await one.says('!fine Tobias');
    await one.layer.close();
    // No timer of its own goes off.
    const slow = { now: () => clock.now(), after: () => () => undefined } as unknown as VirtualClock;
    const other = await process(store, slow);
    clock.advance(60_001);
    await settled();
    expect(statusOf(await other.says('50'))).toBe('ignored');
  });

  test.each([
    ['is gone', []],
    [
      'takes other arguments',
      [command({ ...fine.declaration, args: { who: arg.member(), pence: arg.text() } } as never)],
    ],
    [
      'has its name for another',
      [
        command({
          name: 'fine',
          id: 'other',
          description: 'x',
          args: { who: arg.member(), pence: arg.integer() },
          run: () => '',
        }),
      ],
    ],
  ] as const)('says that the command has changed where it %s', async (_, commands) => {
    const { clock, store } = begin();
    const one = await process(store, clock);
    await one.says('!fine Tobias');
    one.layer.replace(commands as readonly CommandOrGroup[]);
    const { outcome, posts } = await one.says('50');
    expect(outcome).toMatchObject({ status: 'refused', code: 'command.changed' });
    expect(posts[0]?.notice.body).toBe('“fine” has changed meanwhile. Please look for it again.');
    expect(statusOf(await one.says('50'))).toBe('ignored');
  });

  test('is told once that the store fails, and then is over', async () => {
    const { clock, store } = begin();
    const one = await process(store, clock);
    await one.says('!fine Tobias');
    const end = injectFaults(store, (call) => (call === 'read' ? { kind: 'fail' } : undefined), clock);
    expect(statusOf(await one.says('50'))).toBe('store.unavailable');
    expect(statusOf(await one.says('50'))).toBe('ignored');
    // Where it fails before, nothing is asked.
    expect(statusOf(await one.says('!fine Tobias'))).toBe('argument.missing');
    end();
    expect(one.logged).toContain('The store did not answer');
    expect(statusOf(await one.says('!fine Tobias'))).toBe('waiting');
  });

  test.each([
    '',
    'nonsense',
    '{}',
    'null',
    '{"kind":"argument"}',
    JSON.stringify({ kind: 'argument', by: 'x', until: 'soon' }),
  ])('is none where the store holds %j', async (value) => {
    const { clock, store } = begin();
    const one = await process(store, clock);
    await one.says('!fine Tobias');
    const [[key] = ['']] = await store.entries('asking/');
    const { version = 0 } = (await store.read(key)) ?? {};
    await store.compareAndSet(key, version, value);
    expect(statusOf(await one.says('50'))).toBe('ignored');
    store.publish('asking', value);
    for (const until of [Number.MAX_VALUE, 'soon', null])
      store.publish('asking', JSON.stringify({ by: 'x', key: 'k'.repeat(5000), until, person: { id: 'ines' } }));
    expect(statusOf(await one.says('!fine Tobias'))).toBe('waiting');
  });
});

test('what a person is asked is forgotten with them, and what others are asked is not', async () => {
  const { clock, store } = begin();
  const one = await process(store, clock);
  await one.says('!fine Tobias');
  await one.says('!fine Wren', 'odalys');
  expect(await forgetPerson(one.layer, 'stand-in/ines')).toMatchObject({ questions: 1 });
  expect(await forgetPerson(one.layer, 'stand-in/ine')).toMatchObject({ questions: 0 });
  expect(statusOf(await one.says('50'))).toBe('ignored');
  expect(statusOf(await one.says('50', 'odalys'))).toBe('completed');
});

test('a question that the store does not let go is taken away later, and nobody is told that the bot restarted', async () => {
  const { clock, store } = begin();
  const own = { ...store };
  const [one, other] = [await process(own, clock), await process(store, clock)];
  const ends = one.says('!reserve');
  await settled();
  const end = injectFaults(own, (call) => (call === 'compareAndSet' ? { kind: 'fail' } : undefined), clock);
  await one.says('Friday');
  expect(statusOf(await ends)).toBe('completed');
  clock.advance(5000);
  await settled();
  end();
  clock.advance(5000);
  await settled();
  clock.advance(1000);
  expect(await store.entries('asking/')).toEqual([]);
  clock.advance(120_000);
  await settled();
  expect(other.told()).toEqual([]);
});

describe('the question of a handler', () => {
  test('is left alone by other processes while its own lives', async () => {
    const { clock, store } = begin();
    const [one, other] = [await process(store, clock), await process(store, clock)];
    const ends = one.says('!reserve');
    await settled();
    expect(statusOf(await other.says('Friday'))).toBe('ignored');
    await one.says('Friday');
    expect(statusOf(await ends)).toBe('completed');
    clock.advance(120_000);
    await settled();
    expect(other.told()).toEqual([]);
  });

  test('is told to be over by the next process, where its own has died', async () => {
    const { clock, store } = begin();
    const own = { ...store };
    const one = await process(own, clock);
    void one.says('!reserve');
    await settled();
    // Nothing of it is heard any more.
    injectFaults(own, () => ({ kind: 'hang' }), clock);
    clock.advance(59_000);
    const again = await process(store, clock);
    clock.advance(10_000);
    await settled();
    expect(again.told()).toEqual(['I had to restart, so I do not wait for your answer any more. Please begin again.']);
    expect(again.platform.posts[0]?.visibleTo).toBe('ines');
    clock.advance(1000);
    expect(await store.entries('asking/')).toEqual([]);
  });
});
