/** Telling events to listeners. A listener that throws harms nothing. */
import { shown } from '../base/fields.js';
import { nearNames } from '../base/near.js';
import { isThenable } from '../base/thenable.js';
import { type EventName, endings, type LayerEvents } from '../contract/events.js';
import type { Log } from '../contract/log.js';

type LayerListener = (event: never) => unknown;

export interface Events {
  /** Looked at before an event is made: hot path, bench/rows/calls. */
  readonly hearing: Readonly<Record<EventName, boolean>>;
  /** Whether an ending is heard, so that stages are timed. */
  readonly timesEndings: boolean;
  on<Name extends EventName>(name: Name, listener: (event: LayerEvents[Name]) => unknown): () => void;
  tell<Name extends EventName>(name: Name, event: LayerEvents[Name]): void;
}

export function eventsOf(log: Log): Events {
  /** Those of an event are never changed, but put in place of others: a listener may come or go while one is told. */
  const listeners = new Map<EventName, readonly LayerListener[]>();
  const hearing: Record<EventName, boolean> = {
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
  const of = (name: EventName): readonly LayerListener[] => listeners.get(name) ?? [];
  const listenerFailed = (event: EventName, error: unknown) => log.error({ event, error }, 'A listener failed');

  function replace(name: EventName, all: readonly LayerListener[]): void {
    listeners.set(name, all);
    hearing[name] = all.length > 0;
    events.timesEndings = hearing.ended || endings.some((one) => hearing[one]);
  }

  const events = {
    hearing,
    timesEndings: false,
    on(name: EventName, listener: LayerListener) {
      if (!Object.hasOwn(hearing, name)) {
        const [near] = nearNames(String(name), Object.keys(hearing));
        throw new TypeError(`There is no event ${shown(name)}${near === undefined ? '' : `; listen to ${near}`}`);
      }
      if (typeof listener !== 'function') throw new TypeError(`${shown(listener)} is no listener; give a function`);
      // A function of its own, so that the same listener may be added twice.
      const own: LayerListener = (event) => listener(event);
      replace(name, [...of(name), own]);
      const others = () => of(name).filter((one) => one !== own);
      return () => replace(name, others());
    },
    tell(name: EventName, event: unknown) {
      for (const listener of of(name)) {
        try {
          const told: unknown = listener(event as never);
          if (isThenable(told)) told.then(undefined, (error) => listenerFailed(name, error));
        } catch (error) {
          listenerFailed(name, error);
        }
      }
    },
  };
  return events;
}
