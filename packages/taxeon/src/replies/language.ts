/** What a language is, and which one is spoken. */

import { BoundedMap, foundOrMade } from '../base/bounded-map.js';
import type { Words } from '../contract/words.js';

/** Everything that a layer says, in one language. */
export interface Language {
  /** BCP 47. */
  readonly locale: string;
  readonly words: Words;
  /**
   * The same text with this language's words for dates and lengths of time in English, in which they are read:
   * `2 dni` as `2 day`. English words alone are read without it.
   */
  inEnglish?(text: string): string;
}

/** Finds a language by what was asked for, from the most to the least specific subtag (RFC 4647, lookup). */
export function languageFinder(
  languages: readonly Language[],
  fallback: Language,
): (wanted: string | undefined) => Language | undefined {
  const byTag = new Map([fallback, ...languages].map((language) => [language.locale.toLowerCase(), language]));
  // What a platform says is not trusted: only so many are remembered.
  const found = new BoundedMap<string, Language | 'none'>(MOST_REMEMBERED);
  return (wanted) => {
    if (wanted === undefined || wanted.length > LONGEST_TAG) return undefined;
    const language = foundOrMade(found, wanted, () => lookUp(byTag, wanted) ?? 'none');
    return language === 'none' ? undefined : language;
  };
}

/** Chooses the language that is asked for, that of a guild, or the layer's own, whichever is there first. */
export function languageChooser(
  languages: readonly Language[] = [],
  fallback: Language,
  locale: string | undefined,
): (asked: string | undefined, guilds: string | undefined) => Language {
  const find = languageFinder(languages, fallback);
  const own = find(locale) ?? fallback;
  return (asked, guilds) => (typeof asked === 'string' ? find(asked) : undefined) ?? find(guilds) ?? own;
}

const MOST_REMEMBERED = 512;
const LONGEST_TAG = 64;

function lookUp(byTag: ReadonlyMap<string, Language>, wanted: string): Language | undefined {
  let tag = wanted.toLowerCase().replaceAll('_', '-');
  while (tag !== '') {
    const language = byTag.get(tag);
    if (language !== undefined) return language;
    tag = tag.slice(0, Math.max(0, tag.lastIndexOf('-')));
  }
  return undefined;
}
