/** What is said where the bot asks, and the words that answers are recognised by. */
import { foldName } from '../base/text.js';
import type { AskingKey } from '../contract/words.js';
import type { Language } from '../replies/language.js';

type Values = Readonly<Record<string, string>>;

const english: Readonly<Record<AskingKey, (values: Values) => string>> = {
  'ask.argument': ({ argument, expected }) => `I still need “${argument}”: ${expected}.`,
  'ask.how': ({ example, wait, stop }) => `Just type it, such as ${example}, within ${wait}. “${stop}” ends this.`,
  'ask.how-without': ({ wait, stop }) => `Just type it within ${wait}. “${stop}” ends this.`,
  'ask.decide': ({ yes, no, wait }) => `Say “${yes}” or “${no}” within ${wait}.`,
  'ask.undecided': ({ read }) => `“${read}” is neither a yes nor a no.`,
  'ask.lost': () => 'I had to restart, so I do not wait for your answer any more. Please begin again.',
  'ask.stop': () => 'stop, cancel, never mind',
  'ask.yes': () => 'yes, y, sure',
  'ask.no': () => 'no, n',
};

export function inWords({ words }: Language, key: AskingKey, values: Values = {}): string {
  return words.ready?.(key, values) ?? english[key](values);
}

/** The words of a language that mean one thing, the one that is told first. */
function wordsFor(language: Language, key: 'ask.stop' | 'ask.yes' | 'ask.no'): readonly string[] {
  return inWords(language, key).split(/\s*[,、]\s*/);
}

/** The words that stop a question, without those that are a value of what is asked for; all of them where none is left. */
export function stopWords(language: Language, isValue: (word: string) => boolean): readonly string[] {
  const all = wordsFor(language, 'ask.stop');
  const free = all.filter((word) => !isValue(word));
  return free.length === 0 ? all : free;
}

/** The first word for each, as it is told. */
export function yesAndNo(language: Language): { readonly yes: string; readonly no: string } {
  return { yes: wordsFor(language, 'ask.yes')[0] ?? '', no: wordsFor(language, 'ask.no')[0] ?? '' };
}

/** What an answer decides. English words are understood in every language. */
export function decided(language: Language, text: string): 'yes' | 'no' | undefined {
  const is = (key: 'ask.yes' | 'ask.no') =>
    isOneOf(text, [...wordsFor(language, key), ...english[key]({}).split(', ')]);
  return is('ask.yes') ? 'yes' : is('ask.no') ? 'no' : undefined;
}

/** Whether a text is one of some words, whatever its case and the punctuation behind it. */
export function isOneOf(text: string, words: readonly string[]): boolean {
  if (text.length > LONGEST_WORD) return false;
  const folded = foldName(text.trim().replace(/[\s.!…。！]+$/u, ''));
  return words.some((word) => foldName(word) === folded);
}

const LONGEST_WORD = 60;
