/** Keeping within what a chat system takes, with a fair turn for everybody who waits. */

import { type Allowance, allowanceOf, parseAllowance } from '../base/allowance.js';
import { atOnce } from '../base/thenable.js';
import { after, type Clock } from '../base/time.js';
import type { Reply } from '../contract/notice.js';
import type { Pace, Turn } from '../contract/platform.js';
import { shareOf } from '../limits/window.js';

/** How the messages of a pace are counted. */
export interface PaceOptions {
  /** Whether the chat system counts the messages of each channel, or all of the connection; `'channel'` by default. */
  readonly of?: 'channel' | 'connection';
  /**
   * `'whole'`, the default: `'6 in 7s'` is no more than 6 in any 7 seconds. `'steady'`: a bucket that holds 6 and gets
   * the next one a sixth of 7 seconds later.
   */
  readonly refill?: 'whole' | 'steady';
  /** As how many messages a reply counts; 1 by default. */
  readonly weigh?: (reply: Reply) => number;
}

/** One person's messages that wait, by the call that they are of. */
interface WaitingMessages {
  calls: Map<unknown, Message[]>;
  size: number;
  /** They were told that some of their answers are left out. */
  isTold: boolean;
}

interface Message {
  readonly weight: number;
  go(): void;
}

interface Lane {
  /** When the latest messages went, oldest first; for a steady refill only until when the bucket is in debt. */
  readonly sent: number[];
  /** Turns go around among people, and among the calls of each: no burst holds up the others. */
  readonly waiting: Map<string, WaitingMessages>;
  /** How many messages wait. */
  size: number;
  timer: (() => void) | undefined;
}

/** Messages that wait for one channel: of one person, and of all. */
const MOST_WAITING = 20;
const MOST_IN_ALL = 20_000;

/**
 * The pace of a chat system, for `capabilities.pace` of its platform. The layer lets what it says wait for its turn.
 *
 * @param rate how much it takes in how long, or a function that says so, for a platform that learns: it is asked at each
 * turn, and while what it says does not read, what it said before holds
 * @throws TypeError where it would let nothing through
 *
 * @example
 * import { paced } from 'taxeon/platform';
 * const capabilities = { privateReplies: 'never', eventIds: false, pace: paced('6 in 7s') };
 */
export function paced(rate: Allowance | (() => Allowance), options: PaceOptions = {}): Pace {
  const ask = typeof rate === 'function' ? rate : () => rate;
  let latest = allowanceOf(ask(), 'paced');
  const lanes = new Map<string, Lane>();

  const current = () => (latest = parseAllowance(ask()) ?? latest);

  /** What a platform gives is no number perhaps, or one that would hold up all others. */
  function weightOf(reply: Reply): number {
    const weight: unknown = atOnce(options.weigh?.(reply));
    return typeof weight === 'number' && weight >= 1 ? Math.min(weight, current().uses * MOST_WAITING) : 1;
  }

  /** From when on a message may go; one that counts as more than there may ever be goes once nothing else has gone. */
  function freeAt({ sent }: Lane, now: number, weight: number): number {
    const { uses, windowMs } = current();
    const needed = Math.min(weight, uses);
    if (options.refill === 'steady') return (sent[0] ?? now) - windowMs + (needed * windowMs) / uses;
    while (sent.length > 0 && (sent[0] as number) <= now - windowMs) sent.shift();
    return (sent[sent.length + needed - uses - 1] ?? Number.NEGATIVE_INFINITY) + windowMs;
  }

  function take({ sent }: Lane, now: number, weight: number): void {
    const { uses, windowMs } = current();
    if (options.refill === 'steady') sent[0] = Math.max(sent[0] ?? now, now) + (weight * windowMs) / uses;
    else for (let index = 0; index < weight; index++) sent.push(now);
  }

  function wake(lane: Lane, clock: Clock): void {
    if (lane.timer !== undefined) return;
    const now = clock.now();
    lane.timer = after(clock, Math.max(1, freeAt(lane, now, nextOf(lane)) - now), () => {
      lane.timer = undefined;
      while (lane.waiting.size > 0 && freeAt(lane, clock.now(), nextOf(lane)) <= clock.now()) letOneGo(lane, clock);
      if (lane.waiting.size > 0) wake(lane, clock);
    });
  }

  /** As how many messages the next one counts. */
  function nextOf({ waiting }: Lane): number {
    const [own] = waiting.values();
    const [messages] = own?.calls.values() ?? [];
    return messages?.[0]?.weight ?? 1;
  }

  function letOneGo(lane: Lane, clock: Clock): void {
    // A person who was served goes to the end of the queue.
    const [person, own] = takeFirst(lane.waiting);
    const [call, further] = takeFirst(own.calls);
    const { weight, go } = further.shift() as Message;
    own.size -= 1;
    lane.size -= 1;
    if (further.length > 0) own.calls.set(call, further);
    if (own.size > 0) lane.waiting.set(person, own);
    take(lane, clock.now(), weight);
    go();
  }

  /** A few at a time, as new channels come. */
  function forgetIdle(now: number): void {
    let checked = 0;
    for (const [channel, lane] of lanes) {
      if (lane.waiting.size === 0 && (lane.sent.at(-1) ?? 0) + current().windowMs <= now) lanes.delete(channel);
      if (++checked === 4) return;
    }
  }

  function laneOf(channel: string, now: number): Lane {
    let lane = lanes.get(channel);
    if (lane === undefined) {
      forgetIdle(now);
      lane = { sent: [], waiting: new Map(), size: 0, timer: undefined };
      lanes.set(channel, lane);
    }
    return lane;
  }

  return {
    turn({ channel, person, call, reply, clock, isWarning = false }: Turn) {
      const now = clock.now();
      const lane = laneOf(options.of === 'connection' ? '' : channel, now);
      const weight = reply === undefined ? 1 : weightOf(reply);
      if (lane.waiting.size === 0 && freeAt(lane, now, weight) <= now) {
        take(lane, now, weight);
        return undefined;
      }
      const own = lane.waiting.get(person) ?? { calls: new Map(), size: 0, isTold: false };
      const share = shareOf(MOST_IN_ALL, MOST_WAITING, lane.size);
      if (isWarning ? own.isTold || share === 0 : own.size >= share) return 'full';
      lane.waiting.set(person, own);
      own.size += 1;
      lane.size += 1;
      return new Promise((go) => {
        const message = { weight, go };
        if (isWarning) {
          own.isTold = true;
          own.calls = new Map([[message, [message]], ...own.calls]);
        } else {
          const further = own.calls.get(call);
          if (further === undefined) own.calls.set(call, [message]);
          else further.push(message);
        }
        wake(lane, clock);
      });
    },
  };
}

function takeFirst<K, V>(map: Map<K, V>): [K, V] {
  const first = map.entries().next().value as [K, V];
  map.delete(first[0]);
  return first;
}
