/** A store in this process's memory. */
import { foundOrMade } from '../base/bounded-map.js';
import { type Clock, steadyClock, systemClock } from '../base/time.js';
import { lifeOf, sumOf } from '../contract/check-value.js';
import type { Denial, Limit, LiveLimit, Renewed, Store, Use, Verdict, Versioned } from '../contract/store.js';
import { type Counter, createCounter, succeeding } from '../limits/counters.js';
import { countsSince, TIME_STEP_MS, timeBehind } from '../limits/window.js';

interface Value extends Versioned {
  readonly expiresAt: number;
}

/** Fewer than there are time steps in a millisecond. */
const MOST_IN_MOMENT = 1000;
const SWEEP_EVERY = 4;
const PAGE = 1000;
const VALUES_SWEPT = 4;

/**
 * Keeps everything in memory: no timer, expired keys are freed as others are used. Forgets with the process.
 *
 * @example
 * const store = memoryStore();
 */
export function memoryStore(options: { readonly clock?: Clock } = {}): Store {
  const clock = steadyClock(options.clock ?? systemClock);
  const counters = new Map<string, Counter>();
  const values = new Map<string, Value>();
  const listeners = new Map<string, Set<(message: string) => void>>();
  /** The millisecond of the latest uses, and how many there were in it before. */
  let moment = Number.NEGATIVE_INFINITY;
  let inMoment = 0;
  /** How many values were written, over all keys: a version never comes again. */
  let writes = 0;

  let lastCounter: Counter | undefined;
  let turn = counters.values();
  let untilSweep = SWEEP_EVERY;

  function counterOf(limit: Limit): Counter {
    if (lastCounter?.limit === limit) return lastCounter;
    let counter = counters.get(limit.id);
    if (counter === undefined || counter.limit.uses !== limit.uses || counter.limit.windowMs !== limit.windowMs) {
      counter = counter === undefined || counter.size() === 0 ? createCounter(limit) : succeeding(counter, limit);
      counters.set(limit.id, counter);
    }
    lastCounter = counter;
    return counter;
  }

  /** Keys are freed at refusals, too, and those of limits that nobody meets any more: now and then, since it costs. */
  function sweepAll(now: number): void {
    untilSweep = SWEEP_EVERY;
    lastCounter?.sweep(now);
    let next = turn.next();
    if (next.done === true) {
      turn = counters.values();
      next = turn.next();
    }
    if (next.done !== true) next.value.sweep(now);
  }

  function denial(
    limits: readonly Limit[],
    keys: readonly string[],
    costs: readonly number[] | undefined,
    now: number,
  ): Denial | undefined {
    let found: Denial | undefined;
    for (let index = 0; index < limits.length; index++) {
      const from = counterOf(limits[index] as Limit).grantedFrom(keys[index] as string, now, costs?.[index] ?? 1);
      if (from === undefined) continue;
      const retryAfterMs = from - now;
      if (found === undefined || retryAfterMs > found.retryAfterMs) {
        found = { granted: false, index, retryAfterMs, endsAt: now + retryAfterMs - clock.aheadMs() };
      }
    }
    return found;
  }

  /** The time of a new use. Only where there are many in a millisecond is looked at the keys' own, which costs. */
  function newTime(limits: readonly Limit[], keys: readonly string[], now: number): number {
    inMoment = now === moment ? inMoment + 1 : 0;
    moment = now;
    let at = now + Math.min(inMoment, MOST_IN_MOMENT) * TIME_STEP_MS;
    if (inMoment < MOST_IN_MOMENT) return at;
    for (let index = 0; index < limits.length; index++) {
      at = timeBehind(counterOf(limits[index] as Limit).last(keys[index] as string), at);
    }
    return at;
  }

  /** Where uses have run out and others are in their place, they are lost. */
  function renewOne({ limit, key, cost, at }: Use, now: number, to: number): boolean {
    const counter = counterOf(limit);
    const wasLive = at >= countsSince(now, limit.windowMs);
    const isHeld = counter.giveBack(key, at, cost) > 0 && wasLive;
    if (!isHeld && counter.grantedFrom(key, now, cost) !== undefined) return false;
    counter.use(key, to, cost);
    return true;
  }

  function liveValue(key: string): Value | undefined {
    const value = values.get(key);
    if (value === undefined || value.expiresAt > clock.now()) return value;
    values.delete(key);
    return undefined;
  }

  let valuesTurn = values.entries();

  /** A few at a time, as others are written. */
  function sweepValues(): void {
    for (let step = 0; step < VALUES_SWEPT; step++) {
      const next = valuesTurn.next();
      if (next.done === true) {
        valuesTurn = values.entries();
        return;
      }
      liveValue(next.value[0]);
    }
  }

  return {
    acquire(limits, keys, costs): Verdict {
      const now = clock.now();
      const denied = denial(limits, keys, costs, now);
      untilSweep -= 1;
      if (untilSweep === 0) sweepAll(now);
      if (denied !== undefined) return denied;
      const at = newTime(limits, keys, now);
      for (let index = 0; index < limits.length; index++) {
        const counter = counterOf(limits[index] as Limit);
        counter.use(keys[index] as string, at, costs?.[index] ?? 1);
        counter.sweep(now);
      }
      return { granted: true, at };
    },
    look(limits, keys, costs): Verdict {
      const now = clock.now();
      return denial(limits, keys, costs, now) ?? { granted: true, at: now };
    },
    giveBack(uses): void {
      for (const { limit, key, at, cost } of uses) counterOf(limit).giveBack(key, at, cost);
    },
    renew(uses): Renewed {
      const now = clock.now();
      const at = uses.reduce(
        (behind, { limit, key }) => timeBehind(counterOf(limit).last(key), behind),
        newTime([], [], now),
      );
      const lost = uses.flatMap((use, index) => (renewOne(use, now, at) ? [] : [index]));
      return { at, lost };
    },
    async *live() {
      let page: LiveLimit[] = [];
      for (const [id, counter] of counters) {
        for (const { endsAt, ...one } of counter.live(clock.now())) {
          page.push({ id, ...one, endsAt: endsAt - clock.aheadMs() });
          if (page.length < PAGE) continue;
          yield page;
          page = [];
        }
      }
      if (page.length > 0) yield page;
    },
    reset(id, key) {
      const now = clock.now();
      return counters.get(id)?.reset(key, now) === true;
    },

    read(key) {
      const found = liveValue(key);
      return found === undefined ? undefined : { value: found.value, version: found.version };
    },
    compareAndSet(key, expected, value, expiresInMs): boolean {
      const lifeMs = lifeOf(expiresInMs) ?? Number.POSITIVE_INFINITY;
      const version = liveValue(key)?.version ?? 0;
      if (version !== expected) return false;
      writes += 1;
      sweepValues();
      values.set(key, { value, version: writes, expiresAt: clock.now() + lifeMs });
      return true;
    },
    increment(key, by): number {
      const sum = sumOf(liveValue(key)?.value, by);
      writes += 1;
      values.set(key, { value: String(sum), version: writes, expiresAt: Number.POSITIVE_INFINITY });
      return sum;
    },

    entries: (prefix) =>
      [...values.keys()].flatMap((key) => {
        const found = key.startsWith(prefix) ? liveValue(key) : undefined;
        return found === undefined ? [] : [[key, found.value] as const];
      }),

    publish(topic, message): void {
      const failures: unknown[] = [];
      for (const listener of [...(listeners.get(topic) ?? [])]) {
        try {
          listener(message);
        } catch (error) {
          failures.push(error);
        }
      }
      if (failures.length > 0) throw new AggregateError(failures, 'A listener to messages failed');
    },
    subscribe(topic, listener) {
      const all = foundOrMade(listeners, topic, () => new Set()).add(listener);
      return () => void all.delete(listener);
    },
    close(): void {
      listeners.clear();
    },
  };
}
