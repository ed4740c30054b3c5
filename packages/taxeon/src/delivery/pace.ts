/** Keeping within how many messages a channel takes, with a fair turn for everybody who waits. */
import { after, type Clock } from '../base/time.js';
import type { Platform } from '../contract/platform.js';

export interface Pace {
  readonly messages: number;
  readonly perMs: number;
}

/** One person's messages that wait, by the call that they are of. */
interface Waiting {
  readonly calls: Map<unknown, (() => void)[]>;
  size: number;
}

interface Lane {
  /** When the latest messages went, oldest first; no more than the pace allows. */
  readonly sent: number[];
  /** Turns go around among people, and among the calls of each: no burst holds up the others. */
  readonly waiting: Map<string, Waiting>;
  timer: (() => void) | undefined;
}

/** Of one person, in one channel. */
const MOST_WAITING = 20;
const MOST_PEOPLE_WAITING = 1000;

export class Pacer {
  private readonly lanes = new Map<string, Lane>();

  constructor(
    private readonly pace: Pace,
    private readonly clock: Clock,
  ) {}

  /** Nothing where a message may go now; otherwise settles when its turn has come. `'full'` where too many wait. */
  turn(channel: string, person: string, call: unknown): Promise<void> | 'full' | undefined {
    const lane = this.laneOf(channel);
    if (lane.waiting.size === 0 && this.isFree(lane)) {
      lane.sent.push(this.clock.now());
      return undefined;
    }
    const own = lane.waiting.get(person) ?? { calls: new Map(), size: 0 };
    if (own.size >= MOST_WAITING || (own.size === 0 && lane.waiting.size >= MOST_PEOPLE_WAITING)) return 'full';
    lane.waiting.set(person, own);
    own.size += 1;
    return new Promise((go) => {
      const further = own.calls.get(call);
      if (further === undefined) own.calls.set(call, [go]);
      else further.push(go);
      this.wake(channel, lane);
    });
  }

  private laneOf(channel: string): Lane {
    let lane = this.lanes.get(channel);
    if (lane === undefined) {
      this.forgetIdle();
      lane = { sent: [], waiting: new Map(), timer: undefined };
      this.lanes.set(channel, lane);
    }
    return lane;
  }

  private isFree({ sent }: Lane): boolean {
    const since = this.clock.now() - this.pace.perMs;
    while (sent.length > 0 && (sent[0] as number) <= since) sent.shift();
    return sent.length < this.pace.messages;
  }

  private wake(channel: string, lane: Lane): void {
    if (lane.timer !== undefined) return;
    const until = (lane.sent[0] ?? 0) + this.pace.perMs;
    lane.timer = after(this.clock, Math.max(1, until - this.clock.now()), () => {
      lane.timer = undefined;
      while (lane.waiting.size > 0 && this.isFree(lane)) this.letOneGo(lane);
      if (lane.waiting.size > 0) this.wake(channel, lane);
    });
  }

  /** Whoever was served goes to the end of the queue. */
  private letOneGo(lane: Lane): void {
    const [person, own] = takeFirst(lane.waiting);
    const [call, further] = takeFirst(own.calls);
    const go = further.shift() as () => void;
    own.size -= 1;
    if (further.length > 0) own.calls.set(call, further);
    if (own.size > 0) lane.waiting.set(person, own);
    lane.sent.push(this.clock.now());
    go();
  }

  /** A few at a time, as new channels come. */
  private forgetIdle(): void {
    let checked = 0;
    for (const [channel, lane] of this.lanes) {
      if (lane.waiting.size === 0 && this.isFree(lane) && lane.sent.length === 0) this.lanes.delete(channel);
      if (++checked === 4) return;
    }
  }
}

function takeFirst<K, V>(map: Map<K, V>): [K, V] {
  const first = map.entries().next().value as [K, V];
  map.delete(first[0]);
  return first;
}

/** One pacer a platform, which all conversations on it share. */
export class Pacers {
  private readonly all = new WeakMap<Platform, Pacer>();

  constructor(private readonly clock: Clock) {}

  of(platform: Platform, pace: Pace): Pacer {
    let pacer = this.all.get(platform);
    if (pacer === undefined) {
      pacer = new Pacer(pace, this.clock);
      this.all.set(platform, pacer);
    }
    return pacer;
  }
}
