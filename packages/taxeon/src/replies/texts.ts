/** The texts of the library: each stands in English beside what says it, and in other languages under the same key. */
import { fillIn, namesIn } from '../base/template.js';
import type { Words } from '../contract/words.js';

/** A text in English with its `{names}`; a function, with the names it knows, where that is not enough. */
export type Text = string | WrittenText<never>;

export interface WrittenText<Values> {
  /** Those of its values, and what other languages get beside them. */
  readonly names: readonly string[];
  write(values: Values): string;
}

/** Texts by key. */
export type Texts = Readonly<Record<string, Text>>;

type NamesIn<Template extends string> = Template extends `${string}{${infer Name}}${infer Rest}`
  ? Name | NamesIn<Rest>
  : never;

/** What a text has to be given. */
export type ValuesOf<Of> = Of extends string
  ? { readonly [Name in NamesIn<Of>]: string | number }
  : Of extends WrittenText<infer Values>
    ? Values
    : never;

type Given<Values> = Record<never, never> extends Values ? [] : [values: Values];

/** Says one of some texts: in another language where that has it, else in English. */
export function sayer<const Table extends Texts>(english: Table) {
  return <Key extends keyof Table & string>(words: Words, key: Key, ...given: Given<ValuesOf<Table[Key]>>): string => {
    const values: object = given[0] ?? {};
    return words.text?.(key, { ...values }) ?? inEnglish(english[key] as Text, values);
  };
}

function inEnglish(text: Text, values: object): string {
  return typeof text === 'string' ? fillIn(text, values) : text.write(values as never);
}

/** The names that a text in another language may use. */
export function namesOf(text: Text): readonly string[] {
  return typeof text === 'string' ? namesIn(text) : text.names;
}
