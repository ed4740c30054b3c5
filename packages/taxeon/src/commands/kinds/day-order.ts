/** How days are written in numbers where a person is. */
import { byLocale } from '../../base/by-locale.js';

export interface DayOrder {
  readonly isDayFirst: boolean;
  /** Whether a dot parts the day from the month, so that `05.06` is no time. */
  readonly isDotted: boolean;
}

const orderIn = byLocale((locale): DayOrder => {
  const parts = new Intl.DateTimeFormat(locale, { month: 'numeric', day: 'numeric' }).formatToParts(0);
  return {
    isDayFirst: parts.find(({ type }) => type === 'month' || type === 'day')?.type === 'day',
    isDotted: parts.some(({ type, value }) => type === 'literal' && value.startsWith('.')),
  };
});

/** `undefined` where the locale does not tell: some countries write it one way in English, and some the other. */
export function dayOrderIn(locale: string | undefined): DayOrder | undefined {
  return locale === 'en' ? undefined : orderIn(locale);
}
