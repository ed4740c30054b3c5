/** What ready commands say, in the reader's language. */
import type { Localized } from '../commands/command.js';
import type { DescribeKey, ModulesKey, SettingsKey, Words } from '../contract/words.js';
import { fillIn } from '../replies/own-messages.js';

type Values = Readonly<Record<string, string>>;

/** Says one of some texts, which are in English; in another language where it has that text. */
export function readyWords<Key extends SettingsKey | ModulesKey>(english: Readonly<Record<Key, string>>) {
  return (words: Words, key: Key, values: Values = {}): string =>
    words.ready?.(key, values) ?? fillIn(english[key], values);
}

/** The description of a ready command, and those of its arguments by the name of each. */
export function readyDescription(key: DescribeKey, args: Readonly<Record<string, DescribeKey>> = {}) {
  return (words: Words): Localized => {
    const said = (one: DescribeKey) => words.ready?.(one, {});
    const description = said(key);
    const described = Object.entries(args).flatMap(([name, one]) => {
      const text = said(one);
      return text === undefined ? [] : [[name, text]];
    });
    return { ...(description === undefined ? {} : { description }), args: Object.fromEntries(described) };
  };
}
