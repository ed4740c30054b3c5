/** The store on Redis before it reaches a server, and with clients that do what none should. */

import { type RedisConnection, redisStore } from '@taxeon/redis';
import type { Limit } from 'taxeon/platform';
import { describe, expect, test } from 'vitest';
import { silentLog } from '../../../test/support/oddmere.js';

const once: Limit = { id: 'once', uses: 1, windowMs: 60_000 };

/** A client that answers so, and otherwise does as it is told. */
function clientThat(answers: (words: readonly string[]) => unknown): RedisConnection {
  const client = {
    duplicate: () => client,
    connect: async () => undefined,
    on: () => client,
    sendCommand: (words: readonly string[]) => (words[0] === 'TIME' ? Promise.resolve(['1', '2']) : answers(words)),
    subscribe: async () => undefined,
    destroy: () => undefined,
  };
  return client;
}

const on = (connection: RedisConnection) =>
  redisStore(connection, { bot: 'mallet', patience: { ms: 150 }, log: silentLog });

describe('what is no client, or no option, is told at once', () => {
  const wrong: readonly (readonly [what: string, connection: unknown, options: unknown, told: string])[] = [
    ['nothing', undefined, { bot: 'mallet' }, 'undefined is no client of Redis'],
    ['an address', 'redis://localhost', { bot: 'mallet' }, '"redis://localhost" is no client of Redis'],
    ['an object', { duplicate: () => undefined }, { bot: 'mallet' }, 'createClient or createCluster'],
    ['no options', clientThat(() => 1), undefined, 'give an object'],
    ['no bot', clientThat(() => 1), {}, "needs the bot's name"],
    ['a bot without a name', clientThat(() => 1), { bot: '' }, 'bot: is ""; give a name, such as \'mallet\''],
    ['a misspelt option', clientThat(() => 1), { bot: 'mallet', patence: '1s' }, 'write patience'],
    ['a bare number', clientThat(() => 1), { bot: 'mallet', patience: 500 }, 'a duration'],
  ];
  test.each(wrong)('%s', (_, connection, options, told) => {
    expect(() => redisStore(connection as never, options as never)).toThrow(told);
  });
});

describe('a client that', () => {
  const clients: Readonly<Record<string, readonly [problem: string, answers: () => unknown]>> = {
    'never answers': ['unreachable', () => new Promise(() => undefined)],
    'answers with a number': ['failed', async () => 7],
    'answers with nothing': ['failed', async () => undefined],
    'answers with a list of nonsense': ['failed', async () => [{}, 'x']],
    'gives no promise': ['unreachable', () => 7],
    throws: [
      'unreachable',
      () => {
        throw new Error('not now');
      },
    ],
    'rejects with nothing': ['unreachable', () => Promise.reject()],
    'rejects with an error of the server’s': ['failed', () => Promise.reject(new Error('ERR no such thing'))],
  };
  test.each(Object.entries(clients).map(([what, given]) => [what, ...given] as const))(
    '%s fails each call in time, with a problem that has a name, and nothing else',
    async (_, problem, answers) => {
      const store = on(clientThat(answers));
      const use = { limit: once, key: 'a', cost: 1, at: 1 };
      const calls = [
        store.acquire([once], ['a']),
        store.look([once], ['a']),
        store.giveBack([use]),
        store.renew([use]),
        store.reset('once', 'a'),
        store.read('v'),
        store.compareAndSet('v', 0, 'x'),
        store.increment('n', 1),
      ];
      const ends = await Promise.allSettled(calls);
      expect(ends.map((end) => (end.status === 'rejected' ? end.reason.problem : 'answered'))).toEqual(
        calls.map(() => problem),
      );
      await store.close();
      await expect(store.read('v')).rejects.toMatchObject({ problem: 'closed' });
    },
  );

  test('cannot be duplicated is no server that answers', async () => {
    const store = on({
      ...clientThat(() => 1),
      duplicate: () => {
        throw new Error('It is closed');
      },
    });
    const stop = await store.subscribe('settings', () => undefined);
    await expect(store.acquire([once], ['a'])).rejects.toMatchObject({ problem: 'unreachable' });
    stop();
    await store.close();
  });

  test('fails again and again is asked less and less often, also where its connection is replaced', async () => {
    let asked = 0;
    const failing = clientThat(() => {
      asked += 1;
      return Promise.reject(new Error('The socket has closed'));
    });
    const store = redisStore(failing, { bot: 'mallet', patience: { ms: 2500 }, log: silentLog });
    await expect(store.read('v')).rejects.toMatchObject({ problem: 'unreachable' });
    // After 10, 20, 40 … and then every 250 ms.
    expect(asked).toBeLessThanOrEqual(14);
    await store.close();
  });

  test('never answers keeps no more than ten thousand calls waiting', async () => {
    let asked = 0;
    const store = on(
      clientThat(() => {
        asked += 1;
        return new Promise(() => undefined);
      }),
    );
    await expect(store.read('v')).rejects.toMatchObject({ problem: 'unreachable' });
    asked = 0;
    const ends = await Promise.allSettled(Array.from({ length: 12_000 }, () => store.read('v')));
    expect(ends.every(({ status }) => status === 'rejected')).toBe(true);
    expect(asked).toBeLessThanOrEqual(10_000);
    await store.close();
  });
});
