/** What is said where the bot asks, and the words that answers are recognised by. */
import { foldName } from '../base/text.js';
import type { Language } from '../replies/language.js';
import { type Sayer, sayer } from '../replies/texts.js';

export const askingTexts = {
  'ask.argument': 'I still need “{argument}”: {expected}.',
  'ask.how': 'Just type it, such as {example}, within {wait}. “{stop}” ends this.',
  'ask.how-without': 'Just type it within {wait}. “{stop}” ends this.',
  'ask.decide': 'Say “{yes}” or “{no}” within {wait}.',
  'ask.undecided': '“{read}” is neither a yes nor a no.',
  'ask.lost': 'I had to restart, so I do not wait for your answer any more. Please begin again.',
  // Words that answers are recognised by, with commas between them.
  'ask.stop': 'stop, cancel, never mind',
  'ask.yes': 'yes, y, sure',
  'ask.no': 'no, n',
} as const;

export const sayInAsking: Sayer<typeof askingTexts> = sayer(askingTexts);

/** The words of a language that mean one thing, the one that is told first. */
function wordsFor(language: Language, key: 'ask.stop' | 'ask.yes' | 'ask.no'): readonly string[] {
  return sayInAsking(language.words, key).split(/\s*[,、]\s*/);
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
export function yesOrNo(language: Language, text: string): 'yes' | 'no' | undefined {
  const is = (key: 'ask.yes' | 'ask.no') =>
    isOneOf(text, [...wordsFor(language, key), ...askingTexts[key].split(', ')]);
  return is('ask.yes') ? 'yes' : is('ask.no') ? 'no' : undefined;
}

/** Whether a text is one of some words, whatever its case and the punctuation behind it. */
export function isOneOf(text: string, words: readonly string[]): boolean {
  if (text.length > LONGEST_WORD) return false;
  const folded = foldName(text.trim().replace(/[\s.!…。！]+$/u, ''));
  return words.some((word) => foldName(word) === folded);
}

const LONGEST_WORD = 60;
