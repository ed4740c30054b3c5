/** Being in the channels that are wanted: each on its own, so that one that is shut costs none of the others. */

import type { Log } from 'taxeon';
/** Sends one line to the server, in its turn. */
export type SendLine = (...parts: string[]) => Promise<void>;

/** Pauses between attempts: the first, doubled each time, up to the most. In milliseconds. */
export interface RetryPauses {
  readonly firstMs: number;
  readonly mostMs: number;
}

/** A channel that the bot is to be in. */
export interface WantedChannel {
  readonly name: string;
  /** What the channel asks for at the door, where it has a key. */
  readonly key?: string;
}

/** `'shut'`: it did not let the bot in, and is tried again. `'kicked'`: the bot was put out, and comes back. */
export type ChannelStatus = 'wanted' | 'joining' | 'joined' | 'shut' | 'kicked';

export interface ChannelState {
  readonly name: string;
  readonly status: ChannelStatus;
  /** Why the bot is not in it, in the server's words. */
  readonly why?: string;
}

export interface Channels {
  states(): readonly ChannelState[];
  /** Joins all that are wanted. Resolves once of each it is known whether the bot is in it. */
  joinAll(send: SendLine): Promise<void>;
  entered(channel: string): void;
  shut(channel: string, status: 'shut' | 'kicked', why: string): void;
  isWanted(channel: string): boolean;
  /** A person asks the bot in: now, where the channel is wanted and shut. */
  invited(channel: string): void;
  /** The link is gone: nothing is tried until the next `joinAll`. */
  stop(): void;
}

interface Wanted {
  readonly name: string;
  readonly key: string | undefined;
  status: ChannelStatus;
  why: string | undefined;
  /** Before it is tried again. */
  pauseMs: number;
  retry: ReturnType<typeof setTimeout> | undefined;
}

/** How long a channel may take to answer. */
const ANSWER_MS = 20_000;
/** Of one line, which is 512 bytes long: the names and keys of the channels that it joins. */
const LONGEST_JOIN = 380;
const MOST_IN_A_JOIN = 10;

export function wantedChannels(
  all: readonly WantedChannel[],
  pauses: RetryPauses,
  fold: (name: string) => string,
  log: Log,
  changed: () => void,
): Channels {
  const wanted = all.map(
    ({ name, key }): Wanted => ({
      name,
      key,
      status: 'wanted',
      why: undefined,
      pauseMs: pauses.firstMs,
      retry: undefined,
    }),
  );
  let sending: SendLine | undefined;
  let settled: (() => void) | undefined;
  const find = (channel: string) => wanted.find(({ name }) => fold(name) === fold(channel));

  function become(one: Wanted, status: ChannelStatus, why?: string): void {
    clearTimeout(one.retry);
    one.status = status;
    one.why = why;
    changed();
    if (wanted.every(({ status }) => status !== 'joining')) settled?.();
  }

  async function join(some: readonly Wanted[]): Promise<void> {
    for (const one of some) {
      become(one, 'joining', one.why);
      one.retry = setTimeout(() => shut(one.name, 'shut', 'no answer in time'), ANSWER_MS);
    }
    // A key stands in the same place as its channel.
    const keys = some.flatMap(({ key }) => key ?? []);
    await sending?.('JOIN', some.map(({ name }) => name).join(','), ...(keys.length === 0 ? [] : [keys.join(',')]));
  }

  function shut(channel: string, status: 'shut' | 'kicked', why: string): void {
    const one = find(channel);
    if (one === undefined || sending === undefined) return;
    // What a channel refuses to those who are in it is no door that is shut.
    if (status === 'shut' && one.status !== 'joining') return;
    const nextMs = one.pauseMs;
    log.warn({ channel: one.name, why, nextMs }, 'The bot is not in an IRC channel that it wants');
    one.pauseMs = Math.min(nextMs * 2, pauses.mostMs);
    become(one, status, why);
    one.retry = setTimeout(() => void join([one]), nextMs);
  }

  return {
    states: () => wanted.map(({ name, status, why }) => ({ name, status, ...(why === undefined ? {} : { why }) })),
    async joinAll(send) {
      sending = send;
      if (wanted.length === 0) return;
      for (const one of wanted) one.status = 'joining';
      const known = new Promise<void>((resolve) => {
        settled = resolve;
      });
      for (const some of inLines(wanted)) await join(some);
      await known;
      settled = undefined;
    },
    entered(channel) {
      const one = find(channel);
      if (one === undefined || one.status === 'joined') return;
      const wasOut = one.why !== undefined;
      one.pauseMs = pauses.firstMs;
      become(one, 'joined');
      if (wasOut) log.warn({ channel: one.name }, 'The bot is in an IRC channel again');
      else log.info?.({ channel: one.name }, 'The bot is in an IRC channel');
    },
    shut,
    isWanted: (channel) => find(channel) !== undefined,
    invited(channel) {
      const one = find(channel);
      if (one?.status === 'shut' || one?.status === 'kicked') void join([one]);
    },
    stop() {
      sending = undefined;
      for (const one of wanted) if (one.status !== 'wanted') become(one, 'wanted', one.why);
    },
  };
}

/** Those with keys first, as the protocol asks, and as many in each line as it holds. */
function inLines(all: readonly Wanted[]): readonly (readonly Wanted[])[] {
  const keysFirst = [...all].sort((one, other) => Number(other.key !== undefined) - Number(one.key !== undefined));
  const lines: Wanted[][] = [[]];
  let length = 0;
  for (const one of keysFirst) {
    const size = one.name.length + (one.key?.length ?? 0) + 2;
    const count = lines.at(-1)?.length ?? 0;
    if (count === MOST_IN_A_JOIN || (count > 0 && length + size > LONGEST_JOIN)) {
      lines.push([]);
      length = 0;
    }
    lines.at(-1)?.push(one);
    length += size;
  }
  return lines;
}
