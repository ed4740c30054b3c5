/** The English words of which dates, lengths of time and answers are made: what words of other languages stand for. */

const wordsRead = [
  ...(['one', 'two', 'three', 'four', 'five', 'six', 'seven', 'eight', 'nine', 'ten', 'eleven', 'twelve'] as const),
  ...(['1.5', 'half', 'quarter', 'a', 'few', 'several', 'couple', 'some', 'while'] as const),
  ...(['second', 'minute', 'hour', 'day', 'week', 'weekend', 'month', 'year'] as const),
  ...(['now', 'today', 'tonight', 'tomorrow', 'overmorrow', 'yesterday'] as const),
  ...(['morning', 'afternoon', 'evening', 'night', 'noon', 'midnight', "o'clock"] as const),
  ...(['monday', 'tuesday', 'wednesday', 'thursday', 'friday', 'saturday', 'sunday'] as const),
  ...(['january', 'february', 'march', 'april', 'may', 'june', 'july'] as const),
  ...(['august', 'september', 'october', 'november', 'december'] as const),
  ...(['in', 'at', 'on', 'until', 'to', 'for', 'next', 'this', 'the', 'past', 'and', 'or'] as const),
  ...(['yes', 'no', 'from'] as const),
] as const;

export const weekdays = ['sunday', 'monday', 'tuesday', 'wednesday', 'thursday', 'friday', 'saturday'];
export const months = 'january february march april may june july august september october november december'.split(
  ' ',
);
/** `overmorrow` is what the day after tomorrow is called in languages that have a word for it. */
export const dayWords = ['today', 'tonight', 'tomorrow', 'overmorrow', 'yesterday', ...weekdays];

/** What people of a language type, by the English word it stands for, several with spaces between. */
export type TypedWords = { readonly [English in (typeof wordsRead)[number]]?: string };

/** What is wrong with such words, for who writes in JavaScript or reads them from a file. */
export function wrongWords(typed: unknown): string | undefined {
  if (typeof typed !== 'object' || typed === null) return 'the words that are typed are no texts by English word';
  const known: readonly string[] = wordsRead;
  for (const [english, local] of Object.entries(typed)) {
    if (!known.includes(english)) return `"${english}" is no word that is read; there are ${known.join(', ')}`;
    if (typeof local !== 'string' || local.trim() === '')
      return `has no text for "${english}"; give words with spaces between`;
  }
  return undefined;
}
