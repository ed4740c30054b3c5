/** A store in this process's memory. */
import { type Clock, systemClock } from '../base/time.js';
import type { Denial, Limit, Store, Verdict, Versioned } from './store.js';

/** The times of a key's uses, oldest first, never more than the limit allows. */
type Uses = number[];

/** One limit's keys. */
interface Counter {
  readonly limit: Limit;
  readonly keys: Map<string, Uses>;
  /** Walks the keys round and round, so that each acquire frees a few that have expired. */
  sweep: MapIterator<[string, Uses]>;
}

const SWEPT_PER_ACQUIRE = 2;

/**
 * Keeps uses in memory: no timer, expired keys are freed as others are used. Forgets with the process.
 *
 * The window is an exact sliding log: the times of the last `uses` grants of each key.
 * A grant is given while fewer than `uses` lie in `(now − windowMs, now]`.
 */
export function memoryStore(options: { readonly clock?: Clock } = {}): Store {
  const clock = options.clock ?? systemClock;
  const counters = new Map<string, Counter>();
  const values = new Map<string, Versioned>();
  let latest = Number.NEGATIVE_INFINITY;

  function time(): number {
    const now = clock.now();
    if (now > latest) latest = now;
    return latest;
  }

  function counterOf(limit: Limit): Counter {
    let counter = counters.get(limit.id);
    if (counter === undefined) {
      const keys = new Map<string, Uses>();
      counter = { limit, keys, sweep: keys.entries() };
      counters.set(limit.id, counter);
    }
    return counter;
  }

  function look(limits: readonly Limit[], keys: readonly string[], now: number): Denial | undefined {
    let denial: Denial | undefined;
    for (let index = 0; index < limits.length; index++) {
      const limit = limits[index] as Limit;
      const uses = counterOf(limit).keys.get(keys[index] as string);
      if (uses === undefined || liveFrom(uses, now - limit.windowMs) + limit.uses > uses.length) continue;
      const endsAt = (uses[uses.length - limit.uses] as number) + limit.windowMs;
      if (denial === undefined || endsAt > denial.endsAt) {
        denial = { granted: false, index, retryAfterMs: endsAt - now, endsAt };
      }
    }
    return denial;
  }

  return {
    acquire(limits, keys): Verdict {
      const now = time();
      const denial = look(limits, keys, now);
      if (denial !== undefined) return denial;
      for (let index = 0; index < limits.length; index++) {
        const counter = counterOf(limits[index] as Limit);
        use(counter, keys[index] as string, now);
        sweep(counter, now);
      }
      return { granted: true, at: now };
    },
    look(limits, keys): Verdict {
      const now = time();
      return look(limits, keys, now) ?? { granted: true, at: now };
    },
    read: (key) => values.get(key),
    compareAndSet(key, expected, value): boolean {
      const version = values.get(key)?.version ?? 0;
      if (version !== expected) return false;
      values.set(key, { value, version: version + 1 });
      return true;
    },
    giveBack(limits, keys, at): void {
      for (let index = 0; index < limits.length; index++) {
        const uses = counterOf(limits[index] as Limit).keys.get(keys[index] as string);
        const position = uses?.lastIndexOf(at) ?? -1;
        if (position >= 0) uses?.splice(position, 1);
      }
    },
  };
}

/** The index of the first use after `past`. */
function liveFrom(uses: Uses, past: number): number {
  let first = 0;
  while (first < uses.length && (uses[first] as number) <= past) first++;
  return first;
}

function use({ limit, keys }: Counter, key: string, now: number): void {
  const uses = keys.get(key);
  if (uses === undefined) {
    keys.set(key, [now]);
    return;
  }
  if (uses.length >= limit.uses) uses.shift();
  uses.push(now);
}

function sweep(counter: Counter, now: number): void {
  for (let step = 0; step < SWEPT_PER_ACQUIRE; step++) {
    const entry = counter.sweep.next();
    if (entry.done === true) {
      counter.sweep = counter.keys.entries();
      return;
    }
    const [key, uses] = entry.value;
    if ((uses[uses.length - 1] ?? Number.NEGATIVE_INFINITY) <= now - counter.limit.windowMs) counter.keys.delete(key);
  }
}
