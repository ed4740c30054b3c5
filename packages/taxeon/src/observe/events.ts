/** Telling events to whoever listens. A listener that throws harms nothing. */
import { shown } from '../base/fields.js';
import { nearNames } from '../base/near.js';
import { isThenable } from '../base/thenable.js';
import { type EventName, endings, type LayerEvents } from '../contract/events.js';
import type { Log } from '../contract/log.js';

type Listener = (event: never) => unknown;

export class Events {
  private readonly listeners = new Map<EventName, Set<Listener>>();
  /** Whether somebody wants to know how an input ended, so that its stages are timed. */
  timesEndings = false;
  /** Looked at before an event is made: hot path, bench/dispatch. */
  readonly hearing: Record<EventName, boolean> = {
    connected: false,
    received: false,
    started: false,
    completed: false,
    refused: false,
    invalid: false,
    waiting: false,
    failed: false,
    ended: false,
    replied: false,
    settingsChanged: false,
    closed: false,
  };

  constructor(private readonly log: Log) {}

  on<Name extends EventName>(name: Name, listener: (event: LayerEvents[Name]) => unknown): () => void {
    if (!Object.hasOwn(this.hearing, name)) {
      const [near] = nearNames(String(name), Object.keys(this.hearing));
      throw new TypeError(`There is no event ${shown(name)}${near === undefined ? '' : `; listen to ${near}`}`);
    }
    if (typeof listener !== 'function') throw new TypeError(`${shown(listener)} is no listener; give a function`);
    const all = this.listeners.get(name) ?? new Set();
    // A function of its own, so that the same listener may be added twice.
    const own: Listener = (event) => listener(event);
    this.listeners.set(name, all.add(own));
    this.count(name);
    return () => {
      all.delete(own);
      this.count(name);
    };
  }

  tell<Name extends EventName>(name: Name, event: LayerEvents[Name]): void {
    for (const listener of this.listeners.get(name) ?? []) {
      try {
        const told: unknown = listener(event as never);
        if (isThenable(told)) told.then(undefined, (error) => this.failed(name, error));
      } catch (error) {
        this.failed(name, error);
      }
    }
  }

  private failed(event: EventName, error: unknown): void {
    this.log.error({ event, error }, 'A listener failed');
  }

  private count(name: EventName): void {
    this.hearing[name] = (this.listeners.get(name)?.size ?? 0) > 0;
    this.timesEndings = this.hearing.ended || endings.some((one) => this.hearing[one]);
  }
}
