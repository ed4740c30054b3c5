/** Being in the channels that are wanted: each on its own, so that one that is shut costs none of the others. */
import type { Client } from 'irc-framework';
import type { Log } from '../../contract/log.js';

/** Pauses between attempts to reconnect: the first, doubled each time, up to the most. In milliseconds. */
export interface Pauses {
  readonly firstMs: number;
  readonly mostMs: number;
}

interface Wanted {
  readonly name: string;
  /** Before it is tried again. */
  pauseMs: number;
  /** Whether the bot is in it. */
  isIn: boolean;
  retry: ReturnType<typeof setTimeout> | undefined;
}

export interface Channels {
  joinAll(): void;
  /** The bot is in it, and knows who else is. */
  entered(channel: string): void;
  /** It did not let the bot in, or put it out: it is tried again after a pause that grows. */
  shut(channel: string, why: string): void;
  isWanted(channel: string): boolean;
  /** Those of which nothing is known yet are shut. */
  giveUp(): void;
  /** Nothing is tried any more. */
  stop(): void;
}

/**
 * @param settled is told once of each channel it is known whether the bot got in: why not of the last that is shut, where
 * it is in none
 */
export function wantedChannels(
  client: Client,
  { channels, pauses, log }: { readonly channels: readonly string[]; readonly pauses: Pauses; readonly log: Log },
  settled: (whyNone: string | undefined) => void,
): Channels {
  const wanted = new Map<string, Wanted>();
  for (const name of channels)
    wanted.set(name.toLowerCase(), { name, pauseMs: pauses.firstMs, isIn: false, retry: undefined });
  const open = new Set(wanted.keys());
  let isSettled = false;

  function settle(channel: string, whyNone: string | undefined): void {
    open.delete(channel);
    if (isSettled || open.size > 0) return;
    isSettled = true;
    settled([...wanted.values()].some(({ isIn }) => isIn) ? undefined : whyNone);
  }

  function shut(channel: string, why: string): void {
    const one = wanted.get(channel.toLowerCase());
    if (one === undefined) return;
    one.isIn = false;
    const nextMs = one.pauseMs;
    log.warn({ channel: one.name, why, nextMs }, 'The bot is not in an IRC channel that it wants');
    one.pauseMs = Math.min(nextMs * 2, pauses.mostMs);
    clearTimeout(one.retry);
    one.retry = setTimeout(() => client.join(one.name), nextMs);
    settle(channel.toLowerCase(), `cannot join ${one.name}: ${why}`);
  }

  return {
    joinAll() {
      if (wanted.size === 0) settle('', undefined);
      for (const { name } of wanted.values()) client.join(name);
    },
    entered(channel) {
      const one = wanted.get(channel.toLowerCase());
      if (one === undefined || one.isIn) return;
      one.isIn = true;
      one.pauseMs = pauses.firstMs;
      if (isSettled) log.warn({ channel: one.name }, 'The bot is in an IRC channel again');
      settle(channel.toLowerCase(), undefined);
    },
    shut,
    isWanted: (channel) => wanted.has(channel.toLowerCase()),
    giveUp() {
      for (const channel of [...open]) shut(channel, 'no answer in time');
    },
    stop() {
      isSettled = true;
      for (const { retry } of wanted.values()) clearTimeout(retry);
    },
  };
}
