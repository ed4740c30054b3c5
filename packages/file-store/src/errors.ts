/** Why a store's file does not serve, in a sentence that says what to do. */

/** What is wrong with a store's file, in one word. */
export type FileStoreProblem = 'damaged' | 'full' | 'held' | 'replaced' | 'unwritable' | 'newer' | 'foreign' | 'closed';

/** The store could not do it; nothing is lost but what is said. */
export class FileStoreError extends Error {
  override readonly name = 'FileStoreError';

  constructor(
    readonly problem: FileStoreProblem,
    /** Of the store's file. */
    readonly path: string,
    options?: ErrorOptions,
  ) {
    super(`${path} ${sentences[problem]}`, options);
  }
}

const sentences: Readonly<Record<FileStoreProblem, string>> = {
  damaged:
    'is damaged. Stop the bot, move the file and those with -wal and -shm behind its name away, put a copy in their place or none, and start again',
  full: 'cannot grow, since the disk or what may be used of it is full. Make room; nothing that was kept before is lost',
  held: 'is held by another process. Where that goes on, look for one that writes to it for long, such as a backup or a second bot',
  replaced:
    'was deleted or replaced while it was open. Start the bot again, so that it opens the file that is there now',
  unwritable:
    'cannot be opened or written. Look at the permissions of the file and its folder, which must be a local one',
  newer: 'was written by a newer version of taxeon. Update the package, or begin with another file',
  closed: 'is closed. Whoever closes a store must not ask it any more; close the layer first',
  foreign: 'is no store of taxeon. Give the path of another file',
};

/** By the beginning of the database's own code. */
const problems: readonly (readonly [code: string, problem: FileStoreProblem])[] = [
  ['SQLITE_BUSY', 'held'],
  ['SQLITE_LOCKED', 'held'],
  ['SQLITE_CORRUPT', 'damaged'],
  ['SQLITE_NOTADB', 'damaged'],
  ['SQLITE_FULL', 'full'],
  // Also where a quota is reached.
  ['SQLITE_IOERR_WRITE', 'full'],
  ['SQLITE_IOERR', 'unwritable'],
  ['SQLITE_CANTOPEN', 'unwritable'],
  ['SQLITE_READONLY', 'unwritable'],
  ['SQLITE_PERM', 'unwritable'],
];

export function isLockedFile(error: unknown): boolean {
  return fileStoreProblemOf(error) === 'held';
}

function fileStoreProblemOf(error: unknown): FileStoreProblem | undefined {
  const { code, message } = (error ?? {}) as { code?: unknown; message?: unknown };
  const text = typeof code === 'string' ? code : '';
  const known = problems.find(([beginning]) => text.startsWith(beginning))?.[1];
  if (known !== undefined) return known;
  if (/no such (table|column)/.test(String(message))) return 'damaged';
  return String(message).startsWith('ConnectionFailed') ? 'unwritable' : undefined;
}

/** An error of the database as one of the store; whatever else it is stays as it is. */
export function fileError(path: string, error: unknown): unknown {
  const problem = error instanceof FileStoreError ? undefined : fileStoreProblemOf(error);
  return problem === undefined ? error : new FileStoreError(problem, path, { cause: error });
}
