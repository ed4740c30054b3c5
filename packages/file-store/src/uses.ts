/** The uses of limits in a store's file. */

import type { Store } from 'taxeon';
import {
  type Denial,
  type Limit,
  type LiveLimit,
  type Renewed,
  slidingWindow,
  type Use,
  type Verdict,
} from 'taxeon/platform';
import { type FileAccess, GIVE_SPACE_BACK } from './access.js';
import { FileStoreError } from './errors.js';
import { escaped, unescaped } from './escape.js';
import { pack, unpack } from './format.js';

const { countsSince, firstLive, grantedFrom, timeBehind, withoutUses } = slidingWindow;

/** How many keys are looked at at once for having expired, and after how many grants. */
const WALKED = 64;
const SWEEP_EVERY = 16;
/** How many keys are listed without a pause. */
const PAGE = 500;

interface UsesRow {
  readonly window_ms: number;
  readonly times: string;
}

/** What a key has used, as a limit sees it now. */
interface KeptUses {
  readonly times: number[];
  /** It stands otherwise in the file: a clock was ahead, or the limit was another. */
  readonly isMended: boolean;
}

export function usesIn({
  db,
  path,
  now,
  reading,
  write,
}: FileAccess): Pick<Store, 'acquire' | 'look' | 'giveBack' | 'renew' | 'live' | 'reset'> {
  const sql = {
    uses: db.prepare('SELECT window_ms, times FROM uses WHERE id = ? AND key = ?'),
    put: db.prepare(
      'INSERT INTO uses VALUES (?, ?, ?, ?, ?) ON CONFLICT (id, key) DO UPDATE SET window_ms = excluded.window_ms, times = excluded.times, ends_at = excluded.ends_at',
    ),
    keep: db.prepare('UPDATE uses SET times = ?, ends_at = ? + window_ms WHERE id = ? AND key = ?'),
    endsAt: db.prepare('SELECT ends_at FROM uses WHERE id = ? AND key = ?'),
    drop: db.prepare('DELETE FROM uses WHERE id = ? AND key = ?'),
    walk: db.prepare(`SELECT id, key, ends_at FROM uses WHERE (id, key) > (?, ?) ORDER BY id, key LIMIT ${WALKED}`),
    live: db.prepare(
      `SELECT id, key, window_ms, times, ends_at FROM uses WHERE (id, key) > (?, ?) ORDER BY id, key LIMIT ${PAGE}`,
    ),
    giveSpaceBack: db.prepare(GIVE_SPACE_BACK),
  };
  let grants = 0;
  let walked = { id: '', key: '' };

  function timesIn({ id }: Limit, key: string): number[] {
    const row = sql.uses.get(escaped(id), escaped(key)) as UsesRow | undefined;
    return row === undefined ? [] : unpack(row.times);
  }

  /** A time that is later than now was written by a clock that was ahead: it counts as now, and does not move on with it. */
  function keptOf({ id, windowMs }: Limit, key: string, moment: number): KeptUses {
    const row = sql.uses.get(escaped(id), escaped(key)) as UsesRow | undefined;
    if (row === undefined) return { times: [], isMended: false };
    let times = unpack(row.times);
    const last = times.at(-1);
    if (last === undefined || Number.isNaN(last)) throw new FileStoreError('damaged', path);
    const isAhead = Math.floor(last) > moment;
    if (isAhead) times = notAhead(times, moment);
    const isOther = row.window_ms !== windowMs;
    if (isOther) times = times.slice(firstLive(times, moment, row.window_ms));
    return { times, isMended: isAhead || isOther };
  }

  function store({ id, windowMs }: Limit, key: string, times: readonly number[]): void {
    const last = times.at(-1);
    if (last === undefined) sql.drop.run(escaped(id), escaped(key));
    else sql.put.run(escaped(id), escaped(key), windowMs, pack(times), Math.floor(last) + windowMs);
  }

  /** What is left of a key, under the window that it had. */
  function keep(id: string, key: string, times: readonly number[]): void {
    const last = times.at(-1);
    if (last === undefined) sql.drop.run(escaped(id), escaped(key));
    else sql.keep.run(pack(times), Math.floor(last), escaped(id), escaped(key));
  }

  function judge(
    limits: readonly Limit[],
    kept: readonly KeptUses[],
    at: number,
    costs: readonly number[] | undefined,
  ): Denial | undefined {
    let found: Denial | undefined;
    for (const [index, { uses, windowMs }] of limits.entries()) {
      const from = grantedFrom(kept[index]?.times ?? [], at, uses, windowMs, costs?.[index] ?? 1);
      if (from === undefined) continue;
      const retryAfterMs = from - at;
      if (found === undefined || retryAfterMs > found.retryAfterMs) {
        found = { granted: false, index, retryAfterMs, endsAt: at + retryAfterMs };
      }
    }
    return found;
  }

  function acquire(
    moment: number,
    limits: readonly Limit[],
    keys: readonly string[],
    costs: readonly number[] | undefined,
  ): Verdict {
    const kept = limits.map((limit, index) => keptOf(limit, keys[index] as string, moment));
    const denial = judge(limits, kept, moment, costs);
    if (denial !== undefined) {
      for (const [index, limit] of limits.entries()) {
        const { times, isMended } = kept[index] as KeptUses;
        if (isMended) store(limit, keys[index] as string, times);
      }
      return denial;
    }
    const at = kept.reduce((time, { times }) => timeBehind(times.at(-1) ?? 0, time), moment);
    for (const [index, limit] of limits.entries()) {
      const { times } = kept[index] as KeptUses;
      store(limit, keys[index] as string, withUses(limit, times, at, costs?.[index] ?? 1));
    }
    grants += 1;
    if (grants % SWEEP_EVERY === 0) sweep(moment);
    return { granted: true, at };
  }

  /** Where uses have run out and others are in their place, they are lost. */
  function renewOne({ limit, key, cost, at }: Use, moment: number, to: number): boolean {
    const own = timesIn(limit, key);
    const isHeld = withoutUses(own, at, cost) > 0 && at >= countsSince(moment, limit.windowMs);
    if (isHeld) keep(limit.id, key, own);
    const { times } = keptOf(limit, key, moment);
    const isRoom = isHeld || grantedFrom(times, moment, limit.uses, limit.windowMs, cost) === undefined;
    store(limit, key, isRoom ? withUses(limit, times, to, cost) : times);
    return isRoom;
  }

  function renew(moment: number, uses: readonly Use[]): Renewed {
    const at = uses.reduce(
      (time, { limit, key }) => timeBehind(keptOf(limit, key, moment).times.at(-1) ?? 0, time),
      moment,
    );
    return { at, lost: uses.flatMap((use, index) => (renewOne(use, moment, at) ? [] : [index])) };
  }

  /** Walks round and round through all keys and frees those that have expired: an index on their end would cost more at each use. */
  function sweep(at: number): void {
    const rows = sql.walk.all(walked.id, walked.key) as { id: string; key: string; ends_at: number }[];
    const expired = rows.filter(({ ends_at }) => ends_at <= at);
    for (const { id, key } of expired) sql.drop.run(id, key);
    walked = rows.length < WALKED ? { id: '', key: '' } : (rows.at(-1) ?? walked);
    if (expired.length > 0) sql.giveSpaceBack.all();
  }

  async function* live(): AsyncGenerator<readonly LiveLimit[]> {
    let from = { id: '', key: '' };
    for (;;) {
      const rows = (await reading(() => sql.live.all(from.id, from.key))) as (UsesRow & {
        id: string;
        key: string;
        ends_at: number;
      })[];
      const at = now();
      const page = rows
        .filter(({ ends_at }) => ends_at > at)
        .map(({ id, key, window_ms, times, ends_at }) => {
          const list = unpack(times);
          const uses = list.length - firstLive(list, at, window_ms);
          return { id: unescaped(id), key: unescaped(key), uses, endsAt: Math.min(ends_at, at + window_ms) };
        });
      if (page.length > 0) yield page;
      if (rows.length < PAGE) return;
      from = rows.at(-1) ?? from;
      // Others have their turn.
      await new Promise((resolve) => setImmediate(resolve));
    }
  }

  return {
    acquire: (limits, keys, costs) => write((moment) => acquire(moment, limits, keys, costs)),
    look: (limits, keys, costs) =>
      reading((at) => {
        const kept = limits.map((limit, index) => keptOf(limit, keys[index] as string, at));
        return judge(limits, kept, at, costs) ?? { granted: true, at };
      }),
    giveBack: (uses) =>
      write(() => {
        for (const { limit, key, at, cost } of uses) {
          const times = timesIn(limit, key);
          if (withoutUses(times, at, cost) > 0) keep(limit.id, key, times);
        }
      }),
    renew: (uses) => write((moment) => renew(moment, uses)),
    live,
    reset: (id, key) =>
      write((at) => {
        const row = sql.endsAt.get(escaped(id), escaped(key)) as { ends_at: number } | undefined;
        sql.drop.run(escaped(id), escaped(key));
        return row !== undefined && row.ends_at > at;
      }),
  };
}

/** Each is kept apart from all that were before: it is the name of a grant, which may be given back yet. */
function notAhead(times: readonly number[], moment: number): number[] {
  let last = 0;
  return times.map((time) => {
    last = Math.floor(time) > moment ? timeBehind(last, moment) : time;
    return last;
  });
}

/** The times that still count, and the new ones. */
function withUses({ uses, windowMs }: Limit, times: readonly number[], at: number, cost: number): number[] {
  const live = times.slice(firstLive(times, Math.floor(at), windowMs));
  for (let use = Math.min(cost, uses); use > 0; use--) live.push(at);
  return live;
}
