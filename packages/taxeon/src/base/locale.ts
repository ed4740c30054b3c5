/** Whether a text is a language tag, BCP 47. */
export function isLocale(text: string): boolean {
  try {
    return Intl.getCanonicalLocales(text).length === 1;
  } catch {
    return false;
  }
}

/** What there is for a locale, or for its language whatever the country. */
export function ofLocale<T>(byLocale: Readonly<Record<string, T>>, locale: string): T | undefined {
  return byLocale[locale] ?? byLocale[locale.split('-', 1)[0] ?? ''];
}
