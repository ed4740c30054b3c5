/** The texts of the library: each stands in English beside what says it, and in other languages under the same key. */
import { fillIn } from '../base/template.js';
import { isSaid } from '../base/text.js';
import type { Words } from '../contract/words.js';

/** A text in English with its `{names}`, or a function of what it is about where that is not enough. */
export type Text<Values = never> = string | ((values: Values) => string);

type NamesIn<Template extends string> = Template extends `${string}{${infer Name}}${infer Rest}`
  ? Name | NamesIn<Rest>
  : never;

/** What a text is about, and has to be given. */
type ValuesOfText<Of> = Of extends string
  ? { readonly [Name in NamesIn<Of>]: string | number }
  : Of extends (values: infer Values) => string
    ? Values
    : never;

type GivenForText<Values> = Record<never, never> extends Values ? [] : [values: Values];

/** Says one of some texts: in another language where that has it, else in English. */
export type Sayer<Table> = <Key extends keyof Table & string>(
  words: Words,
  key: Key,
  ...given: GivenForText<ValuesOfText<Table[Key]>>
) => string;

export function sayer<const Table extends Readonly<Record<string, Text>>>(english: Table): Sayer<Table> {
  return (words, key, ...given) => sayIn(words, key, english[key] as Text, (given[0] ?? {}) as never);
}

export function sayIn<Values extends object>(
  words: Words | undefined,
  key: string,
  english: Text<Values>,
  values: Values,
): string {
  return translated(words, key, values) ?? (typeof english === 'string' ? fillIn(english, values) : english(values));
}

/** A text in another language, where that has it. */
export function translated(words: Words | undefined, key: string, values: object): string | undefined {
  const said: unknown = words?.text?.(key, values as Readonly<Record<string, unknown>>);
  // A language may be the developer's own, and an empty text would leave a refusal unsaid.
  return isSaid(said) ? said : undefined;
}
