/** Limits: the memory store's size and speed, and the file store's against bare SQL. */
import { spawn } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileStore } from '@taxeon/file-store';
import Database from 'libsql';
import { RateLimiterMemory } from 'rate-limiter-flexible';
import { memoryStore, type Store } from 'taxeon';
import type { Limit } from 'taxeon/platform';
import { idsOf, movableClock } from '../bots/oddmere.js';
import { compare, type Side } from '../measure/compare.js';
import { heap } from '../measure/heap.js';
import { type Figure, one, type Row } from '../measure/row.js';

const MILLION = 1_000_000;
const MINUTE = 60_000;
const limit: Limit = { id: 'bench/user', uses: 3, windowMs: MINUTE };

async function liveIn(store: Store): Promise<number> {
  let count = 0;
  for await (const page of store.live()) count += page.length;
  return count;
}

/** What a live key takes with its id, a million of them filled at once and used twice. */
async function filledOnce(): Promise<{ bytes: number; longestCallMs: number }> {
  const store = memoryStore({ clock: { now: () => 0 } });
  const before = heap();
  let longestCallMs = 0;
  (() => {
    const keys = idsOf(MILLION);
    for (let use = 0; use < 2; use++) {
      for (const key of keys) {
        const begun = performance.now();
        store.acquire([limit], [key]);
        longestCallMs = Math.max(longestCallMs, performance.now() - begun);
      }
    }
  })();
  const bytes = (heap() - before) / MILLION;
  if ((await liveIn(store)) !== MILLION) throw new Error('keys are missing');
  return { bytes, longestCallMs };
}

/** The same in a steady stream of new people, a million of them live at any time; the worst of it, and what stays behind. */
async function steadyStream(): Promise<{ bytes: number; left: number }> {
  let now = 0;
  const store = memoryStore({ clock: { now: () => now } });
  const before = heap();
  let bytes = 0;
  for (let round = 0; round < 20; round++) {
    for (const key of idsOf(MILLION / 4, (round * MILLION) / 4)) {
      now += MINUTE / MILLION;
      store.acquire([limit], [key]);
    }
    const used = heap() - before;
    if (round >= 4) bytes = Math.max(bytes, used / (await liveIn(store)));
  }
  // Everybody has gone; a few others come often enough for all keys to be passed by.
  now += 2 * MINUTE;
  const few = idsOf(10, 100 * MILLION);
  for (let use = 0; use < MILLION; use++) {
    now += MINUTE;
    store.acquire([limit], [few[use % few.length] as string]);
  }
  return { bytes, left: heap() - before };
}

function ours(keys: readonly string[]): Side {
  const clock = movableClock();
  const store = memoryStore({ clock });
  const limits = [limit];
  let at = 0;
  return {
    name: 'ours',
    batch(size) {
      for (let index = 0; index < size; index++) {
        at = (at + 1) % keys.length;
        // Every key is used three times a minute: never refused, never expired.
        if (at === 0) clock.moveOn(MINUTE / 3);
        const verdict = store.acquire(limits, [keys[at] as string]);
        if (!('granted' in verdict && verdict.granted)) throw new Error('refused by accident');
      }
    },
  };
}

function theirs(keys: readonly string[]): Side {
  const limiter = new RateLimiterMemory({ points: 1_000_000, duration: 60 });
  let at = 0;
  return {
    name: 'rate-limiter-flexible',
    async batch(size) {
      for (let index = 0; index < size; index++) {
        at = (at + 1) % keys.length;
        await limiter.consume(keys[at] as string);
      }
    },
  };
}

/** All hold all keys before anything is measured. */
async function against(count: number): Promise<Figure> {
  const keys = idsOf(count);
  const [own, second, other] = [ours(keys), ours(keys), theirs(keys)];
  for (const side of [own, second, other]) await side.batch(count);
  const waiting = [own, second];
  return compare({ ours: () => waiting.shift() as Side, yardstick: () => other, size: 5_000 });
}

function bare(path: string, keys: readonly string[]): Side {
  const db = new Database(path, { timeout: 0 });
  for (const text of ['journal_mode = WAL', 'synchronous = NORMAL', 'wal_autocheckpoint = 256']) db.pragma(text);
  db.exec('CREATE TABLE IF NOT EXISTS uses (key TEXT PRIMARY KEY, times TEXT NOT NULL) WITHOUT ROWID');
  const read = db.prepare('SELECT times FROM uses WHERE key = ?');
  const write = db.prepare('INSERT INTO uses VALUES (?, ?) ON CONFLICT (key) DO UPDATE SET times = excluded.times');
  let at = 0;
  return {
    name: 'bare read and upsert',
    batch(size) {
      for (let index = 0; index < size; index++) {
        at = (at + 1) % keys.length;
        read.get(keys[at]);
        write.run(keys[at], String(Date.now()));
      }
    },
  };
}

function filed(path: string, keys: readonly string[]): Side {
  const store = fileStore({ path });
  const limits: readonly Limit[] = [{ id: 'bench', uses: 1_000, windowMs: 1 }];
  let at = 0;
  return {
    name: 'file store',
    async batch(size) {
      for (let index = 0; index < size; index++) {
        at = (at + 1) % keys.length;
        const verdict = await store.acquire(limits, [keys[at] as string]);
        if (!verdict.granted) throw new Error('refused by accident');
      }
    },
  };
}

/** Another process holds the file for half a second, again and again, while this one asks. In milliseconds. */
async function heldFile(path: string): Promise<number> {
  const store = fileStore({ path });
  const holder = spawn(process.execPath, ['--input-type=commonjs', '-e', HOLDER, path], {
    stdio: ['ignore', 'pipe', 'inherit'],
    cwd: process.cwd(),
  });
  await new Promise((resolve) => holder.stdout?.once('data', resolve));
  let longestMs = 0;
  const stopAt = performance.now() + 4_000;
  while (performance.now() < stopAt) {
    const begun = performance.now();
    const asked = store.acquire([{ id: 'held', uses: 1e6, windowMs: 1000 }], ['a']);
    longestMs = Math.max(longestMs, performance.now() - begun);
    await asked;
    await new Promise((resolve) => setTimeout(resolve, 5));
  }
  holder.kill();
  await store.close();
  return longestMs;
}

const HOLDER = `
const Database = require('libsql');
const db = new Database(process.argv[1], { timeout: 1000 });
const hold = () => { db.exec('BEGIN IMMEDIATE'); setTimeout(() => { db.exec('COMMIT'); setTimeout(hold, 100); }, 500); };
hold();
console.log('held');
`;

/** What a limit takes that one person has used once, and how long that first use takes; `count` of them. */
function usedOnce(count: number): { readonly bytes: number; readonly firstUseUs: number } {
  const limits = Array.from({ length: count }, (_, index): [Limit] => [
    { id: `command-${index}/user`, uses: 3, windowMs: MINUTE },
  ]);
  const store = memoryStore();
  const [key = ''] = idsOf(1);
  const before = heap();
  const start = process.hrtime.bigint();
  for (const each of limits) store.acquire(each, [key]);
  const firstUseUs = Number(process.hrtime.bigint() - start) / count / 1000;
  const bytes = (heap() - before) / count;
  for (const each of limits) store.giveBack([{ limit: each[0], key, at: 0, cost: 1 }]);
  return { bytes, firstUseUs };
}

function inFolder<T>(use: (folder: string) => Promise<T>): Promise<T> {
  const folder = mkdtempSync(join(tmpdir(), 'oddmere-bench-'));
  return use(folder).finally(() => rmSync(folder, { recursive: true, force: true }));
}

export const limits: readonly Row[] = [
  {
    name: 'key-bytes',
    what: 'a live key in memory, up to 3 uses, ids of 20 characters, a million of them filled once',
    goal: 100,
    unit: 'bytes',
    measure: async () => one((await filledOnce()).bytes),
  },
  {
    name: 'key-bytes-steady',
    what: 'the worst of a steady stream of new people',
    goal: 150,
    unit: 'bytes',
    measure: async () => one((await steadyStream()).bytes),
  },
  {
    name: 'keys-left',
    what: 'what a million keys leave behind once they have expired and others came',
    goal: 100,
    unit: 'KiB',
    measure: async () => one(Math.max(0, (await steadyStream()).left / 1024)),
  },
  {
    name: 'fill-pause',
    what: 'the longest single call while a million keys are filled in',
    goal: 100,
    unit: 'ms',
    processes: 3,
    measure: async () => one((await filledOnce()).longestCallMs),
  },
  ...[1000, 4000].flatMap((count): Row[] => [
    {
      name: `limit-bytes-${count}`,
      what: `a limit that one person has used once, of ${count.toLocaleString('en')} of them`,
      goal: 5000,
      unit: 'bytes',
      measure: () => one(usedOnce(count).bytes),
    },
    {
      name: `limit-first-${count}`,
      what: 'its first use',
      goal: 150,
      unit: 'µs',
      processes: 5,
      measure: () => one(usedOnce(count).firstUseUs),
    },
  ]),
  {
    name: 'memory-10000',
    what: 'memory acquire with 10,000 keys, against the memory limiter of rate-limiter-flexible',
    goal: 0.33,
    unit: '×',
    why: '15 % is looking at the clock, which both sides do; 20 % finding the key among the others.',
    measure: () => against(10_000),
  },
  {
    name: 'memory-million',
    what: 'the same with a million keys',
    goal: 0.67,
    unit: '×',
    measure: () => against(MILLION),
  },
  {
    name: 'file',
    what: 'file acquire, against a bare prepared read and upsert with the same durability',
    goal: 1.5,
    unit: '×',
    why: 'Ours reads and writes in one transaction, so that two processes never grant the same use: its BEGIN and COMMIT are two statements more than the bare pair has. A single statement that compares and writes cannot be used: one that finds the file held stays open in this client.',
    measure: () =>
      inFolder((folder) => {
        const keys = idsOf(10_000);
        let files = 0;
        return compare({
          ours: () => filed(join(folder, `ours-${++files}.db`), keys),
          yardstick: () => bare(join(folder, 'bare.db'), keys),
          size: 200,
        });
      }),
  },
  {
    name: 'file-held',
    what: 'the longest that a call keeps the event loop while another process holds the file for 500 ms at a time',
    goal: 20,
    unit: 'ms',
    measure: () => inFolder(async (folder) => one(await heldFile(join(folder, 'held.db')))),
  },
];
