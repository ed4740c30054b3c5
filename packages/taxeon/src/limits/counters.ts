/** One limit's keys in memory: in rings where it allows few uses, in lists of times where it allows many. */

import type { Limit } from '../contract/store.js';
import { Rings } from './rings.js';
import { firstAfter, grantedFrom } from './window.js';

export interface Counter {
  readonly limit: Limit;
  /** When `cost` more would be granted; `undefined` for now. */
  grantedFrom(key: string, now: number, cost: number): number | undefined;
  use(key: string, now: number, cost: number): void;
  giveBack(key: string, at: number, cost: number): void;
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

/** Keys are told apart by their ends, which differ most in ids that are counted up. */
function shardOf(key: string): number {
  const end = key.length;
  return (key.charCodeAt(end - 1) + key.charCodeAt(end - 2) * 3 + key.charCodeAt(end - 3) * 7) & (SHARDS - 1);
}

function ringCounter(limit: Limit): Counter {
  const { uses, windowMs } = limit;
  const rings = new Rings(uses);
  const shards = Array.from({ length: SHARDS }, () => new Map<string, number>());
  /** How many keys there are. */
  let size = 0;
  let shard = 0;
  let walk = (shards[shard] as Map<string, number>).entries();
  /** Before this time no key can have expired. */
  let restUntil = Number.NEGATIVE_INFINITY;
  let soonest = Number.POSITIVE_INFINITY;
  /** A call asks for the same key several times. */
  let lastKey: string | undefined;
  let lastSlot = -1;

  /** -1 where the key has none. */
  function slotOf(key: string): number {
    if (key !== lastKey) {
      lastSlot = (shards[shardOf(key)] as Map<string, number>).get(key) ?? -1;
      lastKey = key;
    }
    return lastSlot;
  }

  function free(key: string, slot: number): void {
    if (key === lastKey) lastKey = undefined;
    rings.release(slot);
    size -= 1;
    (shards[shardOf(key)] as Map<string, number>).delete(key);
  }

  return {
    limit,
    grantedFrom(key, now, cost) {
      const slot = slotOf(key);
      if (slot < 0) return undefined;
      if (rings.countAfter(slot, now - windowMs) + Math.min(cost, uses) <= uses) return undefined;
      return grantedFrom(rings.times(slot), now, uses, windowMs, cost);
    },
    use(key, now, cost) {
      let slot = slotOf(key);
      if (slot < 0) {
        slot = rings.take();
        size += 1;
        if (now + windowMs < restUntil) restUntil = now + windowMs;
        (shards[shardOf(key)] as Map<string, number>).set(key, slot);
        lastSlot = slot;
      }
      for (let use = Math.min(cost, uses); use > 0; use--) rings.push(slot, now);
    },
    giveBack(key, at, cost) {
      const slot = slotOf(key);
      if (slot < 0) return;
      for (let use = Math.min(cost, uses); use > 0; use--) if (!rings.remove(slot, at)) return;
    },
    reset(key, now) {
      const slot = slotOf(key);
      if (slot < 0) return false;
      const isLive = rings.last(slot) > now - windowMs;
      free(key, slot);
      return isLive;
    },
    *live(now) {
      for (const one of shards) {
        for (const [key, slot] of one) {
          const count = rings.countAfter(slot, now - windowMs);
          if (count > 0) yield { key, uses: count, endsAt: rings.last(slot) + windowMs };
        }
      }
    },
    sweep(now) {
      if (now < restUntil) return;
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
        if (last <= now - windowMs) free(key, slot);
        else soonest = Math.min(soonest, last + windowMs);
      }
    },
  };

  /** After the last shard there is rest until the first of the keys that were seen can have expired. */
  function nextShard(): void {
    do shard += 1;
    while (shard < SHARDS && (shards[shard] as Map<string, number>).size === 0);
    if (shard >= SHARDS) {
      shard = 0;
      restUntil = soonest;
      soonest = Number.POSITIVE_INFINITY;
    }
    walk = (shards[shard] as Map<string, number>).entries();
  }
}

function listCounter(limit: Limit): Counter {
  const { uses, windowMs } = limit;
  const keys = new Map<string, number[]>();
  let walk = keys.entries();

  return {
    limit,
    grantedFrom(key, now, cost) {
      const times = keys.get(key);
      return times === undefined ? undefined : grantedFrom(times, now, uses, windowMs, cost);
    },
    use(key, now, cost) {
      const times = keys.get(key) ?? [];
      const expired = firstAfter(times, now - windowMs);
      if (expired > 0) times.splice(0, expired);
      for (let use = Math.min(cost, uses); use > 0; use--) times.push(now);
      keys.set(key, times);
    },
    giveBack(key, at, cost) {
      const times = keys.get(key);
      if (times === undefined) return;
      const last = times.lastIndexOf(at);
      const first = times.indexOf(at);
      if (first < 0) return;
      const count = Math.min(cost, uses, last - first + 1);
      times.splice(last - count + 1, count);
    },
    reset(key, now) {
      const isLive = (keys.get(key)?.at(-1) ?? Number.NEGATIVE_INFINITY) > now - windowMs;
      keys.delete(key);
      return isLive;
    },
    *live(now) {
      for (const [key, times] of keys) {
        const count = times.length - firstAfter(times, now - windowMs);
        if (count > 0) yield { key, uses: count, endsAt: (times.at(-1) as number) + windowMs };
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
        if ((times.at(-1) ?? Number.NEGATIVE_INFINITY) <= now - windowMs) keys.delete(key);
      }
    },
  };
}
