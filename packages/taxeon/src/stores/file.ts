/** A store in one file that several processes of a machine share, through embedded SQL. */
import Database from 'libsql';
import { isThenable, type MaybePromise } from '../base/thenable.js';
import { type Clock, systemClock } from '../base/time.js';
import type { Denial, Limit, Store, Verdict } from '../contract/store.js';
import { firstAfter, grantedFrom } from '../limits/window.js';

export interface FileStoreOptions {
  readonly path: string;
  /** All processes on one file must have the same time; the machine's own by default. */
  readonly clock?: Clock;
  /** How long to wait for a file that another process holds, in milliseconds; 2000 by default. */
  readonly patienceMs?: number;
  /** How often to look for messages of other processes, in milliseconds; 200 by default. */
  readonly pollMs?: number;
}

const SCHEMA = `
CREATE TABLE IF NOT EXISTS uses (
  id TEXT NOT NULL, key TEXT NOT NULL, window_ms INTEGER NOT NULL, times TEXT NOT NULL, ends_at INTEGER NOT NULL,
  PRIMARY KEY (id, key)
) WITHOUT ROWID;
CREATE TABLE IF NOT EXISTS "values" (key TEXT PRIMARY KEY, value TEXT NOT NULL, version INTEGER NOT NULL, expires_at INTEGER) WITHOUT ROWID;
CREATE TABLE IF NOT EXISTS messages (seq INTEGER PRIMARY KEY AUTOINCREMENT, topic TEXT NOT NULL, message TEXT NOT NULL, at INTEGER NOT NULL);
`;

/** A message is gone after this long: whoever polls has seen it many times over. */
const MESSAGE_LIFE_MS = 60_000;
/** How many keys are looked at at once for having expired, and after how many acquires. */
const WALKED = 64;
const SWEEP_EVERY = 16;
/**
 * Opens a store in a file, in write-ahead mode with `synchronous = NORMAL`: what was acknowledged
 * survives the death of a process (`kill -9`); the last moments may be lost when the machine loses power.
 *
 * Where another process holds the file, calls wait with timers, so the event loop goes on; a call is
 * synchronous only while nobody is in the way.
 *
 * @throws Error where the file cannot be opened.
 */
export function fileStore({ path, clock = systemClock, patienceMs = 2000, pollMs = 200 }: FileStoreOptions): Store {
  const db = new Database(path, { timeout: 0 });
  // Another process may be setting up the same file at this very moment.
  db.pragma('busy_timeout = 2000');
  db.pragma('journal_mode = WAL');
  db.pragma('synchronous = NORMAL');
  db.pragma('wal_autocheckpoint = 256');
  db.exec(SCHEMA);
  db.pragma('busy_timeout = 0');

  const sql = {
    commit: db.prepare('COMMIT'),
    rollback: db.prepare('ROLLBACK'),
    times: db.prepare('SELECT times FROM uses WHERE id = ? AND key = ?'),
    put: db.prepare(
      'INSERT INTO uses VALUES (?, ?, ?, ?, ?) ON CONFLICT (id, key) DO UPDATE SET window_ms = excluded.window_ms, times = excluded.times, ends_at = excluded.ends_at',
    ),
    endsAt: db.prepare('SELECT ends_at FROM uses WHERE id = ? AND key = ?'),
    drop: db.prepare('DELETE FROM uses WHERE id = ? AND key = ?'),
    walk: db.prepare(`SELECT id, key, ends_at FROM uses WHERE (id, key) > (?, ?) ORDER BY id, key LIMIT ${WALKED}`),
    live: db.prepare('SELECT id, key, window_ms, times, ends_at FROM uses WHERE ends_at > ?'),
    value: db.prepare('SELECT value, version FROM "values" WHERE key = ? AND (expires_at IS NULL OR expires_at > ?)'),
    values: db.prepare(
      'SELECT key, value FROM "values" WHERE substr(key, 1, ?) = ? AND (expires_at IS NULL OR expires_at > ?)',
    ),
    setValue: db.prepare(
      'INSERT INTO "values" VALUES (?, ?, ?, ?) ON CONFLICT (key) DO UPDATE SET value = excluded.value, version = excluded.version, expires_at = excluded.expires_at',
    ),
    say: db.prepare('INSERT INTO messages (topic, message, at) VALUES (?, ?, ?)'),
    forgetMessages: db.prepare('DELETE FROM messages WHERE at < ?'),
    lastMessage: db.prepare('SELECT max(seq) AS seq FROM messages'),
    messages: db.prepare('SELECT seq, topic, message FROM messages WHERE seq > ? ORDER BY seq'),
  };

  let latest = Number.NEGATIVE_INFINITY;

  /** Never goes back in this process; times in the file that are later still are respected key by key. */
  function now(): number {
    latest = Math.max(latest, Math.floor(clock.now()));
    return latest;
  }

  /** One transaction; tried again, without blocking, for as long as another process holds the file. */
  function write<T>(work: (now: number) => T): MaybePromise<T> {
    return retrying(() => {
      // Not a prepared statement: one that finds the file held would stay open in the middle, keep its view of
      // the file, and no write would ever be let through again. This is the only statement that can be held up.
      db.exec('BEGIN IMMEDIATE');
      try {
        const result = work(now());
        sql.commit.run();
        return result;
      } catch (error) {
        sql.rollback.run();
        throw error;
      }
    }, patienceMs);
  }

  function timesOf(limit: Pick<Limit, 'id'>, key: string): number[] {
    const row = sql.times.get(limit.id, key) as { times: string } | undefined;
    return row === undefined ? [] : unpack(row.times);
  }

  function store(limit: Limit, key: string, times: readonly number[]): void {
    const last = times.at(-1);
    if (last === undefined) sql.drop.run(limit.id, key);
    else sql.put.run(limit.id, key, limit.windowMs, pack(times), last + limit.windowMs);
  }

  function judge(
    limits: readonly Limit[],
    lists: readonly number[][],
    at: number,
    costs: readonly number[] | undefined,
  ): Denial | undefined {
    let found: Denial | undefined;
    for (const [index, limit] of limits.entries()) {
      const endsAt = grantedFrom(lists[index] ?? [], at, limit.uses, limit.windowMs, costs?.[index] ?? 1);
      if (endsAt !== undefined && (found === undefined || endsAt > found.endsAt)) {
        found = { granted: false, index, retryAfterMs: endsAt - at, endsAt };
      }
    }
    return found;
  }

  function acquire(
    limits: readonly Limit[],
    keys: readonly string[],
    costs: readonly number[] | undefined,
  ): MaybePromise<Verdict> {
    return write((moment) => {
      const lists = limits.map((limit, index) => timesOf(limit, keys[index] as string));
      // A process whose clock is ahead may have been here.
      const at = Math.max(moment, ...lists.map((times) => times.at(-1) ?? 0));
      const denial = judge(limits, lists, at, costs);
      if (denial !== undefined) return denial;
      for (const [index, limit] of limits.entries()) {
        store(limit, keys[index] as string, withUses(limit, lists[index] ?? [], at, costs?.[index] ?? 1));
      }
      acquires += 1;
      if (acquires % SWEEP_EVERY === 0) sweep(at);
      return { granted: true, at };
    });
  }

  let acquires = 0;
  let walked = { id: '', key: '' };

  /** Walks round and round through all keys and frees those that have expired: an index on their end would cost more at each use. */
  function sweep(at: number): void {
    const rows = sql.walk.all(walked.id, walked.key) as { id: string; key: string; ends_at: number }[];
    for (const { id, key, ends_at } of rows) if (ends_at <= at) sql.drop.run(id, key);
    walked = rows.length < WALKED ? { id: '', key: '' } : (rows.at(-1) ?? walked);
  }

  const listeners = new Map<string, Set<(message: string) => void>>();
  let seen = 0;
  let poll: ReturnType<typeof setInterval> | undefined;

  function deliver(): void {
    let rows: { seq: number; topic: string; message: string }[];
    try {
      rows = sql.messages.all(seen) as typeof rows;
    } catch (error) {
      if (isBusy(error)) return;
      throw error;
    }
    for (const { seq, topic, message } of rows) {
      seen = seq;
      for (const listener of [...(listeners.get(topic) ?? [])]) listener(message);
    }
  }

  return {
    acquire,
    look: (limits, keys, costs) =>
      retrying((): Verdict => {
        const at = now();
        return (
          judge(
            limits,
            limits.map((limit, index) => timesOf(limit, keys[index] as string)),
            at,
            costs,
          ) ?? { granted: true, at }
        );
      }, patienceMs),
    giveBack: (limits, keys, at, costs) =>
      write(() => {
        for (const [index, limit] of limits.entries()) {
          const key = keys[index] as string;
          const times = timesOf(limit, key);
          const last = times.lastIndexOf(at);
          if (last < 0) continue;
          const count = Math.min(costs?.[index] ?? 1, limit.uses, last - times.indexOf(at) + 1);
          times.splice(last - count + 1, count);
          store(limit, key, times);
        }
      }),
    live: () =>
      retrying(() => {
        const at = now();
        const rows = sql.live.all(at) as {
          id: string;
          key: string;
          window_ms: number;
          times: string;
          ends_at: number;
        }[];
        return rows.map(({ id, key, window_ms, times, ends_at }) => {
          const list = unpack(times);
          return { id, key, uses: list.length - firstAfter(list, at - window_ms), endsAt: ends_at };
        });
      }, patienceMs),
    reset: (id, key) =>
      write((at) => {
        const row = sql.endsAt.get(id, key) as { ends_at: number } | undefined;
        sql.drop.run(id, key);
        return row !== undefined && row.ends_at > at;
      }),

    read: (key) =>
      retrying(() => {
        const row = sql.value.get(key, now()) as { value: string; version: number } | undefined;
        return row === undefined ? undefined : { value: row.value, version: row.version };
      }, patienceMs),
    compareAndSet: (key, expected, value, expiresInMs) =>
      write((at) => {
        const row = sql.value.get(key, at) as { version: number } | undefined;
        const version = row?.version ?? 0;
        if (version !== expected) return false;
        sql.setValue.run(key, value, version + 1, expiresInMs === undefined ? null : at + expiresInMs);
        return true;
      }),
    increment: (key, by) =>
      write((at) => {
        const row = sql.value.get(key, at) as { value: string; version: number } | undefined;
        const sum = Number(row?.value ?? 0) + by;
        sql.setValue.run(key, String(sum), (row?.version ?? 0) + 1, null);
        return sum;
      }),

    entries: (prefix) =>
      retrying(() => {
        const rows = sql.values.all(prefix.length, prefix, now()) as { key: string; value: string }[];
        return rows.map(({ key, value }) => [key, value] as const);
      }, patienceMs),

    publish(topic, message) {
      const said = write((at) => {
        sql.say.run(topic, message, at);
        sql.forgetMessages.run(at - MESSAGE_LIFE_MS);
      });
      return isThenable(said) ? said.then(deliver) : deliver();
    },
    subscribe(topic, listener) {
      if (poll === undefined) {
        seen = (sql.lastMessage.get() as { seq: number | null }).seq ?? 0;
        poll = setInterval(deliver, pollMs);
        poll.unref();
      }
      const all = listeners.get(topic) ?? new Set();
      listeners.set(topic, all.add(listener));
      return () => void all.delete(listener);
    },
    close() {
      clearInterval(poll);
      db.close();
    },
  };
}

/** Times as text; the first whole, the rest as distances. */
function pack(times: readonly number[]): string {
  return times.map((time, index) => (index === 0 ? time : time - (times[index - 1] as number)).toString(36)).join(' ');
}

function unpack(text: string): number[] {
  let time = 0;
  return text.split(' ').map((distance) => {
    time += Number.parseInt(distance, 36);
    return time;
  });
}

/** The times that still count, and the new ones. */
function withUses({ uses, windowMs }: Limit, times: readonly number[], at: number, cost: number): number[] {
  const live = times.slice(firstAfter(times, at - windowMs));
  for (let use = Math.min(cost, uses); use > 0; use--) live.push(at);
  return live;
}

function isBusy(error: unknown): boolean {
  const code = (error as { code?: unknown }).code;
  return typeof code === 'string' && code.startsWith('SQLITE_BUSY');
}

const FIRST_PAUSE_MS = 1;
const LONGEST_PAUSE_MS = 16;

/** Tries at once, and again after growing pauses while the file is held by another process. */
function retrying<T>(work: () => T, patienceMs: number): MaybePromise<T> {
  try {
    return work();
  } catch (error) {
    if (!isBusy(error)) throw error;
    return again(work, performance.now() + patienceMs, FIRST_PAUSE_MS);
  }
}

async function again<T>(work: () => T, deadline: number, pauseMs: number): Promise<T> {
  // Processes that meet once should not meet again.
  await new Promise((resolve) => setTimeout(resolve, pauseMs * (0.5 + Math.random())));
  try {
    return work();
  } catch (error) {
    if (!isBusy(error) || performance.now() > deadline) throw error;
    return again(work, deadline, Math.min(pauseMs * 2, LONGEST_PAUSE_MS));
  }
}
