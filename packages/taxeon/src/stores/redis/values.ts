/** Values with versions on a Redis server. */
import { lifeOf, sumOf } from '../../contract/check-value.js';
import type { Store } from '../../contract/store.js';
import { forText } from '../escape.js';
import type { Calls } from './calls.js';
import type { Keys } from './keys.js';
import { scan } from './scan.js';
import * as scripts from './value-scripts.js';

/** Beyond that a server does not count; a thousand years. */
const LONGEST_LIFE_MS = 3.2e13;

export function valuesOn(
  calls: Calls,
  keys: Keys,
  marginMs: number,
): Pick<Store, 'read' | 'compareAndSet' | 'increment' | 'entries'> {
  const margin = String(marginMs);

  async function entriesOf(names: readonly string[]) {
    const now = calls.now();
    const found = await Promise.all(names.map((name) => calls.send(name, ['GET', name])));
    return found.flatMap((raw, index) => {
      const [, goneAt, value] = /^\d+ (\d+) \d+ [\d,]*\n([\s\S]*)$/.exec(String(raw ?? '')) ?? [];
      const isGone = goneAt !== '0' && Number(goneAt) <= now;
      return value === undefined || isGone
        ? []
        : [[keys.keyOf(names[index] as string), forText.unescaped(value)] as const];
    });
  }

  return {
    async read(key) {
      const [, version, value] = await calls.run(scripts.read, [keys.value(key)], 0, [margin]);
      return version === undefined ? undefined : { value: forText.unescaped(String(value)), version: Number(version) };
    },
    async compareAndSet(key, expected, value, expiresInMs) {
      const lifeMs = Math.min(lifeOf(expiresInMs) ?? 0, LONGEST_LIFE_MS);
      const given = [margin, String(expected), String(Math.ceil(lifeMs)), forText.escaped(value)];
      const [, isWritten] = await calls.run(scripts.compareAndSet, [keys.value(key)], calls.nextNonce(), given);
      return isWritten === 1;
    },
    async increment(key, by) {
      sumOf(undefined, by);
      const [, sum] = await calls.run(scripts.increment, [keys.value(key)], calls.nextNonce(), [margin, String(by)]);
      return Number(sum);
    },
    async entries(prefix) {
      const all = new Map<string, string>();
      for await (const names of scan(calls, keys.valuesBeginning(prefix))) {
        for (const [key, value] of await entriesOf(names)) all.set(key, value);
      }
      return [...all];
    },
  };
}
