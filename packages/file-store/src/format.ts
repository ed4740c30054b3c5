/** The form of a store's file: its header, what older ones become, and which file it is. */

import { closeSync, existsSync, openSync, statSync } from 'node:fs';
import { createRequire } from 'node:module';
import type Libsql from 'libsql';
import { slidingWindow } from 'taxeon/platform';
import { FileStoreError, fileError, isLockedFile } from './errors.js';

export type Connection = InstanceType<typeof Libsql>;

/** Asked for where a store is opened: a native package is in no bundle. */
function database(): typeof Libsql {
  return createRequire(import.meta.url)('libsql');
}

/** `Txn!`, which says to other programs whose the file is. */
const APPLICATION_ID = 0x54786e21;
const FORMAT = 2;

const TABLES = `
CREATE TABLE IF NOT EXISTS header (name TEXT PRIMARY KEY, value TEXT NOT NULL) WITHOUT ROWID;
CREATE TABLE IF NOT EXISTS uses (
  id TEXT NOT NULL, key TEXT NOT NULL, window_ms INTEGER NOT NULL, times TEXT NOT NULL, ends_at INTEGER NOT NULL,
  PRIMARY KEY (id, key)
) WITHOUT ROWID;
CREATE TABLE IF NOT EXISTS "values" (
  key TEXT PRIMARY KEY, value TEXT NOT NULL, version INTEGER NOT NULL, expires_at INTEGER, life_ms INTEGER
) WITHOUT ROWID;
CREATE TABLE IF NOT EXISTS messages (seq INTEGER PRIMARY KEY AUTOINCREMENT, topic TEXT NOT NULL, message TEXT NOT NULL, at INTEGER NOT NULL);
`;

/**
 * Opens a file, makes it or brings it to this format. Where another process holds it, the event loop stands still, for
 * no longer than the patience.
 *
 * @throws FileStoreError
 */
export function openFile(path: string, patienceMs: number): Connection {
  const deadline = performance.now() + patienceMs;
  const Database = database();
  try {
    makePrivately(path);
    const db = new Database(path, { timeout: 0 });
    try {
      const patiently = (work: () => unknown) => {
        db.pragma(`busy_timeout = ${Math.max(0, Math.ceil(deadline - performance.now()))}`);
        return work();
      };
      const header = (name: 'application_id' | 'user_version') => patiently(() => numberOf(db, name)) as number;
      const owner = header('application_id');
      const format = header('user_version');
      const isNew = patiently(() => db.prepare('SELECT name FROM sqlite_master LIMIT 1').get()) === undefined;
      const isFirst = !isNew && owner === 0 && hasTable(db, 'uses') && hasTable(db, 'messages');
      if (!isNew && !isFirst && owner !== APPLICATION_ID) throw new FileStoreError('foreign', path);
      if (format > FORMAT) throw new FileStoreError('newer', path);
      // Before the first table is made: space of rows that go is given back.
      if (isNew) patiently(() => db.pragma('auto_vacuum = INCREMENTAL'));
      patiently(() => db.pragma('journal_mode = WAL'));
      db.pragma('synchronous = NORMAL');
      db.pragma('wal_autocheckpoint = 256');
      if (format < FORMAT) patiently(() => upgrade(db));
      if (isFirst) giveSpaceBack(db);
      db.pragma('busy_timeout = 0');
      return db;
    } catch (error) {
      db.close();
      throw error;
    }
  } catch (error) {
    throw fileError(path, error);
  }
}

/** What is made beside it has the same mode. Where it cannot be made, opening it says why. */
function makePrivately(path: string): void {
  try {
    // What is there is left alone: it may be no file, and wait for ever.
    if (!existsSync(path)) closeSync(openSync(path, 'a', 0o600));
  } catch {
    // It is told there.
  }
}

function hasTable(db: Connection, name: string): boolean {
  return db.prepare("SELECT 1 FROM sqlite_master WHERE type = 'table' AND name = ?").get(name) !== undefined;
}

function numberOf(db: Connection, name: 'application_id' | 'user_version'): number {
  return (db.prepare(`PRAGMA ${name}`).get() as Readonly<Record<string, number>>)[name] ?? 0;
}

/** In one transaction, in which is looked again: another process may have done it at this very moment. */
function upgrade(db: Connection): void {
  db.exec('BEGIN IMMEDIATE');
  try {
    if (numberOf(db, 'user_version') < FORMAT) {
      const isFirst = hasTable(db, 'uses');
      db.exec(TABLES);
      if (isFirst) fromFirst(db);
      db.prepare('INSERT INTO header VALUES (?, ?)').run('identity', crypto.randomUUID());
      const { last } = db.prepare('SELECT coalesce(max(version), 0) AS last FROM "values"').get() as { last: number };
      db.prepare('INSERT INTO header VALUES (?, ?)').run('writes', String(last));
      db.pragma(`application_id = ${APPLICATION_ID}`);
      db.pragma(`user_version = ${FORMAT}`);
    }
    db.exec('COMMIT');
  } catch (error) {
    db.exec('ROLLBACK');
    throw error;
  }
}

/** The first format had no header, times in whole milliseconds, and did not say how long a value lives. */
function fromFirst(db: Connection): void {
  db.exec('ALTER TABLE "values" ADD COLUMN life_ms INTEGER');
  const put = db.prepare('UPDATE uses SET times = ? WHERE id = ? AND key = ?');
  for (const row of db.prepare('SELECT id, key, times FROM uses').all()) {
    const { id, key, times } = row as { id: string; key: string; times: string };
    put.run(pack(unpack(times).map((time) => time * STEPS_PER_MS)), id, key);
  }
}

/** So that it does from now on; while another process holds the file it does not. */
function giveSpaceBack(db: Connection): void {
  try {
    db.pragma('auto_vacuum = INCREMENTAL');
    db.exec('VACUUM');
  } catch (error) {
    if (!isLockedFile(error)) throw error;
  }
}

const STEPS_PER_MS = 1 / slidingWindow.stepMs;

/** Times as text, in steps of about a microsecond; the first whole, the rest as distances. */
export function pack(times: readonly number[]): string {
  return times
    .map((time, index) => ((index === 0 ? time : time - (times[index - 1] as number)) * STEPS_PER_MS).toString(36))
    .join(' ');
}

export function unpack(text: string): number[] {
  let steps = 0;
  return text.split(' ').map((distance) => {
    steps += Number.parseInt(distance, 36);
    return steps * slidingWindow.stepMs;
  });
}

/** Tells a file that was deleted, or replaced by another, from the one that was opened. */
export function fileIdentity(path: string, db: Connection): () => boolean {
  const own = db.prepare("SELECT value FROM header WHERE name = 'identity'");
  const now = () => {
    const { ino, dev } = statSync(path);
    return `${dev} ${ino} ${(own.get() as { value?: string } | undefined)?.value}`;
  };
  const opened = now();
  return () => {
    try {
      return now() === opened;
    } catch (error) {
      // A file that another process holds is there.
      return isLockedFile(error);
    }
  };
}
