/** Trials of uses: what is granted, refused, given back, renewed and listed. */

import type { Limit } from 'taxeon/platform';
import { liveUsesIn } from 'taxeon/queries';
import type { Trial } from '../trial.js';
import {
  expectSame,
  grantedAt,
  long,
  MINUTE,
  often,
  once,
  START,
  type StoreProbe,
  storeTrial,
  thrice,
  trialUse,
  YEAR,
} from './kit.js';

export const usesTrials: readonly Trial<StoreProbe>[] = [
  storeTrial('grants as many uses as the window allows, and says when the next is granted', async (store, clock) => {
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
  storeTrial(
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
  storeTrial('counts keys and limits apart', async (store) => {
    await store.acquire([once], ['a']);
    expectSame((await store.acquire([once], ['b'])).granted, true, 'another key');
    expectSame((await store.acquire([{ ...once, id: 'trial/other' }], ['a'])).granted, true, 'another limit');
    expectSame((await store.acquire([once], ['a'])).granted, false, 'the same');
  }),
  storeTrial('takes a cost of several uses, and all there are where it is more', async (store, clock) => {
    expectSame((await store.acquire([thrice], ['a'], [2])).granted, true, 'two of three');
    expectSame((await store.acquire([thrice], ['a'], [2])).granted, false, 'two more');
    expectSame((await store.acquire([thrice], ['a'], [1])).granted, true, 'the third');
    clock.advance(1000);
    expectSame((await store.acquire([thrice], ['a'], [9])).granted, true, 'nine of three, while none is used');
    expectSame((await store.acquire([thrice], ['a'])).granted, false, 'one more');
  }),
  storeTrial('gives back what was taken, once, and nothing that is gone', async (store, clock) => {
    const first = await store.acquire([thrice], ['a'], [3]);
    if (!first.granted) throw new Error('the first uses were refused');
    await store.giveBack([trialUse(thrice, 'a', first.at, 2)]);
    expectSame((await store.acquire([thrice], ['a'], [2])).granted, true, 'the two that were given back');
    await store.giveBack([trialUse(thrice, 'a', first.at - 5), trialUse(thrice, 'nobody', first.at)]);
    expectSame((await store.acquire([thrice], ['a'])).granted, false, 'one that nobody gave back');
    clock.advance(5000);
    await store.giveBack([trialUse(thrice, 'a', first.at)]);
    expectSame((await store.acquire([thrice], ['a'], [3])).granted, true, 'all of the next window');
  }),
  storeTrial('tells uses of one moment apart, so that giving back one twice leaves the others', async (store) => {
    const first = await store.acquire([thrice], ['a']);
    const second = await store.acquire([thrice], ['a']);
    if (!first.granted || !second.granted) throw new Error('the first uses were refused');
    if (first.at === second.at) throw new Error('two uses of a key have the same time');
    await store.giveBack([trialUse(thrice, 'a', first.at)]);
    await store.giveBack([trialUse(thrice, 'a', first.at)]);
    expectSame((await store.acquire([thrice], ['a'], [2])).granted, true, 'the two that are free');
    expectSame((await store.acquire([thrice], ['a'])).granted, false, 'the one that was not given back');
  }),
  storeTrial(
    'renews what runs on, takes again what has run out where there is room, and names what is lost',
    async (store, clock) => {
      const held = await store.acquire([once], ['a']);
      if (!held.granted) throw new Error('the first use was refused');
      clock.advance(900);
      const renewed = await store.renew([trialUse(once, 'a', held.at)]);
      expectSame(renewed.lost, [], 'what is lost before the window is over');
      clock.advance(900);
      expectSame((await store.acquire([once], ['a'])).granted, false, 'a use beside the renewed one');
      await store.giveBack([trialUse(once, 'a', held.at)]);
      expectSame((await store.acquire([once], ['a'])).granted, false, 'a use after giving back the old time');
      clock.advance(5000);
      const again = await store.renew([trialUse(once, 'a', renewed.each?.[0] ?? renewed.at)]);
      expectSame(again.lost, [], 'what is lost where nobody else came');
      expectSame((await store.acquire([once], ['a'])).granted, false, 'a use beside the one that was taken again');
      clock.advance(5000);
      expectSame((await store.acquire([once], ['a'])).granted, true, 'a use after it ran out');
      const late = await store.renew([
        trialUse(once, 'b', again.each?.[0] ?? again.at),
        trialUse(once, 'a', again.each?.[0] ?? again.at),
      ]);
      expectSame(late.lost, [1], 'what is lost where somebody else came');
    },
  ),
  storeTrial('freezes nothing where the clock was ahead by a year for one use', async (store, clock) => {
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
  storeTrial('lets no wait be longer than the window where the clock steps back', async (store, clock) => {
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
  storeTrial(
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
  storeTrial('goes on where the clock steps back', async (store, clock) => {
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
  storeTrial('lists what is live, and forgets a key', async (store, clock) => {
    await store.acquire([thrice, once], ['a', 'b'], [2, 1]);
    const live = (await liveUsesIn(store)).sort((one, other) => (one.id < other.id ? -1 : 1));
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
    expectSame(await liveUsesIn(store), [], 'what is live after the window');
  }),
  storeTrial('takes nothing where it only looks', async (store) => {
    for (let look = 0; look < 5; look++)
      expectSame((await store.look([thrice], ['a'], [2])).granted, true, `look ${look}`);
    expectSame((await store.acquire([thrice], ['a'], [3])).granted, true, 'all uses after it');
    expectSame((await store.look([thrice], ['a'])).granted, false, 'a look at what is used up');
  }),
  storeTrial('gives each limit of a call a time under which its use is found again', async (store) => {
    const verdict = await store.acquire([once, thrice], ['a', 'b'], [1, 2]);
    await store.giveBack([trialUse(once, 'a', grantedAt(verdict, 0)), trialUse(thrice, 'b', grantedAt(verdict, 1), 2)]);
    expectSame(await liveUsesIn(store), [], 'what is left');
  }),
  storeTrial('grants those who ask at one moment no more than there is', async (store) => {
    const verdicts = await Promise.all(Array.from({ length: 40 }, () => store.acquire([often, often40], ['a', 'a'])));
    expectSame(verdicts.filter(({ granted }) => granted).length, 10, 'how many of 40 are granted');
    const [other] = (await liveUsesIn(store)).filter(({ id }) => id === often40.id);
    expectSame(other?.uses, 10, 'what they took of the other limit');
  }),
  storeTrial('takes ids and keys of any form, and keeps them apart', async (store) => {
    const odd = ['a', 'a b', 'a:b', 'a}b{c', '%', '%003a', 'ä', '🔨', 'a\nb', '*', '[a]', '\ud800', '\ud801', ' '];
    for (const id of ['t', 't:a', 't/{x}']) {
      for (const key of odd)
        expectSame((await store.acquire([{ ...once, id }], [key])).granted, true, `${id}, ${JSON.stringify(key)}`);
    }
    const live = await liveUsesIn(store);
    expectSame(live.length, 3 * odd.length, 'how many are live');
    const of = live.filter(({ id }) => id === 't:a').map(({ key }) => key);
    expectSame(of.sort(), [...odd].sort(), 'their keys');
    expectSame(await store.reset('t', 'a:b'), true, 'forgetting one');
    expectSame((await store.acquire([{ ...once, id: 't:a' }], ['b'])).granted, true, 'what looks alike');
  }),
  storeTrial('counts hundreds of uses of one key', async (store, clock) => {
    const many: Limit = { id: 'trial/many', uses: 500, windowMs: 1000 };
    for (let moment = 0; moment < 10; moment++) {
      expectSame((await store.acquire([many], ['a'], [50])).granted, true, `fifty at ${moment}`);
      clock.advance(50);
    }
    expectSame(
      await store.acquire([many], ['a'], [60]),
      { granted: false, index: 0, retryAfterMs: 550, endsAt: START + 1050 },
      'sixty more',
    );
    clock.advance(550);
    expectSame((await store.acquire([many], ['a'], [60])).granted, true, 'once enough have left');
  }),
];

const often40: Limit = { id: 'trial/often-40', uses: 40, windowMs: 1000 };
