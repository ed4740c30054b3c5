/** Limits: the memory store's size and speed, and the file store's against bare SQL. */
import { spawn } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { monitorEventLoopDelay } from 'node:perf_hooks';
import Database from 'libsql';
import { RateLimiterMemory } from 'rate-limiter-flexible';
import { type Limit, memoryStore, type Store } from 'taxeon';
import { fileStore } from 'taxeon/file-store';
import { compare, printRatios, type Ratio, type Side } from './compare.js';

const MILLION = 1_000_000;
const MINUTE = 60_000;
const limit: Limit = { id: 'bench/user', uses: 3, windowMs: MINUTE };

/** 18 digits, as ids of large systems are. */
function ids(count: number, from = 0): string[] {
  return Array.from({ length: count }, (_, index) => String(100_000_000_000_000_000n + BigInt(from + index) * 7n));
}

function heap(): number {
  for (let round = 0; round < 3; round++) globalThis.gc?.();
  // Array buffers are part of what is external.
  const { heapUsed, external } = process.memoryUsage();
  return heapUsed + external;
}

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
    const keys = ids(MILLION);
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
    for (const key of ids(MILLION / 4, (round * MILLION) / 4)) {
      now += MINUTE / MILLION;
      store.acquire([limit], [key]);
    }
    const used = heap() - before;
    if (round >= 4) bytes = Math.max(bytes, used / (await liveIn(store)));
  }
  // Everybody has gone; a few others come often enough for all keys to be passed by.
  now += 2 * MINUTE;
  const few = ids(10, 100 * MILLION);
  for (let use = 0; use < MILLION; use++) {
    now += MINUTE;
    store.acquire([limit], [few[use % few.length] as string]);
  }
  return { bytes, left: heap() - before };
}

function ours(keys: readonly string[]): Side {
  let now = 0;
  const store = memoryStore({ clock: { now: () => now } });
  const limits = [limit];
  let at = 0;
  return {
    name: 'ours',
    batch(size) {
      for (let index = 0; index < size; index++) {
        at = (at + 1) % keys.length;
        // Every key is used three times a minute: never refused, never expired.
        if (at === 0) now += MINUTE / 3;
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

async function awaited(side: Side): Promise<Side> {
  return side;
}

async function against(count: number): Promise<Ratio> {
  const keys = ids(count);
  const [own, other] = [await awaited(ours(keys)), await awaited(theirs(keys))];
  // Both hold all keys before anything is measured.
  await own.batch(count);
  await other.batch(count);
  return compare({
    name: `memory acquire, ${count.toLocaleString('en')} keys`,
    ours: own,
    yardstick: other,
    size: 5_000,
  });
}

const folder = mkdtempSync(join(tmpdir(), 'oddmere-bench-'));

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

/** Another process holds the file for half a second, again and again, while this one asks. */
async function heldFile(path: string): Promise<{ longestCallMs: number; longestDelayMs: number; calls: number }> {
  const store = fileStore({ path });
  const holder = spawn(process.execPath, ['--input-type=commonjs', '-e', HOLDER, path], {
    stdio: ['ignore', 'pipe', 'inherit'],
    cwd: process.cwd(),
  });
  await new Promise((resolve) => holder.stdout?.once('data', resolve));
  const delay = monitorEventLoopDelay({ resolution: 1 });
  delay.enable();
  let longestCallMs = 0;
  let calls = 0;
  const stopAt = performance.now() + 4_000;
  while (performance.now() < stopAt) {
    const begun = performance.now();
    const asked = store.acquire([{ id: 'held', uses: 1e6, windowMs: 1000 }], ['a']);
    longestCallMs = Math.max(longestCallMs, performance.now() - begun);
    await asked;
    calls += 1;
    await new Promise((resolve) => setTimeout(resolve, 5));
  }
  delay.disable();
  holder.kill();
  await store.close();
  return { longestCallMs, longestDelayMs: delay.max / 1e6, calls };
}

const HOLDER = `
const Database = require('libsql');
const db = new Database(process.argv[1], { timeout: 1000 });
const hold = () => { db.exec('BEGIN IMMEDIATE'); setTimeout(() => { db.exec('COMMIT'); setTimeout(hold, 100); }, 500); };
hold();
console.log('held');
`;

const filled = await filledOnce();
const steady = await steadyStream();
console.log('\n| a live key in memory, up to 3 uses, 18-digit ids, a million of them | |\n|---|---|');
console.log(`| filled once | ${filled.bytes.toFixed(0)} bytes |`);
console.log(`| worst of a steady stream | ${steady.bytes.toFixed(0)} bytes |`);
console.log(`| kept in all once they have expired and others came | ${(steady.left / 1024).toFixed(0)} KiB |`);
console.log(`| longest single call while filling | ${filled.longestCallMs.toFixed(1)} ms |`);

try {
  const keys = ids(10_000);
  printRatios('bench/limits', [
    await against(10_000),
    await against(MILLION),
    await compare({
      name: 'file acquire, against a bare prepared read and upsert',
      ours: filed(join(folder, 'ours.db'), keys),
      yardstick: bare(join(folder, 'bare.db'), keys),
      size: 200,
    }),
  ]);
  const held = await heldFile(join(folder, 'held.db'));
  console.log(
    `\nwhile another process holds the file for 500 ms at a time: ${held.calls} calls, the longest kept the event loop for ${held.longestCallMs.toFixed(1)} ms; longest delay of the loop ${held.longestDelayMs.toFixed(1)} ms`,
  );
} finally {
  rmSync(folder, { recursive: true, force: true });
}
process.exit(0);
