/** What a message is put together from, in one language. */
import type { Amount, Expectation } from './expectation.js';

/** Pieces of a message in one language. */
export interface Words {
  /** BCP 47. */
  readonly locale: string;
  /** `a, b or c`; `a, b and c`. */
  list(words: readonly string[], joined: 'or' | 'and'): string;
  number(value: number): string;
  /** A length of time to at most two units, rounded up. */
  duration(ms: number): string;
  /** A moment, in an IANA time zone. */
  datetime(at: Date | number, timeZone: string): string;
  /** What an argument takes. */
  expected(expected: Expectation): string;
  amount(amount: Amount): string;
  /** What comes ready with the library, such as asking and the settings commands; in English where it gives nothing. */
  ready?(key: ReadyKey, values: Readonly<Record<string, string>>): string | undefined;
}

/** What is said where the bot asks: whole sentences, and words that answers are recognised by, with commas between them. */
export type AskingKey =
  | `ask.${'argument' | 'how' | 'how-without' | 'decide' | 'undecided' | 'lost'}`
  | `ask.${'stop' | 'yes' | 'no'}`;

/** What the settings commands say. */
export type SettingsKey =
  `settings.${'heading' | 'none' | 'lock-out' | 'not-yours' | 'unknown-command' | 'role' | 'channel' | 'granted' | 'denied' | 'forgotten' | 'on' | 'off' | 'prefixes' | 'language' | 'own-language' | 'unknown-language' | 'time-zone' | 'own-time-zone' | 'unknown-time-zone' | 'switched-off' | 'called'}`;

/** What the modules command says. */
export type ModulesKey =
  `modules.${'heading' | 'none' | 'unknown' | 'wrong' | 'reloaded' | 'new' | 'gone' | 'to-register' | 'unchanged'}`;

/** Descriptions of the ready commands and their arguments. */
export type DescribeKey =
  | `describe.${'help' | 'help.what' | 'help.page'}`
  | `describe.settings${'' | '.grant' | '.deny' | '.forget' | '.switch' | '.prefix' | '.language' | '.time-zone'}`
  | `describe.settings.${'which' | 'to' | 'on' | 'prefixes' | 'which-language' | 'which-time-zone'}`
  | `describe.modules${'' | '.list' | '.reload' | '.module'}`;

/** Keys of the texts of ready commands: help, settings, modules, asking. */
export type ReadyKey = AskingKey | SettingsKey | ModulesKey | DescribeKey;
