/** What the runtime's own language data (Unicode CLDR) tells of a locale. */

import { BoundedMap, foundOrMade } from './bounded-map.js';

/** Callers bring their locales along. */
const MOST = 32;
const LONGEST_TAG = 35;

/** The same for each locale (BCP 47), made once; `undefined` for what is none. */
export function byLocale<T>(make: (locale: string) => T): (locale: string | undefined) => T | undefined {
  const known = new BoundedMap<string, { readonly made: T | undefined }>(MOST);
  return (locale) => {
    if (locale === undefined || locale.length > LONGEST_TAG) return undefined;
    return foundOrMade(known, locale, () => ({ made: madeFor(locale, make) })).made;
  };
}

function madeFor<T>(locale: string, make: (locale: string) => T): T | undefined {
  try {
    return make(locale);
  } catch {
    // It is no tag of a language.
    return undefined;
  }
}
