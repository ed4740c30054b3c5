/** What starts with the bot: a module's own timers and listeners, which end with it. */

import { shown } from '../base/fields.js';
import { patiently, promised } from '../base/thenable.js';
import { after, type Clock, type Duration, durationMs } from '../base/time.js';
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
}

/** A module that was opened. */
export class Opening {
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
    const { clock, log } = inside.services;
    return {
      layer,
      services,
      clock,
      log,
      signal: controller.signal,
      connected: (listener) => this.connected(listener),
      every: (length, work) => this.every(length, work),
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
    if (typeof work !== 'function') throw new TypeError(`every takes a function, and not ${shown(work)}`);
    const { clock } = this.inside.services;
    let isRunning = false;
    let cancel = after(clock, ms, tick);
    const module = this;
    function tick(): void {
      cancel = after(clock, ms as number, tick);
      if (isRunning) return;
      isRunning = true;
      void module.safely('do what it does again and again', work).then(() => {
        isRunning = false;
      });
    }
    const end = () => cancel();
    if (this.controller.signal.aborted) end();
    else this.ends.push(end);
    return end;
  }

  /** Nobody waits for ever for what a module does at its start and end. */
  private soon(does: () => unknown): Promise<unknown> {
    const { clock, patienceMs } = this.inside.services;
    return patiently(clock, promised(does), patienceMs);
  }

  private async safely(what: string, does: () => unknown): Promise<void> {
    try {
      await does();
    } catch (error) {
      this.inside.services.log.error({ module: this.module.id, error }, `A module could not ${what}`);
    }
  }
}
