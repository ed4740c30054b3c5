/** Calls on a store's file: in transactions, tried again while another process holds it, and only on the file that was opened. */
import type { Clock, MaybePromise } from 'taxeon';
import { FileStoreError, fileError, isLockedFile } from './errors.js';
import { type Connection, fileIdentity, openFile } from './format.js';

export interface FileAccess {
  readonly db: Connection;
  readonly path: string;
  /** In whole milliseconds. */
  now(): number;
  /** @throws FileStoreError where the file is another one by now */
  mustBeSame(): void;
  /** Tried again, without blocking, for as long as another process holds the file. */
  reading<T>(work: (now: number) => T): MaybePromise<T>;
  /** One transaction. */
  write<T>(work: (now: number) => T): MaybePromise<T>;
  close(): void;
}

/** How often is looked whether the file is still the one that was opened. */
const LOOK_EVERY_MS = 1000;
/** Pages of the file that are given back at once. */
const PAGES_FREED = 64;

/** Gives space back that rows have left. */
export const GIVE_SPACE_BACK = `PRAGMA incremental_vacuum(${PAGES_FREED})`;

/** @throws FileStoreError */
export function accessFile(path: string, clock: Clock, patienceMs: number): FileAccess {
  const db = openFile(path, patienceMs);
  const isSame = fileIdentity(path, db);
  const commit = db.prepare('COMMIT');
  const rollback = db.prepare('ROLLBACK');
  let lookedAt = performance.now();

  function now(): number {
    return Math.floor(clock.now());
  }

  let isClosed = false;

  /** A call on a file that is another one by now would be lost with it. */
  function mustBeSame(): void {
    if (isClosed) throw new FileStoreError('closed', path);
    if (performance.now() - lookedAt < LOOK_EVERY_MS) return;
    if (!isSame()) throw new FileStoreError('replaced', path);
    lookedAt = performance.now();
  }

  function reading<T>(work: (now: number) => T): MaybePromise<T> {
    return retrying(path, patienceMs, () => {
      mustBeSame();
      return work(now());
    });
  }

  function rollBack(): void {
    try {
      rollback.run();
    } catch {
      // A full disk has ended it already.
    }
  }

  function write<T>(work: (now: number) => T): MaybePromise<T> {
    return reading(() => {
      // Not a prepared statement: one that finds the file held would stay open in the middle, keep its view of
      // the file, and no write would ever be let through again. This is the only statement that can be held up.
      db.exec('BEGIN IMMEDIATE');
      try {
        // Not before: another process may have been here meanwhile, and its times would seem to be ahead.
        const result = work(now());
        commit.run();
        return result;
      } catch (error) {
        rollBack();
        throw error;
      }
    });
  }

  /** So that the file alone can be copied; where another process is at work on it, that one does it. */
  function writeBack(): void {
    try {
      db.pragma('wal_checkpoint(TRUNCATE)');
    } catch {
      // Nothing is lost: it stands in the file beside.
    }
  }

  return {
    db,
    path,
    now,
    mustBeSame,
    reading,
    write,
    close() {
      if (isClosed) return;
      isClosed = true;
      writeBack();
      db.close();
    },
  };
}

const FIRST_PAUSE_MS = 1;
const LONGEST_PAUSE_MS = 16;

/** Tries at once, and again after growing pauses while the file is held by another process. */
function retrying<T>(path: string, patienceMs: number, work: () => T): MaybePromise<T> {
  try {
    return work();
  } catch (error) {
    if (!isLockedFile(error)) throw fileError(path, error);
    return again(path, work, performance.now() + patienceMs, FIRST_PAUSE_MS);
  }
}

async function again<T>(path: string, work: () => T, deadline: number, pauseMs: number): Promise<T> {
  // Processes that meet once should not meet again.
  await new Promise((resolve) => setTimeout(resolve, pauseMs * (0.5 + Math.random())));
  try {
    return work();
  } catch (error) {
    if (!isLockedFile(error) || performance.now() > deadline) throw fileError(path, error);
    return again(path, work, deadline, Math.min(pauseMs * 2, LONGEST_PAUSE_MS));
  }
}
