/** A store against a plain list of times. */

import { type VirtualClock, virtualClock } from '@taxeon/testing';
import fc from 'fast-check';
import type { Store } from 'taxeon';
import type { Limit } from 'taxeon/platform';
import { expect } from 'vitest';

const key = fc.constantFrom('a', 'b');
const step = fc.oneof(
  {
    weight: 5,
    arbitrary: fc.record({ do: fc.constant('acquire' as const), key, cost: fc.integer({ min: 1, max: 3 }) }),
  },
  {
    weight: 2,
    arbitrary: fc.record({ do: fc.constant('give back' as const), key, cost: fc.integer({ min: 1, max: 3 }) }),
  },
  { weight: 1, arbitrary: fc.record({ do: fc.constant('reset' as const), key }) },
  { weight: 3, arbitrary: fc.record({ do: fc.constant('advance' as const), ms: fc.integer({ min: -50, max: 120 }) }) },
);

/** @param isSteady whether the store's time goes on where the clock is set back */
export async function agreesWithList(open: (clock: VirtualClock) => Store, isSteady: boolean): Promise<void> {
  await fc.assert(
    fc.asyncProperty(fc.array(step, { maxLength: 60 }), fc.integer({ min: 1, max: 7 }), async (steps, uses) => {
      const clock = virtualClock(100_000);
      // Without the elapsed time, which the list of times does not know.
      const store = open({ ...clock, elapsed: undefined } as never);
      const limit: Limit = { id: 'model', uses, windowMs: 100 };
      const times = new Map<string, number[]>();
      let now = clock.now();
      let wall = now;
      /** What the store takes for now: in memory time goes on; in a file it is the clock's, and later times count as now. */
      const look = (key: string) => {
        const step = clock.now() - wall;
        wall = clock.now();
        now = isSteady ? now + Math.max(0, step) : wall;
        const list = times.get(key) ?? [];
        const kept = Math.floor(list.at(-1) ?? 0) > now ? list.map((time) => Math.min(time, now)) : list;
        times.set(key, kept);
        return kept;
      };
      for (const action of steps) {
        if (action.do === 'advance') {
          clock.advance(action.ms);
          continue;
        }
        if (action.do === 'give back') {
          const list = times.get(action.key) ?? [];
          const last = list.at(-1);
          if (last === undefined) continue;
          await store.giveBack([{ limit, key: action.key, at: last, cost: action.cost }]);
          for (let use = action.cost; use > 0 && list.at(-1) === last; use--) list.pop();
          continue;
        }
        const list = look(action.key);
        if (action.do === 'reset') {
          await store.reset(limit.id, action.key);
          list.length = 0;
          continue;
        }
        const live = list.filter((time) => Math.floor(time) > now - limit.windowMs);
        const cost = Math.min(action.cost, uses);
        const verdict = await store.acquire([limit], [action.key], [action.cost]);
        if (live.length + cost <= uses) {
          expect(verdict).toMatchObject({ granted: true });
          const { at } = verdict as { at: number };
          expect(at - now).toBeLessThan(1);
          expect(list).not.toContain(at);
          // What had expired is let go with the grant, and does not come back where the clock is set back.
          times.set(action.key, [...live, ...Array.from({ length: cost }, () => at)]);
        } else {
          const free = Math.floor(live[live.length + cost - uses - 1] ?? 0) + limit.windowMs;
          const retryAfterMs = free - now;
          expect(verdict).toEqual({ granted: false, index: 0, retryAfterMs, endsAt: wall + retryAfterMs });
        }
      }
      await store.close();
    }),
    { numRuns: 60 },
  );
}
