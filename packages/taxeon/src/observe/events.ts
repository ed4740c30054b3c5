/** Telling events to whoever listens. A listener that throws harms nothing. */
import { shown } from '../base/fields.js';
import { nearNames } from '../base/near.js';
import { isThenable } from '../base/thenable.js';
import { type EventName, endings, type LayerEvents } from '../contract/events.js';
import type { Log } from '../contract/log.js';

type Listener = (event: never) => unknown;

export class Events {
  /** Those of an event are never changed, but put in place of others: a listener may come or go while one is told. */
  readonly #listeners = new Map<EventName, readonly Listener[]>();
  /** Whether somebody wants to know how an input ended, so that its stages are timed. */
  timesEndings = false;
  /** Looked at before an event is made: hot path, bench/rows/calls. */
  readonly hearing: Record<EventName, boolean> = {
    connected: false,
    received: false,
    asked: false,
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

  readonly #log: Log;

  constructor(log: Log) {
    this.#log = log;
  }

  on<Name extends EventName>(name: Name, listener: (event: LayerEvents[Name]) => unknown): () => void {
    if (!Object.hasOwn(this.hearing, name)) {
      const [near] = nearNames(String(name), Object.keys(this.hearing));
      throw new TypeError(`There is no event ${shown(name)}${near === undefined ? '' : `; listen to ${near}`}`);
    }
    if (typeof listener !== 'function') throw new TypeError(`${shown(listener)} is no listener; give a function`);
    // A function of its own, so that the same listener may be added twice.
    const own: Listener = (event) => listener(event);
    this.#replace(name, [...this.#of(name), own]);
    return () =>
      this.#replace(
        name,
        this.#of(name).filter((one) => one !== own),
      );
  }

  tell<Name extends EventName>(name: Name, event: LayerEvents[Name]): void {
    for (const listener of this.#of(name)) {
      try {
        const told: unknown = listener(event as never);
        if (isThenable(told)) told.then(undefined, (error) => this.#failed(name, error));
      } catch (error) {
        this.#failed(name, error);
      }
    }
  }

  #failed(event: EventName, error: unknown): void {
    this.#log.error({ event, error }, 'A listener failed');
  }

  #of(name: EventName): readonly Listener[] {
    return this.#listeners.get(name) ?? [];
  }

  #replace(name: EventName, listeners: readonly Listener[]): void {
    this.#listeners.set(name, listeners);
    this.hearing[name] = listeners.length > 0;
    this.timesEndings = this.hearing.ended || endings.some((one) => this.hearing[one]);
  }
}
