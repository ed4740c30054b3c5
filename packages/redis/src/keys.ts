/** The names of the bot's keys on the server: `mallet:uses:irc/fine/user:wren`, `mallet:values:settings/irc/#oddmere`. */
import type { Limit } from 'taxeon/platform';
import { forNames } from './escape.js';

const { escaped, unescaped } = forNames;

export interface Keys {
  uses(limit: Limit, key: string): string;
  usesOf(id: string, key: string): string;
  /** Of all uses; for `SCAN`. */
  readonly allUses: string;
  /** `undefined` for what is no key of uses. */
  partsOf(name: string): { readonly id: string; readonly key: string } | undefined;
  value(key: string): string;
  /** Of all values whose keys begin so. */
  valuesBeginning(prefix: string): string;
  keyOf(name: string): string;
  readonly channel: string;
}

export function redisKeys(bot: string): Keys {
  const [uses, values] = [`${escaped(bot)}:uses:`, `${escaped(bot)}:values:`];
  /** The limits of a layer are always the same objects. */
  const known = new WeakMap<Limit, string>();
  const usesOf = (id: string, key: string) => `${uses}${escaped(id)}:${escaped(key)}`;
  return {
    uses(limit, key) {
      let prefix = known.get(limit);
      if (prefix === undefined) {
        prefix = usesOf(limit.id, '');
        known.set(limit, prefix);
      }
      return prefix + escaped(key);
    },
    usesOf,
    allUses: `${literally(uses)}*`,
    partsOf(name) {
      const [id, key, ...more] = name.slice(uses.length).split(':').map(unescaped);
      return id === undefined || key === undefined || more.length > 0 ? undefined : { id, key };
    },
    value: (key) => values + escaped(key),
    valuesBeginning: (prefix) => `${literally(values + escaped(prefix))}*`,
    keyOf: (name) => unescaped(name.slice(values.length)),
    channel: `${escaped(bot)}:messages`,
  };
}

/** Not as the pattern that it may look like. */
function literally(text: string): string {
  return text.replace(/[\\*?[\]^-]/g, '\\$&');
}
