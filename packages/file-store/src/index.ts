/** A store in one file that several processes of a machine share, through embedded SQL. */

import { resolve } from 'node:path';
import { type Clock, type Duration, type Log, type Store, systemClock } from 'taxeon';
import { millisecondsOf, safeLog } from 'taxeon/platform';
import { accessFile } from './access.js';
import { fileError } from './errors.js';
import { messagesIn } from './messages.js';
import { usesIn } from './uses.js';
import { valuesIn } from './values.js';

export { FileStoreError } from './errors.js';

/** Which file, and how long it is waited for. */
export interface FileStoreOptions {
  readonly path: string;
  /** All processes on one file must have the same time; the machine's own by default. */
  readonly clock?: Clock;
  /** How long to wait for a file that another process holds; 2 s by default. */
  readonly patience?: Duration;
  /** How often to look for messages of other processes; five times a second by default. */
  readonly poll?: Duration;
  /** Told where looking for messages fails. */
  readonly log?: Log;
}

/**
 * Opens a store in a file, in write-ahead mode with `synchronous = NORMAL`: what was acknowledged
 * survives the death of a process (`kill -9`); the last moments may be lost when the machine loses power.
 *
 * What it makes is for the file's owner alone (mode 0600); a file that is there keeps its mode.
 *
 * Where another process holds the file, calls wait with timers, so the event loop goes on; a call is
 * synchronous only while nobody is in the way. Opening waits without timers, for no longer than the patience.
 *
 * @throws FileStoreError with what to do, here and from every call; TypeError for what is no path.
 *
 * @example
 * const store = fileStore({ path: 'mallet.db' });
 * const layer = createCommandLayer({ commands, store });
 */
export function fileStore(options: FileStoreOptions): Store {
  const { clock = systemClock } = options;
  const patienceMs = millisecondsOf(options.patience ?? '2s', 'fileStore, patience');
  const pollMs = millisecondsOf(options.poll ?? { ms: 200 }, 'fileStore, poll');
  const path = storePath(options.path);
  try {
    const access = accessFile(path, clock, patienceMs);
    const { stop, ...messages } = messagesIn(access, pollMs, safeLog(options.log));
    return {
      outlivesProcess: true,
      ...usesIn(access),
      ...valuesIn(access),
      ...messages,
      close() {
        stop();
        access.close();
      },
    };
  } catch (error) {
    throw fileError(path, error);
  }
}

/** Whole, so that it means the same file wherever the process goes. */
function storePath(path: unknown): string {
  if (typeof path !== 'string' || path === '' || path === ':memory:' || path.includes('\0')) {
    throw new TypeError(
      `${JSON.stringify(path)} is no path of a file; write { path: 'mallet.db' }, or take memoryStore()`,
    );
  }
  return resolve(path);
}
