/** Values with versions in a store's file. */

import type { Store } from 'taxeon';
import { lifeOf, sumOf } from 'taxeon/platform';
import { type FileAccess, GIVE_SPACE_BACK } from './access.js';
import { escaped, unescaped } from './escape.js';

/** How many values are looked at at once for having expired, and after how many writings. */
const WALKED = 64;
const SWEEP_EVERY = 16;

interface ValueRow {
  readonly value: string;
  readonly version: number;
  readonly expires_at: number | null;
  readonly life_ms: number | null;
}

export function valuesIn({
  db,
  reading,
  write,
}: FileAccess): Pick<Store, 'read' | 'compareAndSet' | 'increment' | 'entries'> {
  const sql = {
    value: db.prepare('SELECT value, version, expires_at, life_ms FROM "values" WHERE key = ?'),
    values: db.prepare(
      'SELECT key, value FROM "values" WHERE substr(key, 1, ?) = ? AND (expires_at IS NULL OR expires_at > ?)',
    ),
    setValue: db.prepare(
      'INSERT INTO "values" VALUES (?, ?, ?, ?, ?) ON CONFLICT (key) DO UPDATE SET value = excluded.value, version = excluded.version, expires_at = excluded.expires_at, life_ms = excluded.life_ms',
    ),
    setExpiry: db.prepare('UPDATE "values" SET expires_at = ? WHERE key = ? AND version = ?'),
    walkValues: db.prepare(`SELECT key, expires_at FROM "values" WHERE key > ? ORDER BY key LIMIT ${WALKED}`),
    dropValue: db.prepare('DELETE FROM "values" WHERE key = ?'),
    countWrite: db.prepare("UPDATE header SET value = value + 1 WHERE name = 'writes' RETURNING value"),
    giveSpaceBack: db.prepare(GIVE_SPACE_BACK),
  };
  let walked = '';
  let puts = 0;

  function sweep(at: number): void {
    const values = sql.walkValues.all(walked) as { key: string; expires_at: number | null }[];
    const expired = values.filter(({ expires_at }) => expires_at !== null && expires_at <= at);
    for (const { key } of expired) sql.dropValue.run(key);
    walked = values.length < WALKED ? '' : (values.at(-1)?.key ?? '');
    if (expired.length > 0) sql.giveSpaceBack.all();
  }

  /** A value that is to live longer than it was given was written by a clock that was ahead: its time begins now. */
  function liveValue(key: string, at: number): ValueRow | undefined {
    const row = sql.value.get(escaped(key)) as ValueRow | undefined;
    if (row === undefined || row.expires_at === null) return row;
    const { expires_at, life_ms, version } = row;
    if (life_ms !== null && life_ms > 0 && expires_at > at + life_ms) {
      sql.setExpiry.run(at + life_ms, escaped(key), version);
    }
    return expires_at > at ? row : undefined;
  }

  /** A version never comes again, whatever becomes of the key: a late writer does not win. */
  function put(key: string, value: string, at: number, lifeMs: number | undefined): void {
    const { value: version } = sql.countWrite.get() as { value: string };
    const expiresAt = lifeMs === undefined ? null : Math.ceil(at + lifeMs);
    sql.setValue.run(
      escaped(key),
      escaped(value),
      Number(version),
      expiresAt,
      lifeMs === undefined ? null : Math.ceil(lifeMs),
    );
    puts += 1;
    if (puts % SWEEP_EVERY === 0) sweep(at);
  }

  return {
    read: (key) =>
      reading((at) => {
        const row = liveValue(key, at);
        return row === undefined ? undefined : { value: unescaped(row.value), version: row.version };
      }),
    compareAndSet: (key, expected, value, expiresInMs) =>
      write((at) => {
        const lifeMs = lifeOf(expiresInMs);
        if ((liveValue(key, at)?.version ?? 0) !== expected) return false;
        put(key, value, at, lifeMs);
        return true;
      }),
    increment: (key, by) =>
      write((at) => {
        const sum = sumOf(liveValue(key, at)?.value, by);
        put(key, String(sum), at, undefined);
        return sum;
      }),

    entries: (prefix) =>
      reading((at) => {
        const begin = escaped(prefix);
        const rows = sql.values.all(begin.length, begin, at) as { key: string; value: string }[];
        return rows.map(({ key, value }) => [unescaped(key), unescaped(value)] as const);
      }),
  };
}
