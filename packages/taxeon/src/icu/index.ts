/** Languages besides English, made of messages in ICU MessageFormat. */
import type { Language } from '../replies/language.js';
import { japaneseMessages } from './japanese.js';
import { languageOf } from './language.js';
import { polishMessages } from './polish.js';

export type { IcuKey, IcuMessages } from './keys.js';
export { icuParameters } from './keys.js';
export { type IcuLanguage, icuLanguage, LanguageError } from './language.js';
export { japaneseMessages, polishMessages };

/**
 * Polish, with all messages.
 *
 * @example
 * createCommandLayer({ commands, languages: [polish()], locale: 'pl' });
 */
export function polish(): Language {
  return languageOf('pl', polishMessages);
}

/**
 * Japanese, with all messages.
 *
 * @example
 * createCommandLayer({ commands, languages: [japanese()] });
 */
export function japanese(): Language {
  return languageOf('ja', japaneseMessages);
}
