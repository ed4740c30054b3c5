/** `taxeon limits`: what is live in a store, and forgetting it. */
import { durationInWords, type Store } from 'taxeon';
import type { LiveLimit } from 'taxeon/platform';
import { liveUsesIn, partsOfKey } from 'taxeon/queries';
import { UsageError } from './errors.js';
import { printJson } from './json.js';
import { openExistingStore, type StorePlace } from './open-store.js';
import { print } from './print.js';
import { tableLines } from './table.js';

export interface LimitsOptions extends StorePlace {
  readonly of?: string;
  readonly reset?: string;
  readonly json: boolean;
}

export async function showLimits({ of, reset, json, ...place }: LimitsOptions): Promise<void> {
  const store = await openExistingStore(place, 'its limits');
  try {
    const live = await liveUsesIn(store, ({ key }) => of === undefined || key === of || partsOfKey(key).includes(of));
    if (reset !== undefined) {
      const forgotten = await forgetUses(store, live, reset, of);
      if (json) printJson({ forgotten });
      else print(forgottenInWords(forgotten));
      return;
    }
    const rows = [...live].sort((a, b) => (a.id + a.key < b.id + b.key ? -1 : 1));
    if (json) printJson({ limits: rows });
    else print(table(rows, Date.now()));
  } finally {
    await store.close();
  }
}

async function forgetUses(store: Store, live: readonly LiveLimit[], id: string, of: string | undefined) {
  if (of === undefined) throw new UsageError('Say whose uses to forget with --of ID.');
  const found = live.filter((one) => one.id === id);
  if (found.length === 0)
    throw new UsageError(`Nothing of "${id}" is live for ${of}; \`taxeon limits\` lists what is.`);
  for (const { key } of found) await store.reset(id, key);
  return found;
}

function forgottenInWords(forgotten: readonly LiveLimit[]): string {
  return `Forgotten: ${forgotten.map(({ id, key, uses }) => `${uses} of ${id} for ${counterInWords(key)}`).join(', ')}.`;
}

function counterInWords(key: string): string {
  return partsOfKey(key).join(' ');
}

function table(rows: readonly LiveLimit[], now: number): string {
  if (rows.length === 0) return '\n  Nothing is counted now.\n';
  const head = ['limit', 'counted for', 'uses', 'last one counts for'];
  const cells = rows.map(({ id, key, uses, endsAt }) => [
    id,
    counterInWords(key),
    String(uses),
    durationInWords(Math.max(1, endsAt - now)),
  ]);
  return ['', ...tableLines(head, cells), ''].join('\n');
}
