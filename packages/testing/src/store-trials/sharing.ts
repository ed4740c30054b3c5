/** Trials of what several processes share. */
import type { Trial } from '../trial.js';
import { becomesTrue, expectSame, grantedAt, type StoreProbe, sharingTrial, thrice, trialUse } from './kit.js';

export const sharingTrials: readonly Trial<StoreProbe>[] = [
  sharingTrial('counts the uses of all processes together', async (store, another, clock) => {
    const first = await store.acquire([thrice], ['a'], [2]);
    expectSame((await another.acquire([thrice], ['a'], [2])).granted, false, 'two more of another process');
    expectSame((await another.acquire([thrice], ['a'])).granted, true, 'the third of another process');
    await another.giveBack([trialUse(thrice, 'a', grantedAt(first), 2)]);
    clock.advance(10);
    expectSame((await store.acquire([thrice], ['a'], [2])).granted, true, 'what another process gave back');
    const verdicts = await Promise.all(
      Array.from({ length: 20 }, (_, n) => (n % 2 === 0 ? store : another).acquire([thrice], ['b'])),
    );
    expectSame(verdicts.filter(({ granted }) => granted).length, 3, 'how many of 20 are granted');
  }),
  sharingTrial('shows every process what one has written, and lets one win', async (store, another) => {
    await store.compareAndSet('v', 0, 'of the first');
    const seen = await another.read('v');
    expectSame(seen?.value, 'of the first', 'what another process reads');
    const written = await Promise.all([
      store.compareAndSet('v', seen?.version ?? 0, 'one'),
      another.compareAndSet('v', seen?.version ?? 0, 'two'),
    ]);
    expectSame(written.filter((is) => is).length, 1, 'how many have written');
    await store.increment('n', 1);
    expectSame(await another.increment('n', 2), 3, 'a sum of both');
    expectSame((await another.entries('v')).length, 1, 'what another process lists');
  }),
  sharingTrial('tells every process, and the one that tells once', async (store, another) => {
    const heard: string[] = [];
    const own: string[] = [];
    another.subscribe('news', (message) => void heard.push(message));
    store.subscribe('news', (message) => void own.push(message));
    let told = 0;
    // Who has only begun to listen may miss the first.
    await becomesTrue(async () => {
      told += 1;
      await store.publish('news', `news ${told}`);
      return heard.length > 0;
    }, 'another process hears');
    const last = heard.at(-1);
    expectSame(/^news \d+$/.test(last ?? ''), true, `what another process hears, ${last}`);
    await new Promise((resolve) => setTimeout(resolve, 50));
    expectSame(
      own,
      Array.from({ length: told }, (_, n) => `news ${n + 1}`),
      'what the teller hears',
    );
  }),
];
