/** Rounds of stores: their clocks, their processes, their crowds. */
import { join } from 'node:path';
import { setFlagsFromString } from 'node:v8';
import { runInNewContext } from 'node:vm';
import { fileStore } from '@taxeon/file-store';
import { virtualClock } from '@taxeon/testing';
import { memoryStore, type Store } from 'taxeon';
import type { Limit } from 'taxeon/platform';
import { startOfAfternoon } from '../support/oddmere.js';
import { script, start } from '../support/programs.js';

import { inFolder, must, pick, type Round } from './round.js';

/** A store against a plain list of times, with a clock that steps both ways. */
export function agreement(operations: number): Round {
  return (random) =>
    inFolder(async (folder) => {
      let refused = 0;
      for (const name of ['memory', 'file'] as const) {
        const clock = virtualClock(startOfAfternoon);
        const open = (): Store =>
          // Without the elapsed time, which the list of times does not know.
          name === 'memory'
            ? memoryStore({ clock: { now: clock.now } })
            : fileStore({ path: join(folder, 'store.db'), clock });
        let store = open();
        const limits: Limit[] = [1, 3, 7].map((uses) => ({ id: `of ${uses}`, uses, windowMs: 100 * uses }));
        const lists = new Map<string, number[]>();
        let now = clock.now();
        let wall = now;
        let latest = now;
        for (let done = 0; done < operations; done++) {
          if (random() < 0.3) clock.advance(Math.floor(random() * 150) - (random() < 0.2 ? 400 : 20));
          if (random() < 0.0005) clock.advance((random() < 0.5 ? 1 : -1) * 365 * 86_400_000);
          // A process ends, and another opens the file.
          if (name === 'file' && random() < 0.002) {
            await store.close();
            store = open();
          }
          const step = clock.now() - wall;
          wall = clock.now();
          now = name === 'memory' ? now + Math.max(0, step) : wall;
          const limit = pick(random, limits);
          const key = pick(random, ['wren', 'ines', 'tobias']);
          const at = `${limit.id} ${key}`;
          const list = (lists.get(at) ?? []).map((time) => (Math.floor(time) > now ? now : time));
          lists.set(at, list);
          const cost = 1 + Math.floor(random() * 2);
          const verdict = await store.acquire([limit], [key], [cost]);
          const live = list.filter((time) => Math.floor(time) > now - limit.windowMs);
          const taken = Math.min(cost, limit.uses);
          // What had run out once, by a clock that was ahead, may be forgotten.
          latest = Math.max(latest, now);
          const sure = live.filter((time) => Math.floor(time) > latest - limit.windowMs);
          const isRoom = (verdict.granted ? sure : live).length + taken <= limit.uses;
          must(verdict.granted === isRoom, `${name} and the list disagree`, { verdict, live, sure, now });
          if (verdict.granted) {
            for (let use = 0; use < taken; use++) list.push(verdict.at);
            if (random() < 0.2) {
              await store.giveBack([{ limit, key, cost, at: verdict.at }]);
              // No other grant has its time, whatever the clock did.
              lists.set(
                at,
                list.filter((time) => time !== verdict.at),
              );
            }
          } else {
            refused += 1;
            must(verdict.retryAfterMs <= limit.windowMs, 'a wait is longer than its window', verdict);
          }
        }
        await store.close();
      }
      return `${2 * operations} operations, ${refused} refused`;
    });
}

/** Processes on one file, some of which are killed, are never granted too much. */
export function processes(kills: number): Round {
  return (random) =>
    inFolder(async (folder) => {
      const path = join(folder, 'hammered.db');
      const [uses, windowMs] = [25, 200];
      fileStore({ path }).close();
      const stopAt = Date.now() + 2000 + kills * 100;
      const args = [script('hammer.js'), path, String(stopAt), String(uses), String(windowMs)];
      const begun = Array.from({ length: 4 }, () => start(process.execPath, args));
      for (let kill = 0; kill < kills; kill++) {
        await new Promise((done) => setTimeout(done, 100 + random() * 200));
        const victim = pick(random, begun);
        victim.child.kill('SIGKILL');
        begun.push(start(process.execPath, args));
      }
      const finished = await Promise.all(begun.map((one) => one.finished));
      const grants = finished
        .flatMap(({ out }) => [...out.matchAll(/grant ([\d.]+)\n/g)].map(([, at]) => Math.floor(Number(at))))
        .sort((a, b) => a - b);
      for (const [index, at] of grants.entries()) {
        const earlier = grants[index - uses];
        must(earlier === undefined || at - earlier >= windowMs, 'too many were granted', { at, earlier });
      }
      must(
        finished.every(({ err }) => err === ''),
        'a process failed:',
        finished
          .map(({ err }) => err)
          .join('')
          .slice(0, 500),
      );
      return `${begun.length} processes, ${kills} kills, ${grants.length} grants`;
    });
}

/** What a crowd took of the heap is given back. */
export function crowds(people: number): Round {
  return async () => {
    setFlagsFromString('--expose-gc');
    const collect = runInNewContext('gc') as () => void;
    const clock = virtualClock(startOfAfternoon);
    const store = memoryStore({ clock });
    const limit: Limit = { id: 'irc/lamp/user', uses: 3, windowMs: 60_000 };
    const few = Array.from({ length: 10 }, (_, n) => `few ${n}`);
    const heap = () => {
      collect();
      const { heapUsed, arrayBuffers } = process.memoryUsage();
      return heapUsed + arrayBuffers;
    };
    const before = heap();
    for (let n = 0; n < people; n++) store.acquire([limit], [`person ${n}`]);
    const full = heap() - before;
    for (let n = 0; n < people; n++) {
      clock.advance(60_000);
      store.acquire([limit], [few[n % few.length] as string]);
    }
    const left = heap() - before;
    must(left < 2_000_000 + full / 20, 'the heap is not given back:', { full, left });
    return `${people} people took ${Math.round(full / 1e6)} MB, ${Math.round(left / 1e6)} MB stayed`;
  };
}
