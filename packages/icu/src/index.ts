/** Languages besides English, made of messages in ICU MessageFormat. */
import type { Language } from 'taxeon';
import { japaneseMessages, japaneseWords } from './japanese.js';
import { uncheckedLanguage } from './language.js';
import { polishMessages, polishWords } from './polish.js';

export { type IcuLanguage, type IcuMessages, icuLanguage, LanguageError } from './language.js';
export { japaneseMessages, polishMessages };

/**
 * Polish, with all messages.
 *
 * @example
 * createCommandLayer({ commands, languages: [polish()], locale: 'pl' });
 */
export function polish(): Language {
  return uncheckedLanguage('pl', polishMessages, polishWords);
}

/**
 * Japanese, with all messages.
 *
 * @example
 * createCommandLayer({ commands, languages: [japanese()] });
 */
export function japanese(): Language {
  return uncheckedLanguage('ja', japaneseMessages, japaneseWords);
}
