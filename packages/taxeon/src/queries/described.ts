/** The descriptions of ready commands and of their arguments, in each of the layer's languages. */
import type { Localized } from '../commands/command.js';
import type { Words } from '../contract/words.js';
import { translated } from '../replies/texts.js';

/** Makes what a declaration takes, from texts in English. */
export function describer<const Table extends Readonly<Record<string, unknown>>>(english: Table) {
  type Key = { [Name in keyof Table]: Table[Name] extends string ? Name : never }[keyof Table] & `describe.${string}`;
  return {
    /** @param args which text describes which argument */
    command(key: Key, args: Readonly<Record<string, Key>> = {}) {
      const localized = (words: Words): Localized => {
        const described = Object.entries(args).flatMap(([name, one]) => {
          const said = translated(words, one, {});
          return said === undefined ? [] : [[name, said]];
        });
        const description = translated(words, key, {});
        return { ...(description === undefined ? {} : { description }), args: Object.fromEntries(described) };
      };
      return { description: english[key] as string, localized };
    },
    argument: (key: Key) => ({ description: english[key] as string }),
  };
}
