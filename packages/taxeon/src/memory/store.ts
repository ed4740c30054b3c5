/** A store in this process's memory. */
import { type Clock, systemClock } from '../base/time.js';
import type { Denial, Limit, LiveLimit, Store, Verdict, Versioned } from '../contract/store.js';
import { type Counter, createCounter } from '../limits/counters.js';

interface Value extends Versioned {
  readonly expiresAt: number;
}

const SWEEP_EVERY = 4;

/**
 * Keeps everything in memory: no timer, expired keys are freed as others are used. Forgets with the process.
 *
 * @example
 * const store = memoryStore();
 */
export function memoryStore(options: { readonly clock?: Clock } = {}): Store {
  const clock = options.clock ?? systemClock;
  const counters = new Map<string, Counter>();
  const values = new Map<string, Value>();
  const listeners = new Map<string, Set<(message: string) => void>>();
  let latest = Number.NEGATIVE_INFINITY;

  function time(): number {
    const now = clock.now();
    if (now > latest) latest = now;
    return latest;
  }

  let lastCounter: Counter | undefined;
  let turn = counters.values();
  let untilSweep = SWEEP_EVERY;

  /** A limit that is declared anew under the same id begins anew. */
  function counterOf(limit: Limit): Counter {
    if (lastCounter?.limit === limit) return lastCounter;
    let counter = counters.get(limit.id);
    if (counter === undefined || counter.limit.uses !== limit.uses || counter.limit.windowMs !== limit.windowMs) {
      counter = createCounter(limit);
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
      const endsAt = counterOf(limits[index] as Limit).grantedFrom(keys[index] as string, now, costs?.[index] ?? 1);
      if (endsAt !== undefined && (found === undefined || endsAt > found.endsAt)) {
        found = { granted: false, index, retryAfterMs: endsAt - now, endsAt };
      }
    }
    return found;
  }

  function liveValue(key: string): Value | undefined {
    const value = values.get(key);
    if (value === undefined || value.expiresAt > time()) return value;
    values.delete(key);
    return undefined;
  }

  return {
    acquire(limits, keys, costs): Verdict {
      const now = time();
      const denied = denial(limits, keys, costs, now);
      untilSweep -= 1;
      if (untilSweep === 0) sweepAll(now);
      if (denied !== undefined) return denied;
      for (let index = 0; index < limits.length; index++) {
        const counter = counterOf(limits[index] as Limit);
        counter.use(keys[index] as string, now, costs?.[index] ?? 1);
        counter.sweep(now);
      }
      return { granted: true, at: now };
    },
    look(limits, keys, costs): Verdict {
      const now = time();
      return denial(limits, keys, costs, now) ?? { granted: true, at: now };
    },
    giveBack(limits, keys, at, costs): void {
      for (let index = 0; index < limits.length; index++) {
        counterOf(limits[index] as Limit).giveBack(keys[index] as string, at, costs?.[index] ?? 1);
      }
    },
    live(): LiveLimit[] {
      const now = time();
      return [...counters].flatMap(([id, counter]) => [...counter.live(now)].map((one) => ({ id, ...one })));
    },
    reset: (id, key) => counters.get(id)?.reset(key, time()) === true,

    read(key) {
      const found = liveValue(key);
      return found === undefined ? undefined : { value: found.value, version: found.version };
    },
    compareAndSet(key, expected, value, expiresInMs = Number.POSITIVE_INFINITY): boolean {
      const version = liveValue(key)?.version ?? 0;
      if (version !== expected) return false;
      values.set(key, { value, version: version + 1, expiresAt: time() + expiresInMs });
      return true;
    },
    increment(key, by): number {
      const found = liveValue(key);
      const sum = Number(found?.value ?? 0) + by;
      values.set(key, { value: String(sum), version: (found?.version ?? 0) + 1, expiresAt: Number.POSITIVE_INFINITY });
      return sum;
    },

    entries: (prefix) =>
      [...values.keys()].flatMap((key) => {
        const found = key.startsWith(prefix) ? liveValue(key) : undefined;
        return found === undefined ? [] : [[key, found.value] as const];
      }),

    publish(topic, message): void {
      for (const listener of [...(listeners.get(topic) ?? [])]) listener(message);
    },
    subscribe(topic, listener) {
      const all = listeners.get(topic) ?? new Set();
      listeners.set(topic, all.add(listener));
      return () => void all.delete(listener);
    },
    close(): void {
      listeners.clear();
    },
  };
}
