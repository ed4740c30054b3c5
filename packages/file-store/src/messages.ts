/** Messages between the processes on a store's file: written by one, looked for by the others. */

import type { Log, Store } from 'taxeon';
import type { FileAccess } from './access.js';
import { fileError, isLockedFile } from './errors.js';
import { escaped, unescaped } from './escape.js';

/** A message is gone after this long: each process that polls has seen it many times over. */
const MESSAGE_LIFE_MS = 60_000;
const LONGEST_POLL_MS = 30_000;

export interface FileMessages extends Pick<Store, 'publish' | 'subscribe'> {
  stop(): void;
}

export function messagesIn({ db, path, mustBeSame, write }: FileAccess, pollMs: number, log: Log): FileMessages {
  const sql = {
    say: db.prepare('INSERT INTO messages (topic, message, at) VALUES (?, ?, ?)'),
    forgetMessages: db.prepare('DELETE FROM messages WHERE at < ? OR at > ?'),
    lastMessage: db.prepare('SELECT max(seq) AS seq FROM messages'),
    messages: db.prepare('SELECT seq, topic, message FROM messages WHERE seq > ? ORDER BY seq LIMIT 1000'),
  };
  const listeners = new Map<string, Set<(message: string) => void>>();
  let seen = 0;
  let poll: ReturnType<typeof setTimeout> | undefined;
  let failures = 0;

  function deliver(): void {
    if (poll === undefined) return;
    const rows = sql.messages.all(seen) as { seq: number; topic: string; message: string }[];
    for (const { seq, topic, message } of rows) {
      seen = seq;
      for (const listener of [...(listeners.get(unescaped(topic)) ?? [])]) hear(listener, unescaped(message));
    }
  }

  /** A listener that throws does not keep others from hearing. */
  function hear(listener: (message: string) => void, message: string): void {
    try {
      listener(message);
    } catch (error) {
      log.error({ error }, 'A listener to messages failed');
    }
  }

  /** Never throws; what goes wrong again and again is looked at less and less often. */
  function look(): void {
    try {
      mustBeSame();
      deliver();
      failures = 0;
    } catch (error) {
      failures += 1;
      if (!isLockedFile(error) && failures === 1) {
        log.error({ error: fileError(path, error) }, 'Messages of other processes are not heard');
      }
    }
    lookLater();
  }

  function lookLater(): void {
    poll = setTimeout(look, Math.min(pollMs * 2 ** Math.min(failures, 16), LONGEST_POLL_MS));
    poll.unref();
  }

  /** Where that cannot be read now, messages of the last minute are heard once more, which harms nobody. */
  function lastSeen(): number {
    try {
      return (sql.lastMessage.get() as { seq: number | null }).seq ?? 0;
    } catch {
      return 0;
    }
  }

  return {
    publish(topic, message) {
      const said = write((at) => {
        sql.say.run(escaped(topic), escaped(message), at);
        sql.forgetMessages.run(at - MESSAGE_LIFE_MS, at + MESSAGE_LIFE_MS);
      });
      return said === undefined ? deliver() : said.then(deliver);
    },
    subscribe(topic, listener) {
      if (poll === undefined) {
        seen = lastSeen();
        lookLater();
      }
      const all = (listeners.get(topic) ?? new Set()).add(listener);
      listeners.set(topic, all);
      return () => void all.delete(listener);
    },
    stop: () => clearTimeout(poll),
  };
}
