/** A store on a Redis server, or a Redis Cluster, that all processes of a bot share. */
import type { Clock, Duration, Log, Store } from 'taxeon';
import { checkFields, type Fields, forms, millisecondsOf, safeLog } from 'taxeon/platform';
import { Calls } from './calls.js';
import { redisKeys } from './keys.js';
import { linking, type RedisConnection } from './link.js';
import { messagesOn } from './messages.js';
import { usesOn } from './uses.js';
import { valuesOn } from './values.js';

export { RedisStoreError } from './errors.js';
export type { RedisConnection } from './link.js';

/** Whose keys these are, and how long the server is waited for. */
export interface RedisStoreOptions {
  /** In front of all keys: processes with the same name share them, and bots with other names have others. */
  readonly bot: string;
  /** How long the server may take, with all tries; 1.5 s by default. Less than the layer's `storePatience`, so that its log says why. */
  readonly patience?: Duration;
  /** In place of the server's clock, in tests. */
  readonly clock?: Clock;
  /** Told where messages of other processes are not heard. */
  readonly log?: Log;
}

/** For how long a key stays beyond what it holds, so that a call that is asked a second time finds it. */
const MARGIN_MS = 4000;
/** While the clock is another's, keys must not be gone by the server's. */
const MARGIN_OF_TESTS_MS = 3_600_000;

/**
 * Opens a store on a Redis server (6 or later) or cluster, through two connections that are made like the one that is
 * given: one that asks, one that hears. Time is the server's.
 *
 * All limits of a call are taken by one script, in one round trip; in a cluster each by its own, all at the same time.
 * A call that is not answered within the patience rejects, and what it may have taken is undone.
 *
 * @param connection what `createClient` or `createCluster` of the package `redis` gives, or `new Redis` or
 *   `new Cluster` of `ioredis`; it need not be connected
 * @throws TypeError for what is none of these; RedisStoreError with what to do, from every call
 *
 * @example
 * import { createClient } from 'redis';
 * import { redisStore } from '@taxeon/redis';
 *
 * const store = redisStore(createClient({ url: 'redis://localhost:6379' }), { bot: 'mallet' });
 * const layer = createCommandLayer({ commands, store });
 */
export function redisStore(connection: RedisConnection, options: RedisStoreOptions): Store {
  checkFields(options, fields, (field, problem) => {
    throw new TypeError(`redisStore${field === '' ? '' : `, ${field}`}: ${problem}`);
  });
  const { bot, clock } = options;
  if (bot === undefined)
    throw new TypeError("redisStore needs the bot's name, which its keys begin with: { bot: 'mallet' }");
  const calls = new Calls(
    linking(connection),
    clock,
    millisecondsOf(options.patience ?? '1.5s', 'redisStore, patience'),
  );
  const keys = redisKeys(bot);
  const marginMs = clock === undefined ? MARGIN_MS : MARGIN_OF_TESTS_MS;
  const { stop: stopUndoing, ...uses } = usesOn(calls, keys, marginMs);
  const { stop: stopHearing, ...messages } = messagesOn(calls, linking(connection), keys, safeLog(options.log));
  return {
    outlivesProcess: true,
    ...uses,
    ...valuesOn(calls, keys, marginMs),
    ...messages,
    close() {
      stopUndoing();
      stopHearing();
      calls.close();
    },
  };
}

const LONGEST_NAME = 100;

const fields: Fields<RedisStoreOptions> = {
  bot: (value) =>
    typeof value === 'string' && value !== '' && value.length <= LONGEST_NAME ? undefined : "a name, such as 'mallet'",
  patience: forms.duration,
  clock: forms.object,
  log: forms.object,
};
