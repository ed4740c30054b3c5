/** The word that stands before the last of several. */
import { BoundedMap } from './bounded-map.js';

/** Callers bring their locales along. */
const joiners = new BoundedMap<string, string>(32);
const LONGEST_TAG = 35;

/** `and`, `&`, or what the locale (BCP 47) has for it in the runtime's own data (Unicode CLDR). */
export function isJoiner(word: string, locale: string | undefined): boolean {
  const lower = word.toLowerCase();
  return lower === '&' || lower === 'and' || (locale !== undefined && lower === joinerIn(locale));
}

/** In small letters; empty where it is no locale. */
export function joinerIn(locale: string): string {
  const known = joiners.get(locale);
  if (known !== undefined || locale.length > LONGEST_TAG) return known ?? '';
  let joiner = '';
  try {
    joiner = new Intl.ListFormat(locale).formatToParts(['1', '2'])[1]?.value.trim().toLowerCase() ?? '';
  } catch {
    // It is no tag of a language.
  }
  joiners.set(locale, joiner);
  return joiner;
}
