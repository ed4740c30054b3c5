/** The trials of a store fail where its contract is not kept: each of these stores has one defect. */

import type { VirtualClock } from '@taxeon/testing';
import { storeTrials } from '@taxeon/testing/trials';
import { memoryStore, type Store } from 'taxeon';
import type { Limit } from 'taxeon/platform';
import { describe, expect, test } from 'vitest';

type Defect = (store: Store, clock: VirtualClock) => Partial<Store>;

const wider = (limits: readonly Limit[]) => limits.map((one) => ({ ...one, uses: one.uses + 1 }));
const later = <T>(what: () => T) => new Promise<T>((resolve) => setTimeout(() => resolve(what()), 1));

/** By what is wrong with it: the trial that finds it, and the store. */
const defects: Readonly<Record<string, readonly [trial: string, defect: Defect]>> = {
  'grants one use too many': [
    'grants as many uses as the window allows, and says when the next is granted',
    (store) => ({ acquire: (limits, keys, costs) => store.acquire(wider(limits), keys, costs) }),
  ],
  'opens the window a moment too early': [
    'grants as many uses as the window allows, and says when the next is granted',
    (store) => ({
      acquire: (limits, keys, costs) =>
        store.acquire(
          limits.map((one) => ({ ...one, windowMs: one.windowMs - 1 })),
          keys,
          costs,
        ),
    }),
  ],
  'takes each limit by itself': [
    'takes nothing of any limit where one of them is full, and names the one that ends last',
    (store) => ({
      async acquire(limits, keys, costs) {
        for (const [index, limit] of limits.entries()) {
          const verdict = await store.acquire([limit], [keys[index] as string], [costs?.[index] ?? 1]);
          if (!verdict.granted) return { ...verdict, index };
        }
        return { granted: true, at: Date.now() };
      },
    }),
  ],
  'has one counter for all keys': [
    'counts keys and limits apart',
    (store) => ({
      acquire: (limits, _, costs) =>
        store.acquire(
          limits,
          limits.map(() => 'all'),
          costs,
        ),
    }),
  ],
  'takes every call as one use': [
    'takes a cost of several uses, and all there are where it is more',
    (store) => ({ acquire: (limits, keys) => store.acquire(limits, keys) }),
  ],
  'gives nothing back': [
    'gives back what was taken, once, and nothing that is gone',
    () => ({ giveBack: () => undefined }),
  ],
  'gives back whatever use there is': [
    'tells uses of one moment apart, so that giving back one twice leaves the others',
    (store) => ({
      async giveBack(uses) {
        for (const { limit, key } of uses) await store.reset(limit.id, key);
      },
    }),
  ],
  'renews nothing': [
    'renews what runs on, takes again what has run out where there is room, and names what is lost',
    () => ({ renew: (uses) => ({ at: uses[0]?.at ?? 0, lost: [] }) }),
  ],
  'believes a clock that was ahead': [
    'freezes nothing where the clock was ahead by a year for one use',
    (_, clock) => {
      const uses = new Map<string, number>();
      return {
        acquire([limit], [key]) {
          const id = `${limit?.id} ${key}`;
          const until = uses.get(id) ?? 0;
          const now = clock.now();
          if (until > now) return { granted: false, index: 0, retryAfterMs: until - now, endsAt: until };
          uses.set(id, now + (limit?.windowMs ?? 0));
          return { granted: true, at: now };
        },
      };
    },
  ],
  'takes a use where it only looks': [
    'takes nothing where it only looks',
    (store) => ({ look: (limits, keys, costs) => store.acquire(limits, keys, costs) }),
  ],
  'looks first and takes later': [
    'grants those who ask at one moment no more than there is',
    (store) => ({
      async acquire(limits, keys, costs) {
        const verdict = await later(() => store.look(limits, keys, costs));
        if (verdict.granted) await later(() => store.acquire(wider(wider(wider(limits))), keys, costs));
        return verdict;
      },
    }),
  ],
  'joins ids and keys with a sign that may be in them': [
    'takes ids and keys of any form, and keeps them apart',
    (store) => ({
      acquire: (limits, keys, costs) =>
        store.acquire(
          limits.map((one) => ({ ...one, id: 'all' })),
          limits.map((one, index) => `${one.id}:${keys[index]}`),
          costs,
        ),
      reset: (id, key) => store.reset('all', `${id}:${key}`),
      async *live() {
        for await (const page of store.live()) {
          yield page.map((one) => {
            const [id = '', ...key] = one.key.split(':');
            return { ...one, id, key: key.join(':') };
          });
        }
      },
    }),
  ],
  'forgets nothing': ['lists what is live, and forgets a key', () => ({ reset: () => false })],
  'lists what has run out': [
    'lists what is live, and forgets a key',
    (store) => {
      const seen: { id: string; key: string; uses: number; endsAt: number }[] = [];
      return {
        async *live() {
          for await (const page of store.live()) seen.push(...page);
          yield [...seen];
        },
      };
    },
  ],
  'writes over any version': [
    'writes a value only over the version that is expected',
    () => ({ compareAndSet: () => true }),
  ],
  'begins again at the first version': [
    'writes a value only over the version that is expected',
    (_, clock) => {
      const kept = new Map<string, { value: string; version: number; until: number }>();
      const live = (key: string) => {
        const found = kept.get(key);
        return found === undefined || found.until <= clock.now() ? undefined : found;
      };
      return {
        read: live,
        compareAndSet(key, expected, value, expiresInMs = Number.POSITIVE_INFINITY) {
          const version = live(key)?.version ?? 0;
          if (version !== expected) return false;
          kept.set(key, { value, version: version + 1, until: clock.now() + expiresInMs });
          return true;
        },
      };
    },
  ],
  'reads, waits and writes': [
    'lets one of those who write at one moment win',
    (store) => ({
      async compareAndSet(key, expected, value, expiresInMs) {
        const before = await later(() => store.read(key));
        const { version = 0 } = (await before) ?? {};
        if (version !== expected) return false;
        const now = (await store.read(key))?.version ?? 0;
        return later(() => store.compareAndSet(key, now, value, expiresInMs)).then(() => true);
      },
    }),
  ],
  'reads a number, waits and adds': [
    'adds what many add at one moment',
    (store) => ({
      async increment(key, by) {
        const before = Number((await store.read(key))?.value ?? 0);
        await later(() => store.increment(key, by));
        return before + by;
      },
    }),
  ],
  'adds to a text': [
    'adds nothing to a text, and no time but a length of one',
    (store) => ({ increment: async (key, by) => (key === 'v' ? Number.NaN : store.increment(key, by)) }),
  ],
  'keeps a value for ever where the time is nonsense': [
    'adds nothing to a text, and no time but a length of one',
    (store) => ({
      compareAndSet: (key, expected, value, expiresInMs = 0) =>
        expiresInMs > 0
          ? store.compareAndSet(key, expected, value, expiresInMs)
          : store.compareAndSet(key, expected, value),
    }),
  ],
  'keeps texts of one line': [
    'keeps texts and keys of any form',
    (store) => ({
      compareAndSet: (key, expected, value, expiresInMs) =>
        store.compareAndSet(key, expected, value.split('\n')[0] ?? '', expiresInMs),
    }),
  ],
  'takes a prefix for a pattern': [
    'keeps texts and keys of any form',
    (store) => ({
      entries: async (prefix) => (await store.entries('')).filter(([key]) => key.startsWith(prefix.replace(/\*$/, ''))),
    }),
  ],
  'lists values that are gone': [
    'lists no value that is gone',
    (store) => {
      const written = new Map<string, string>();
      return {
        compareAndSet(key, expected, value, expiresInMs) {
          written.set(key, value);
          return store.compareAndSet(key, expected, value, expiresInMs);
        },
        entries: (prefix) => [...written].filter(([key]) => key.startsWith(prefix)),
      };
    },
  ],
  'tells nobody': ['tells subscribers of a topic, until they leave', () => ({ publish: () => undefined })],
  'lets one listener end it for the others': [
    'tells all who listen, also where one of them fails',
    () => {
      const all: ((message: string) => void)[] = [];
      return {
        subscribe: (_, listener) => {
          all.push(listener);
          return () => undefined;
        },
        publish: (_, message) => {
          for (const listener of all) listener(message);
        },
      };
    },
  ],
  'shares no uses': ['counts the uses of all processes together', (_, clock) => memoryStore({ clock })],
  'shares no values': [
    'shows every process what one has written, and lets one win',
    (_, clock) => memoryStore({ clock }),
  ],
  'tells nobody elsewhere': ['tells every process, and the one that tells once', (_, clock) => memoryStore({ clock })],
};

describe('a store that', () => {
  test.each(Object.entries(defects).map(([what, [name, defect]]) => [what, name, defect] as const))(
    '%s fails “%s”',
    async (_what, name, defect) => {
      let store: Store | undefined;
      const right = {
        open: (clock: VirtualClock) => {
          store = memoryStore({ clock });
          return store;
        },
        openAnother: () => ({ ...(store as Store), close: () => undefined }),
      };
      const wrong = {
        open: (clock: VirtualClock) => ({ ...right.open(clock), ...defect(store as Store, clock) }),
        openAnother: (clock: VirtualClock) => ({ ...right.openAnother(), ...defect(store as Store, clock) }),
      };
      const trial = storeTrials.find((one) => one.name === name);
      expect(await trial?.run(right)).toBe(undefined);
      await expect(trial?.run(wrong)).rejects.toThrow();
    },
  );
});
