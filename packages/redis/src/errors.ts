/** Why a Redis server does not serve, in a sentence that says what to do. */

/** What is wrong with a server, in one word. */
export type RedisProblem =
  | 'unreachable'
  | 'full'
  | 'read-only'
  | 'refused'
  | 'foreign'
  | 'damaged'
  | 'no-number'
  | 'failed'
  | 'closed';

/** The store could not do it. What was not answered in time is undone once the server is back. */
export class RedisStoreError extends Error {
  override readonly name = 'RedisStoreError';

  constructor(
    readonly problem: RedisProblem,
    options?: ErrorOptions,
  ) {
    super(`The Redis server ${sentences[problem]}`, options);
  }
}

const sentences: Readonly<Record<RedisProblem, string>> = {
  unreachable:
    'did not answer in time. Look whether it runs, and at the network between; the store comes back by itself',
  full: 'takes no more, since its memory is full. Raise maxmemory, and see that its policy is noeviction',
  'read-only': 'is read-only: a replica, or one whose disk is full. Connect to the primary, or make room',
  refused: 'does not let this user in. Look at the user, the password, and what the user may do',
  foreign: 'has something of another program under the bot’s name. Give `bot` another name',
  damaged: 'has something under the bot’s name that does not read. Remove that key',
  'no-number': 'has a text under this key, to which nothing can be added',
  failed: 'answered with an error; what it said stands in the cause',
  closed: 'is closed for this store. Close the layer first, and then its store',
};

/** By how the server's answer begins, or what it holds. */
const problems: readonly (readonly [pattern: RegExp, problem: RedisProblem, isPassing: boolean])[] = [
  [/DAMAGED/, 'damaged', false],
  [/NONUMBER/, 'no-number', false],
  [/WRONGTYPE/, 'foreign', false],
  [/^OOM|-OOM|OOM command/, 'full', false],
  [/^(NOPERM|NOAUTH|WRONGPASS)|ACL failure/, 'refused', false],
  [/^READONLY|^MISCONF|^NOREPLICAS|-READONLY/, 'read-only', true],
  // Over in a moment: another client's script runs, data is loaded, a slot or a primary's place moves.
  [/^(BUSY|LOADING|CLUSTERDOWN|TRYAGAIN|MASTERDOWN|UNBLOCKED|MOVED|ASK)\b/, 'unreachable', true],
];

export interface Trouble {
  readonly problem: RedisProblem;
  /** Whether to ask again. */
  readonly isPassing: boolean;
}

/** What is behind a command that failed: an answer of the server's, or none. */
export function troubleOf(error: unknown): Trouble {
  const message = String(Object(error).message ?? error);
  for (const [pattern, problem, isPassing] of problems) if (pattern.test(message)) return { problem, isPassing };
  if (/^ERR\b|^[A-Z]{3,} /.test(message)) return { problem: 'failed', isPassing: false };
  return { problem: 'unreachable', isPassing: true };
}

/** The server does not have a script, or not any more. */
export function isUnknownScript(error: unknown): boolean {
  return String(Object(error).message ?? '').startsWith('NOSCRIPT');
}
