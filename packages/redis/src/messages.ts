/**
 * Messages between the processes of a bot. A connection of its own hears them; a message to itself now and then tells
 * whether it still does.
 */
import type { Log, Store } from 'taxeon';
import type { Calls } from './calls.js';
import type { Keys } from './keys.js';
import type { Linking, RedisLink } from './link.js';

const BEAT_MS = 5000;
/** After trouble with the connection it is known sooner. */
const SOON_MS = 250;
const BEAT = '';

type MessageListener = (message: string) => void;

interface Listening {
  readonly hear: MessageListener;
  readonly missed: (() => void) | undefined;
}

export interface Messages extends Pick<Store, 'publish' | 'subscribe'> {
  stop(): void;
}

export function messagesOn(calls: Calls, linking: Linking, { channel }: Keys, log: Log): Messages {
  const by = `${Date.now().toString(36)}-${calls.nextNonce().toString(36)}`;
  const topics = new Map<string, Set<Listening>>();
  let link: RedisLink | undefined;
  let isBegun = false;
  let isOver = false;
  let timer: ReturnType<typeof setTimeout> | undefined;
  /** Whether something may have been missed since the last beat that was heard; in the beginning, before the first is. */
  let mayHaveMissed = true;
  let isHeard = true;
  let isTold = false;

  function tell(listener: () => void): void {
    try {
      listener();
    } catch (error) {
      log.error({ error }, 'A listener to messages failed');
    }
  }

  function deliver(topic: string, message: string): void {
    for (const { hear } of [...(topics.get(topic) ?? [])]) tell(() => hear(message));
  }

  /** Anything may be on a channel. */
  function heard(text: string): void {
    const [from, topic, message] = publishedMessage(text);
    if (from !== by) {
      if (topic !== undefined && message !== undefined) deliver(topic, message);
    } else if (topic === BEAT) {
      isHeard = true;
      isTold = false;
      if (mayHaveMissed) {
        mayHaveMissed = false;
        for (const { missed } of [...topics.values()].flatMap((all) => [...all]))
          if (missed !== undefined) tell(missed);
      }
    }
  }

  async function open(): Promise<void> {
    link?.end();
    const opened = linking.open(() => {
      mayHaveMissed = true;
      if (link === opened) beatIn(SOON_MS);
    });
    link = opened;
    await opened.ready;
    await opened.subscribe(channel, heard);
  }

  function beatIn(ms: number): void {
    if (isOver) return;
    clearTimeout(timer);
    timer = setTimeout(() => void beat(), ms).unref();
  }

  /** Never rejects. Where the last one was not heard, another connection takes the place of the deaf one. */
  async function beat(): Promise<void> {
    beatIn(BEAT_MS);
    try {
      if (!isHeard || link === undefined) {
        mayHaveMissed = true;
        void open().catch(deaf);
      }
      isHeard = false;
      await send(BEAT, '');
    } catch (error) {
      deaf(error);
    }
  }

  function deaf(error: unknown): void {
    mayHaveMissed = true;
    if (!isTold && !isOver) log.warn({ error }, 'Messages of other processes are not heard');
    isTold = true;
    beatIn(SOON_MS * 4);
  }

  function send(topic: string, message: string): Promise<unknown> {
    return calls.send(channel, ['PUBLISH', channel, JSON.stringify([by, topic, message])]);
  }

  return {
    async publish(topic, message) {
      deliver(topic, message);
      await send(topic, message);
    },
    subscribe(topic, hear, missed) {
      if (!isBegun) {
        isBegun = true;
        void open().catch(deaf);
        beatIn(SOON_MS);
      }
      const listening = { hear, missed };
      const all = (topics.get(topic) ?? new Set()).add(listening);
      topics.set(topic, all);
      return () => void all.delete(listening);
    },
    stop() {
      isOver = true;
      clearTimeout(timer);
      link?.end();
    },
  };
}

function publishedMessage(text: string): readonly (string | undefined)[] {
  try {
    const parsed: unknown = JSON.parse(text);
    return Array.isArray(parsed) && parsed.every((one) => typeof one === 'string') ? parsed : [];
  } catch {
    return [];
  }
}
