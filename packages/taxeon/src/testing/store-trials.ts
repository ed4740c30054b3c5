/** The conformance suite of the store contract: what every store must do, as named trials. */
import type { Limit, Store, Use } from '../contract/store.js';
import { liveOf } from '../limits/live.js';
import { type VirtualClock, virtualClock } from './clock.js';

/** What a suite needs of a store: to open a fresh and empty one that reads time from a clock. */
export interface StoreProbe {
  open(clock: VirtualClock): Store | Promise<Store>;
}

/** One promise of the contract, and how to try it; `run` rejects where it is not held. */
export interface StoreTrial {
  readonly name: string;
  run(probe: StoreProbe): Promise<void>;
}

const START = 1_700_000_000_000;
const once: Limit = { id: 'trial/once', uses: 1, windowMs: 1000 };
const thrice: Limit = { id: 'trial/thrice', uses: 3, windowMs: 1000 };
const long: Limit = { id: 'trial/long', uses: 1, windowMs: 2 * 60 * 60_000 };
const MINUTE = 60_000;
const YEAR = 365 * 24 * 60 * MINUTE;
const often: Limit = { id: 'trial/often', uses: 10, windowMs: 1000 };

/**
 * The trials of a store, for any test runner.
 *
 * @example
 * import { test } from 'vitest';
 * import { myStore } from './store.js';
 *
 * for (const trial of storeTrials) test(trial.name, () => trial.run({ open: (clock) => myStore({ clock }) }));
 */
export const storeTrials: readonly StoreTrial[] = [
  trial('grants as many uses as the window allows, and says when the next is granted', async (store, clock) => {
    for (let use = 0; use < 3; use++) {
      expectSame(await store.acquire([thrice], ['a']), { granted: true, at: START + use * 100 }, `use ${use}`);
      clock.advance(100);
    }
    const denied = { granted: false, index: 0, retryAfterMs: 700, endsAt: START + 1000 };
    expectSame(await store.acquire([thrice], ['a']), denied, 'the fourth use');
    expectSame(await store.look([thrice], ['a']), denied, 'a look');
    clock.advance(699);
    expectSame((await store.acquire([thrice], ['a'])).granted, false, 'a use a moment too early');
    clock.advance(1);
    expectSame((await store.acquire([thrice], ['a'])).granted, true, 'a use once the first has left the window');
  }),
  trial(
    'takes nothing of any limit where one of them is full, and names the one that ends last',
    async (store, clock) => {
      await store.acquire([once], ['a']);
      clock.advance(10);
      await store.acquire([often], ['a'], [10]);
      expectSame(
        await store.acquire([thrice, once, often], ['a', 'a', 'a']),
        { granted: false, index: 2, retryAfterMs: 1000, endsAt: START + 1010 },
        'the verdict',
      );
      for (let use = 0; use < 3; use++)
        expectSame((await store.acquire([thrice], ['a'])).granted, true, `use ${use} of the other limit`);
    },
  ),
  trial('counts keys and limits apart', async (store) => {
    await store.acquire([once], ['a']);
    expectSame((await store.acquire([once], ['b'])).granted, true, 'another key');
    expectSame((await store.acquire([{ ...once, id: 'trial/other' }], ['a'])).granted, true, 'another limit');
    expectSame((await store.acquire([once], ['a'])).granted, false, 'the same');
  }),
  trial('takes a cost of several uses, and all there are where it is more', async (store, clock) => {
    expectSame((await store.acquire([thrice], ['a'], [2])).granted, true, 'two of three');
    expectSame((await store.acquire([thrice], ['a'], [2])).granted, false, 'two more');
    expectSame((await store.acquire([thrice], ['a'], [1])).granted, true, 'the third');
    clock.advance(1000);
    expectSame((await store.acquire([thrice], ['a'], [9])).granted, true, 'nine of three, while none is used');
    expectSame((await store.acquire([thrice], ['a'])).granted, false, 'one more');
  }),
  trial('gives back what was taken, once, and nothing that is gone', async (store, clock) => {
    const first = await store.acquire([thrice], ['a'], [3]);
    if (!first.granted) throw new Error('the first uses were refused');
    await store.giveBack([use(thrice, 'a', first.at, 2)]);
    expectSame((await store.acquire([thrice], ['a'], [2])).granted, true, 'the two that were given back');
    await store.giveBack([use(thrice, 'a', first.at - 5), use(thrice, 'nobody', first.at)]);
    expectSame((await store.acquire([thrice], ['a'])).granted, false, 'one that nobody gave back');
    clock.advance(5000);
    await store.giveBack([use(thrice, 'a', first.at)]);
    expectSame((await store.acquire([thrice], ['a'], [3])).granted, true, 'all of the next window');
  }),
  trial('tells uses of one moment apart, so that giving back one twice leaves the others', async (store) => {
    const first = await store.acquire([thrice], ['a']);
    const second = await store.acquire([thrice], ['a']);
    if (!first.granted || !second.granted) throw new Error('the first uses were refused');
    if (first.at === second.at) throw new Error('two uses of a key have the same time');
    await store.giveBack([use(thrice, 'a', first.at)]);
    await store.giveBack([use(thrice, 'a', first.at)]);
    expectSame((await store.acquire([thrice], ['a'], [2])).granted, true, 'the two that are free');
    expectSame((await store.acquire([thrice], ['a'])).granted, false, 'the one that was not given back');
  }),
  trial(
    'renews what runs on, takes again what has run out where there is room, and names what is lost',
    async (store, clock) => {
      const held = await store.acquire([once], ['a']);
      if (!held.granted) throw new Error('the first use was refused');
      clock.advance(900);
      const renewed = await store.renew([use(once, 'a', held.at)]);
      expectSame(renewed.lost, [], 'what is lost before the window is over');
      clock.advance(900);
      expectSame((await store.acquire([once], ['a'])).granted, false, 'a use beside the renewed one');
      await store.giveBack([use(once, 'a', held.at)]);
      expectSame((await store.acquire([once], ['a'])).granted, false, 'a use after giving back the old time');
      clock.advance(5000);
      const again = await store.renew([use(once, 'a', renewed.at)]);
      expectSame(again.lost, [], 'what is lost where nobody else came');
      expectSame((await store.acquire([once], ['a'])).granted, false, 'a use beside the one that was taken again');
      clock.advance(5000);
      expectSame((await store.acquire([once], ['a'])).granted, true, 'a use after it ran out');
      const late = await store.renew([use(once, 'b', again.at), use(once, 'a', again.at)]);
      expectSame(late.lost, [1], 'what is lost where somebody else came');
    },
  ),
  trial('freezes nothing where the clock was ahead by a year for one use', async (store, clock) => {
    clock.advance(YEAR);
    expectSame((await store.acquire([once], ['a'])).granted, true, 'a use a year ahead');
    await store.compareAndSet('v', 0, 'x', 1000);
    clock.advance(-YEAR);
    const verdict = await store.acquire([once], ['a']);
    if (!verdict.granted && verdict.retryAfterMs > 1000) throw new Error(`the wait is ${verdict.retryAfterMs} ms`);
    await store.read('v');
    clock.advance(1000);
    expectSame((await store.acquire([once], ['a'])).granted, true, 'a use once a window has passed');
    expectSame(await store.read('v'), undefined, 'a value once its time has passed');
  }),
  trial('lets no wait be longer than the window where the clock steps back', async (store, clock) => {
    await store.acquire([long], ['a']);
    clock.advance(90 * MINUTE);
    await store.look([long], ['a']);
    clock.advance(-60 * MINUTE);
    const verdict = await store.acquire([long], ['a']);
    expectSame(verdict.granted, false, 'a use before the window is over');
    if (!verdict.granted && verdict.retryAfterMs > long.windowMs)
      throw new Error(`the wait is ${verdict.retryAfterMs} ms`);
    clock.advance(verdict.granted ? 0 : verdict.retryAfterMs);
    expectSame((await store.acquire([long], ['a'])).granted, true, 'a use after the wait');
  }),
  trial(
    'counts on where a window is made longer or shorter, and where more or fewer uses are allowed',
    async (store, clock) => {
      const anew = (limit: Partial<Limit>): Limit => ({ ...thrice, ...limit });
      await store.acquire([thrice], ['a']);
      await store.acquire([thrice], ['b']);
      clock.advance(400);
      await store.acquire([thrice], ['a'], [2]);
      clock.advance(100);
      const longer = anew({ windowMs: 10_000 });
      expectSame(
        await store.acquire([longer], ['a']),
        { granted: false, index: 0, retryAfterMs: 9500, endsAt: START + 10_000 },
        'the longer window, of uses that counted still',
      );
      clock.advance(1000);
      expectSame((await store.acquire([longer], ['b'], [3])).granted, true, 'the longer window, of a use that did not');
      const shorter = anew({ windowMs: 1100 });
      expectSame((await store.acquire([shorter], ['a'])).granted, true, 'the shorter window');
      const more = anew({ uses: 6, windowMs: 10_000 });
      expectSame((await store.acquire([more], ['b'], [3])).granted, true, 'three more uses');
      expectSame((await store.acquire([more], ['b'])).granted, false, 'one beyond them');
      expectSame((await store.acquire([anew({ uses: 2, windowMs: 10_000 })], ['b'])).granted, false, 'fewer uses');
    },
  ),
  trial('goes on where the clock steps back', async (store, clock) => {
    clock.advance(500);
    await store.acquire([once], ['a']);
    clock.advance(-400);
    expectSame(
      await store.acquire([once], ['a']),
      { granted: false, index: 0, retryAfterMs: 1000, endsAt: START + 1100 },
      'a use after the step',
    );
    clock.advance(999);
    expectSame((await store.acquire([once], ['a'])).granted, false, 'a use a moment too early');
    clock.advance(1);
    expectSame((await store.acquire([once], ['a'])).granted, true, 'a use after the wait');
  }),
  trial('lists what is live, and forgets a key', async (store, clock) => {
    await store.acquire([thrice, once], ['a', 'b'], [2, 1]);
    const live = (await liveOf(store)).sort((one, other) => (one.id < other.id ? -1 : 1));
    expectSame(
      live,
      [
        { id: 'trial/once', key: 'b', uses: 1, endsAt: START + 1000 },
        { id: 'trial/thrice', key: 'a', uses: 2, endsAt: START + 1000 },
      ],
      'what is live',
    );
    expectSame(await store.reset('trial/once', 'b'), true, 'forgetting');
    expectSame(await store.reset('trial/once', 'b'), false, 'forgetting again');
    expectSame((await store.acquire([once], ['b'])).granted, true, 'a use after that');
    clock.advance(1000);
    expectSame(await liveOf(store), [], 'what is live after the window');
  }),
  trial('writes a value only over the version that is expected', async (store, clock) => {
    expectSame(await store.read('v'), undefined, 'a value that is not there');
    expectSame(await store.compareAndSet('v', 1, 'x'), false, 'writing over nothing as version 1');
    expectSame(await store.compareAndSet('v', 0, 'x'), true, 'the first writing');
    expectSame(await store.read('v'), { value: 'x', version: 1 }, 'the value');
    expectSame(await store.compareAndSet('v', 0, 'y'), false, 'writing as if it were not there');
    expectSame(await store.compareAndSet('v', 1, 'y', 1000), true, 'writing over version 1');
    clock.advance(999);
    expectSame(await store.read('v'), { value: 'y', version: 2 }, 'the value before it expires');
    clock.advance(1);
    expectSame(await store.read('v'), undefined, 'the value once it has expired');
    expectSame(await store.compareAndSet('v', 0, 'z'), true, 'writing anew');
    expectSame(await store.compareAndSet('v', 1, 'late'), false, 'a late writer of version 1');
    expectSame(await store.compareAndSet('v', 2, 'late'), false, 'a late writer of version 2');
    expectSame((await store.read('v'))?.value, 'z', 'the value after late writers');
  }),
  trial('adds to a number', async (store) => {
    expectSame(await store.increment('n', 2), 2, 'the first sum');
    expectSame(await store.increment('n', 3), 5, 'the second sum');
  }),
  trial('gives all values whose keys begin alike', async (store) => {
    await store.increment('count/a', 2);
    await store.compareAndSet('count/b', 0, 'two');
    await store.compareAndSet('counter', 0, 'another');
    await store.compareAndSet('Count/c', 0, 'in capitals');
    await store.compareAndSet('count/%', 0, 'a sign');
    expectSame(
      [...(await store.entries('count/'))].sort(([a], [b]) => (a < b ? -1 : 1)),
      [
        ['count/%', 'a sign'],
        ['count/a', '2'],
        ['count/b', 'two'],
      ],
      'the values',
    );
  }),
  trial('tells subscribers of a topic, until they leave', async (store) => {
    const heard: string[] = [];
    const leave = store.subscribe('news', (message) => void heard.push(message));
    store.subscribe('other', () => heard.push('of another topic'));
    await store.publish('news', 'one');
    await store.publish('news', 'two');
    leave();
    await store.publish('news', 'three');
    expectSame(heard, ['one', 'two'], 'what was heard');
  }),
];

function use(limit: Limit, key: string, at: number, cost = 1): Use {
  return { limit, key, at, cost };
}

function trial(name: string, run: (store: Store, clock: VirtualClock) => Promise<void>): StoreTrial {
  return {
    name,
    async run({ open }) {
      const clock = virtualClock(START);
      const store = await open(clock);
      try {
        await run(store, clock);
      } finally {
        await store.close();
      }
    },
  };
}

function expectSame(actual: unknown, expected: unknown, what: string): void {
  const [is, should] = [JSON.stringify(actual), JSON.stringify(expected)];
  if (is !== should) throw new Error(`${what}: ${is}, expected ${should}`);
}
