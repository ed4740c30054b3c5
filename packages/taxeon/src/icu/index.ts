/** Languages besides English, made of messages in ICU MessageFormat. */
import { japaneseMessages } from './japanese.js';
import { type IcuLanguage, languageOf } from './language.js';
import { polishMessages } from './polish.js';

export type { IcuKey, IcuMessages } from './keys.js';
export { icuParameters } from './keys.js';
export { type IcuLanguage, icuLanguage, LanguageError } from './language.js';
export { japaneseMessages, polishMessages };

export function polish(): IcuLanguage {
  return languageOf('pl', polishMessages);
}

export function japanese(): IcuLanguage {
  return languageOf('ja', japaneseMessages);
}
