/** What starts with the bot: a module's own timers and listeners, which end with it. */

import { aText, checkFields, shown } from '../base/fields.js';
import { inTime, isThenable } from '../base/thenable.js';
import { after, type Clock, type Duration, durationMs } from '../base/time.js';
import { instantOf, isTimeZone, wallTimeAt } from '../base/zone.js';
import type { Log } from '../contract/log.js';
import type { Platform } from '../contract/platform.js';
import type { CommandLayer } from '../layer/command-layer.js';
import { type Inside, insideOf } from '../layer/inside.js';
import type { ReadModule } from './read.js';

/** What a module's `opened` gets. */
export interface ModuleContext<Services = unknown> {
  readonly layer: CommandLayer;
  readonly services: Services;
  readonly clock: Clock;
  readonly log: Log;
  /** Aborted when the module is replaced, or the bot closes. */
  readonly signal: AbortSignal;
  /** Calls back for each platform, once it is connected. */
  readonly connected: (listener: (platform: Platform) => unknown) => void;
  /** Does something again and again, by the layer's clock; never twice at once. Gives what ends that. */
  readonly every: (length: Duration, work: () => unknown) => () => void;
  /**
   * Does something each day when clocks show a time such as `8:30`, in the layer's time zone unless another is named.
   * Where clocks skip it one day, an hour later. Gives what ends that.
   */
  readonly daily: (time: string, work: () => unknown, options?: DailyOptions) => () => void;
}

/** By whose clocks something is done each day. */
export interface DailyOptions {
  /** An IANA name, such as `Europe/London`. */
  readonly timeZone?: string;
}

/** A module that was opened. */
export class ModuleOpening {
  private readonly controller = new AbortController();
  private readonly ends: (() => void)[] = [];
  private readonly inside: Inside;

  constructor(
    private readonly module: ReadModule,
    private readonly layer: CommandLayer,
    private readonly services: unknown,
  ) {
    this.inside = insideOf(layer);
  }

  /** Never throws; what the module throws is logged. */
  async open(): Promise<void> {
    const { opened } = this.module;
    if (opened !== undefined) await this.safely('open', () => this.soon(() => opened(this.context() as never)));
  }

  /** Never throws. Ends what the module has started, and lets it close. */
  async close(): Promise<void> {
    this.controller.abort();
    for (const end of this.ends.splice(0)) end();
    const { closing } = this.module;
    if (closing !== undefined) await this.safely('close', () => this.soon(closing));
  }

  private context(): ModuleContext {
    const { layer, services, inside, controller } = this;
    const { clock, log } = inside.basis;
    return {
      layer,
      services,
      clock,
      log,
      signal: controller.signal,
      connected: (listener) => this.connected(listener),
      every: (length, work) => this.every(length, work),
      daily: (time, work, options) => this.daily(time, work, options),
    };
  }

  private connected(listener: (platform: Platform) => unknown): void {
    if (typeof listener !== 'function') throw new TypeError(`connected takes a function, and not ${shown(listener)}`);
    const { platforms } = this.inside;
    const told = new Set<Platform>();
    const tell = () => {
      for (const platform of platforms.values()) {
        if (told.has(platform) || this.controller.signal.aborted) continue;
        told.add(platform);
        void this.safely('hear of a platform', () => listener(platform));
      }
    };
    this.ends.push(this.layer.on('connected', tell));
    tell();
  }

  private every(length: Duration, work: () => unknown): () => void {
    const ms = durationMs(length);
    if (!ms) throw new TypeError(`every takes a length of time such as '1d', and not ${shown(length)}`);
    return this.repeat('every', work, () => ms);
  }

  private daily(time: string, work: () => unknown, options: DailyOptions = {}): () => void {
    const at = parsedTimeOfDay(time);
    if (at === undefined) throw new TypeError(`daily takes a time such as '8:30', and not ${shown(time)}`);
    checkFields(options, { timeZone: aText }, (field, problem) => {
      throw new TypeError(`daily, ${field || 'options'}: ${problem}`);
    });
    const { clock } = this.inside.basis;
    const { timeZone: own } = this.inside.beginning;
    const { timeZone = own } = options;
    if (!isTimeZone(timeZone)) throw new TypeError(`daily, timeZone: ${shown(timeZone)} is no time zone`);
    let last = Number.NEGATIVE_INFINITY;
    return this.repeat('daily', work, () => {
      const now = clock.now();
      // A timer that is early must not meet the same time again; a clock that was ahead freezes nothing.
      const isEarly = last > now && last - now < EARLY_MS;
      last = nextTime(at, isEarly ? last : now, timeZone);
      return last - now;
    });
  }

  private repeat(name: string, work: () => unknown, untilNext: () => number): () => void {
    if (typeof work !== 'function') throw new TypeError(`${name} takes a function, and not ${shown(work)}`);
    const { clock } = this.inside.basis;
    let isRunning = false;
    const tick = () => {
      cancel = after(clock, untilNext(), tick);
      if (isRunning) return;
      // What gives no promise is done at once, and so it is when a clock moves on by several turns.
      let given: unknown;
      const does = () => {
        given = work();
        return given;
      };
      const ended = this.safely('do what it does again and again', does);
      isRunning = isThenable(given);
      if (isRunning) void ended.then(() => (isRunning = false));
    };
    let cancel = after(clock, untilNext(), tick);
    const end = () => cancel();
    if (this.controller.signal.aborted) end();
    else this.ends.push(end);
    return end;
  }

  /** Nobody waits for ever for what a module does at its start and end. */
  private soon(does: () => unknown): Promise<unknown> {
    const { clock, patienceMs } = this.inside.basis;
    return inTime(clock, patienceMs, does);
  }

  private async safely(what: string, does: () => unknown): Promise<void> {
    try {
      await does();
    } catch (error) {
      this.inside.basis.log.error({ module: this.module.id, error }, `A module could not ${what}`);
    }
  }
}

/** No timer is earlier than that. */
const EARLY_MS = 60_000;

interface TimeOfDay {
  readonly hour: number;
  readonly minute: number;
}

function parsedTimeOfDay(text: unknown): TimeOfDay | undefined {
  const found = typeof text === 'string' ? /^(\d{1,2}):(\d\d)$/.exec(text) : null;
  const [hour, minute] = [Number(found?.[1]), Number(found?.[2])];
  return hour < 24 && minute < 60 ? { hour, minute } : undefined;
}

/** The next moment after `now` at which clocks in the zone show a time. */
function nextTime({ hour, minute }: TimeOfDay, now: number, timeZone: string): number {
  const today = wallTimeAt(now, timeZone);
  for (let days = 0; ; days++) {
    const date = new Date(Date.UTC(today.year, today.month - 1, today.day + days));
    const [year, month, day] = [date.getUTCFullYear(), date.getUTCMonth() + 1, date.getUTCDate()];
    const wall = { year, month, day, hour, minute, second: 0, ms: 0 };
    const at = instantOf(wall, timeZone) ?? instantOf({ ...wall, hour: hour + 1 }, timeZone);
    if (at !== undefined && at > now) return at;
  }
}
