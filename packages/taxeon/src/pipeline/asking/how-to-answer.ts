/** How to answer, in the caller's language. */
import { sayInAsking, stopWords, yesAndNo } from '../../asking/words.js';
import type { Slot } from '../../reading/slots.js';
import { readingContextOf } from '../read.js';
import type { Heard } from '../state.js';

/** A text that would do; nothing where none can be told. */
export function exampleOf({ example }: Slot, heard: Heard): string | undefined {
  return typeof example === 'function' ? example(readingContextOf(heard)) : example;
}

export function howToAnswer(heard: Heard, slot: Slot, leftMs: number): string {
  const { language } = heard.conversation;
  const [stop = ''] = stopWords(language, (word) => slot.kind.shape?.(word) === true);
  const wait = language.words.duration(leftMs);
  const example = exampleOf(slot, heard);
  return example === undefined
    ? sayInAsking(language.words, 'ask.how-without', { wait, stop })
    : sayInAsking(language.words, 'ask.how', { example, wait, stop });
}

export function howToDecide({ conversation: { language } }: Heard, leftMs: number): string {
  return sayInAsking(language.words, 'ask.decide', { ...yesAndNo(language), wait: language.words.duration(leftMs) });
}
