/** One limit's keys in memory: in rings where it allows few uses, in lists of times where it allows many. */

import type { Limit } from '../contract/store.js';
import { Rings } from './rings.js';
import { countsSince, firstLive, grantedFrom, withoutUses } from './window.js';

export interface Counter {
  readonly limit: Limit;
  /** How many keys there are. */
  size(): number;
  /** When `cost` more would be granted; `undefined` for now. */
  grantedFrom(key: string, now: number, cost: number): number | undefined;
  /** The time of its latest use; earlier than any where there is none. */
  last(key: string): number;
  use(key: string, at: number, cost: number): void;
  /** How many uses of that time there were. */
  giveBack(key: string, at: number, cost: number): number;
  /** All its times, oldest first; those that have run out may be among them. */
  times(key: string): readonly number[];
  /** Whether there were live uses. */
  reset(key: string, now: number): boolean;
  live(now: number): Iterable<{ key: string; uses: number; endsAt: number }>;
  /** Frees a few keys whose uses have all expired. */
  sweep(now: number): void;
}

/** With more uses than these, most keys would leave most of a ring empty. */
const MOST_IN_RING = 4;
/** So many keys are looked at for each use, so that in a steady stream at most a fifth as many are dead as are live. */
const SWEPT = 6;
/** A map that grows stops everything until it has; many small ones stop it shortly. */
const SHARDS = 32;

export function createCounter(limit: Limit): Counter {
  return limit.uses <= MOST_IN_RING ? ringCounter(limit) : listCounter(limit);
}

/** A counter for a limit that was another before: keys are taken over, with what still counts, when they are asked for. */
export function succeeding(former: Counter, limit: Limit): Counter {
  const counter = createCounter(limit);
  const takeOver = (key: string, now: number) => {
    const times = former.times(key);
    if (times.length === 0) return;
    const { windowMs } = former.limit;
    for (const time of times.slice(firstLive(times, now, windowMs))) counter.use(key, time, 1);
    former.reset(key, now);
  };
  return {
    ...counter,
    size: () => counter.size() + former.size(),
    grantedFrom(key, now, cost) {
      takeOver(key, now);
      return counter.grantedFrom(key, now, cost);
    },
    giveBack: (key, at, cost) => counter.giveBack(key, at, cost) || former.giveBack(key, at, cost),
    times: (key) => [...former.times(key), ...counter.times(key)],
    reset(key, now) {
      takeOver(key, now);
      return counter.reset(key, now);
    },
    *live(now) {
      yield* former.live(now);
      yield* counter.live(now);
    },
    sweep(now) {
      counter.sweep(now);
      if (former.size() > 0) former.sweep(now);
    },
  };
}

/** Keys are told apart by their ends, which differ most in ids that are counted up. */
function shardOf(key: string): number {
  const end = key.length;
  return (key.charCodeAt(end - 1) + key.charCodeAt(end - 2) * 3 + key.charCodeAt(end - 3) * 7) & (SHARDS - 1);
}

function ringCounter(limit: Limit): Counter {
  const { uses, windowMs } = limit;
  const rings = new Rings(uses);
  /** By the keys' ends; each is made when its first key comes. */
  const shards = new Array<Map<string, number> | undefined>(SHARDS).fill(undefined);
  /** How many keys there are. */
  let size = 0;
  let shard = 0;
  let walk: IterableIterator<[string, number]> = [].values();
  /** Before this time no key can have expired. */
  let restUntil = Number.NEGATIVE_INFINITY;
  let soonest = Number.POSITIVE_INFINITY;
  /** A call asks for the same key several times. */
  let lastKey: string | undefined;
  let lastSlot = -1;

  /** -1 where the key has none. */
  function slotOf(key: string): number {
    if (key !== lastKey) {
      lastSlot = shards[shardOf(key)]?.get(key) ?? -1;
      lastKey = key;
    }
    return lastSlot;
  }

  function shardFor(key: string): Map<string, number> {
    const at = shardOf(key);
    const found = shards[at] ?? new Map<string, number>();
    shards[at] = found;
    return found;
  }

  function free(key: string, slot: number): void {
    if (key === lastKey) lastKey = undefined;
    rings.release(slot);
    size -= 1;
    shards[shardOf(key)]?.delete(key);
  }

  return {
    limit,
    size: () => size,
    last(key) {
      const slot = slotOf(key);
      return slot < 0 ? Number.NEGATIVE_INFINITY : rings.last(slot);
    },
    times(key) {
      const slot = slotOf(key);
      return slot < 0 ? [] : rings.times(slot);
    },
    grantedFrom(key, now, cost) {
      const slot = slotOf(key);
      if (slot < 0) return undefined;
      if (rings.countSince(slot, countsSince(now, windowMs)) + Math.min(cost, uses) <= uses) return undefined;
      return grantedFrom(rings.times(slot), now, uses, windowMs, cost);
    },
    use(key, now, cost) {
      let slot = slotOf(key);
      if (slot < 0) {
        slot = rings.take();
        size += 1;
        if (now + windowMs < restUntil) restUntil = now + windowMs;
        shardFor(key).set(key, slot);
        lastSlot = slot;
      }
      for (let use = Math.min(cost, uses); use > 0; use--) rings.push(slot, now);
    },
    giveBack(key, at, cost) {
      const slot = slotOf(key);
      let undone = 0;
      if (slot >= 0) while (undone < cost && rings.remove(slot, at)) undone += 1;
      return undone;
    },
    reset(key, now) {
      const slot = slotOf(key);
      if (slot < 0) return false;
      const isLive = rings.last(slot) >= countsSince(now, windowMs);
      free(key, slot);
      return isLive;
    },
    *live(now) {
      for (const one of shards) {
        for (const [key, slot] of one ?? []) {
          const count = rings.countSince(slot, countsSince(now, windowMs));
          if (count > 0) yield { key, uses: count, endsAt: Math.floor(rings.last(slot)) + windowMs };
        }
      }
    },
    sweep(now) {
      if (now < restUntil) return;
      const since = countsSince(now, windowMs);
      // Few keys are walked through in few steps.
      for (let step = Math.min(SWEPT, size + 1); step > 0; step--) {
        const entry = walk.next();
        if (entry.done === true) {
          nextShard();
          if (now < restUntil) return;
          continue;
        }
        const [key, slot] = entry.value;
        const last = rings.last(slot);
        if (last < since) free(key, slot);
        else soonest = Math.min(soonest, last + windowMs);
      }
    },
  };

  /** After the last shard there is rest until the first of the keys that were seen can have expired. */
  function nextShard(): void {
    do shard += 1;
    while (shard < SHARDS && (shards[shard]?.size ?? 0) === 0);
    if (shard >= SHARDS) {
      shard = 0;
      restUntil = soonest;
      soonest = Number.POSITIVE_INFINITY;
    }
    walk = shards[shard]?.entries() ?? [].values();
  }
}

function listCounter(limit: Limit): Counter {
  const { uses, windowMs } = limit;
  const keys = new Map<string, number[]>();
  let walk = keys.entries();

  return {
    limit,
    size: () => keys.size,
    last: (key) => keys.get(key)?.at(-1) ?? Number.NEGATIVE_INFINITY,
    times: (key) => keys.get(key) ?? [],
    grantedFrom(key, now, cost) {
      const times = keys.get(key);
      return times === undefined ? undefined : grantedFrom(times, now, uses, windowMs, cost);
    },
    use(key, now, cost) {
      const found = keys.get(key);
      const times = found ?? [];
      const expired = firstLive(times, now, windowMs);
      if (expired > 0) times.splice(0, expired);
      for (let use = Math.min(cost, uses); use > 0; use--) times.push(now);
      if (found === undefined) keys.set(key, times);
    },
    giveBack(key, at, cost) {
      const times = keys.get(key);
      return times === undefined ? 0 : withoutUses(times, at, cost);
    },
    reset(key, now) {
      const isLive = (keys.get(key)?.at(-1) ?? Number.NEGATIVE_INFINITY) >= countsSince(now, windowMs);
      keys.delete(key);
      return isLive;
    },
    *live(now) {
      for (const [key, times] of keys) {
        const count = times.length - firstLive(times, now, windowMs);
        if (count > 0) yield { key, uses: count, endsAt: Math.floor(times.at(-1) as number) + windowMs };
      }
    },
    sweep(now) {
      for (let step = 0; step < SWEPT; step++) {
        const entry = walk.next();
        if (entry.done === true) {
          walk = keys.entries();
          return;
        }
        const [key, times] = entry.value;
        if ((times.at(-1) ?? Number.NEGATIVE_INFINITY) < countsSince(now, windowMs)) keys.delete(key);
      }
    },
  };
}
