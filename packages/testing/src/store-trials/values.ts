/** Trials of values and messages. */
import type { Trial } from '../trial.js';
import { expectRefusal, expectSame, type StoreProbe, storeTrial } from './kit.js';

export const valueTrials: readonly Trial<StoreProbe>[] = [
  storeTrial('writes a value only over the version that is expected', async (store, clock) => {
    expectSame(await store.read('v'), undefined, 'a value that is not there');
    expectSame(await store.compareAndSet('v', 1, 'x'), false, 'writing over nothing as version 1');
    expectSame(await store.compareAndSet('v', 0, 'x'), true, 'the first writing');
    const { value, version = 0 } = (await store.read('v')) ?? {};
    expectSame(value, 'x', 'the value');
    if (!Number.isSafeInteger(version) || version < 1) throw new Error(`${version} is no version`);
    expectSame(await store.compareAndSet('v', 0, 'y'), false, 'writing as if it were not there');
    expectSame(await store.compareAndSet('v', version, 'y', 1000), true, 'writing over the first version');
    clock.advance(999);
    const second = await store.read('v');
    expectSame(second?.value, 'y', 'the value before it expires');
    if (second?.version === version) throw new Error('two writings have the same version');
    clock.advance(1);
    expectSame(await store.read('v'), undefined, 'the value once it has expired');
    expectSame(await store.compareAndSet('v', 0, 'z'), true, 'writing anew');
    expectSame(await store.compareAndSet('v', version, 'late'), false, 'a late writer of the first version');
    expectSame(await store.compareAndSet('v', second?.version ?? 0, 'late'), false, 'a late writer of the second');
    expectSame((await store.read('v'))?.value, 'z', 'the value after late writers');
  }),
  storeTrial('adds to a number', async (store) => {
    expectSame(await store.increment('n', 2), 2, 'the first sum');
    expectSame(await store.increment('n', 3), 5, 'the second sum');
  }),
  storeTrial('gives all values whose keys begin alike', async (store) => {
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
  storeTrial('tells subscribers of a topic, until they leave', async (store) => {
    const heard: string[] = [];
    const leave = store.subscribe('news', (message) => void heard.push(message));
    store.subscribe('other', () => heard.push('of another topic'));
    await store.publish('news', 'one');
    await store.publish('news', 'two');
    leave();
    await store.publish('news', 'three');
    expectSame(heard, ['one', 'two'], 'what was heard');
  }),
  storeTrial('lets one of those who write at one moment win', async (store) => {
    const written = await Promise.all(Array.from({ length: 20 }, (_, n) => store.compareAndSet('v', 0, `of ${n}`)));
    expectSame(written.filter((is) => is).length, 1, 'how many have written');
    expectSame((await store.read('v'))?.value, `of ${written.indexOf(true)}`, 'the value');
  }),
  storeTrial('adds what many add at one moment', async (store) => {
    const sums = await Promise.all(Array.from({ length: 20 }, () => store.increment('n', 1)));
    expectSame(new Set(sums).size, 20, 'how many sums there were');
    expectSame((await store.read('n'))?.value, '20', 'the sum');
    expectSame(await store.increment('n', -20.5), -0.5, 'a sum below 0');
  }),
  storeTrial('adds nothing to a text, and no time but a length of one', async (store) => {
    await store.compareAndSet('v', 0, 'a text');
    await expectRefusal(() => store.increment('v', 1), 'a sum with a text');
    await expectRefusal(() => store.increment('n', Number.NaN), 'a sum with NaN');
    for (const expiresInMs of [Number.NaN, 0, -1])
      await expectRefusal(() => store.compareAndSet('w', 0, 'x', expiresInMs), `an expiry of ${expiresInMs}`);
    expectSame((await store.read('v'))?.value, 'a text', 'the text');
    expectSame(await store.read('w'), undefined, 'what was not written');
    expectSame(await store.compareAndSet('w', 0, 'x', Number.POSITIVE_INFINITY), true, 'a value for ever');
    expectSame((await store.read('w'))?.value, 'x', 'the value for ever');
  }),
  storeTrial('keeps texts and keys of any form', async (store) => {
    const texts = [
      '',
      ' ',
      '1 2 3 \n',
      'two\nlines',
      '"quotes"',
      '🔨 ä',
      '\u0000',
      '\ud800',
      '\u001a0000',
      'x'.repeat(100_000),
    ];
    for (const [n, text] of texts.entries()) await store.compareAndSet(`any/${n}:{}%*[x]`, 0, text);
    for (const [n, text] of texts.entries())
      expectSame((await store.read(`any/${n}:{}%*[x]`))?.value, text, `text ${n}`);
    const [[key, value] = []] = await store.entries('any/3:{}%*[');
    expectSame([key, value], ['any/3:{}%*[x]', 'two\nlines'], 'the one of a key that looks like a pattern');
    expectSame(await store.entries('any/*'), [], 'those of a pattern');
  }),
  storeTrial('lists no value that is gone', async (store, clock) => {
    await store.compareAndSet('some/brief', 0, 'x', 500);
    await store.compareAndSet('some/long', 0, 'y', 5000);
    clock.advance(500);
    expectSame(await store.entries('some/'), [['some/long', 'y']], 'the values');
  }),
  storeTrial('tells all who listen, also where one of them fails', async (store) => {
    const heard: string[] = [];
    store.subscribe('news', () => {
      throw new Error('This one fails');
    });
    store.subscribe('news', (message) => void heard.push(message));
    await (async () => store.publish('news', 'one'))().catch(() => undefined);
    expectSame(heard, ['one'], 'what was heard');
  }),
];
