/** Keeping within how many messages a channel takes, with a fair turn for everybody who waits. */
import { after, type Clock } from '../base/time.js';
import type { Platform } from '../contract/platform.js';

export interface Pace {
  readonly messages: number;
  readonly perMs: number;
}

interface Lane {
  /** When the latest messages went, oldest first; no more than the pace allows. */
  readonly sent: number[];
  /** Who waits, by whose call it is, so that one call's burst does not hold up the others. */
  readonly waiting: Map<unknown, (() => void)[]>;
  timer: (() => void) | undefined;
}

export class Pacer {
  private readonly lanes = new Map<string, Lane>();

  constructor(
    private readonly pace: Pace,
    private readonly clock: Clock,
  ) {}

  /** Nothing where a message may go now; otherwise settles when its turn has come. */
  turn(channel: string, whose: unknown): Promise<void> | undefined {
    const lane = this.laneOf(channel);
    if (lane.waiting.size === 0 && this.isFree(lane)) {
      lane.sent.push(this.clock.now());
      return undefined;
    }
    return new Promise((go) => {
      const own = lane.waiting.get(whose);
      if (own === undefined) lane.waiting.set(whose, [go]);
      else own.push(go);
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
    const [whose, own] = lane.waiting.entries().next().value as [unknown, (() => void)[]];
    lane.waiting.delete(whose);
    const go = own.shift() as () => void;
    if (own.length > 0) lane.waiting.set(whose, own);
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
