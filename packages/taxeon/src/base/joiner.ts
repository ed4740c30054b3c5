/** The word that stands before the last of several. */
import { byLocale } from './by-locale.js';

/** In small letters. */
export const joinerIn = byLocale((locale) =>
  new Intl.ListFormat(locale).formatToParts(['1', '2'])[1]?.value.trim().toLowerCase(),
);

/** `and`, `&`, `+`, or what the locale has for it. */
export function isJoiner(word: string, locale: string | undefined): boolean {
  const lower = word.toLowerCase();
  return lower === '&' || lower === '+' || lower === 'and' || lower === joinerIn(locale);
}
