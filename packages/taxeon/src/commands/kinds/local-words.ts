/** Words of dates and lengths of time in other languages, as the runtime's own data has them (Unicode CLDR). */
import { BoundedMap } from '../../base/bounded-map.js';
import { joinerIn } from '../../base/joiner.js';

interface Local {
  /** In small letters, without the dot of what is shortened: what the same is in English. */
  readonly english: ReadonlyMap<string, string>;
  readonly isDayFirst: boolean;
  /** Whether a dot parts the day from the month. */
  readonly hasDottedDays: boolean;
}

/** Callers bring their locales along. */
const locals = new BoundedMap<string, Local | undefined>(32);
const LONGEST_TAG = 35;
const word = /\p{L}[\p{L}\p{M}’']*\.?/gu;

/** The same text with the words of the locale in English; what else stands there is left alone. */
export function inEnglish(text: string, locale: string | undefined): string {
  if (isEnglish(locale)) return text;
  const english = localOf(locale as string)?.english;
  if (english === undefined) return text;
  return text.replace(word, (typed) => english.get(typed.toLowerCase().replace(/\.$/, '')) ?? typed);
}

/** Whether the day stands before the month where both are numbers; `undefined` where the locale does not tell. */
export function isDayFirst(locale: string | undefined): boolean | undefined {
  // Some countries write it one way in English, and some the other.
  if (locale === undefined || locale === 'en') return undefined;
  return localOf(locale)?.isDayFirst;
}

/** Whether `05.06` is a day there, and no time. */
export function hasDottedDays(locale: string | undefined): boolean {
  return locale !== undefined && localOf(locale)?.hasDottedDays === true;
}

function isEnglish(locale: string | undefined): boolean {
  return locale === undefined || (locale.startsWith('en') && (locale.length === 2 || locale[2] === '-'));
}

function localOf(locale: string): Local | undefined {
  if (locale.length > LONGEST_TAG) return undefined;
  const known = locals.get(locale);
  if (known !== undefined) return known;
  try {
    const local = { english: isEnglish(locale) ? new Map() : wordsOf(locale), ...dayOrderIn(locale) };
    locals.set(locale, local);
    return local;
  } catch {
    // It is no tag of a language.
    return undefined;
  }
}

function dayOrderIn(locale: string): Omit<Local, 'english'> {
  const parts = new Intl.DateTimeFormat(locale, { month: 'numeric', day: 'numeric' }).formatToParts(0);
  return {
    isDayFirst: parts.find(({ type }) => type === 'month' || type === 'day')?.type === 'day',
    hasDottedDays: parts.some(({ type, value }) => type === 'literal' && value.startsWith('.')),
  };
}

const DAY_MS = 86_400_000;
const SUNDAY = Date.UTC(2026, 4, 3);
const counts = [1, 2, 5, 1.5];
const units = ['week', 'day', 'hour', 'minute', 'second', 'month', 'year'] as const;
const ofCalendar: ReadonlySet<string> = new Set(['month', 'year']);

function wordsOf(locale: string): ReadonlyMap<string, string> {
  const words = new Map<string, string>();
  const add = (local: string | undefined, english: string) => {
    const key = local?.trim().toLowerCase().replace(/\.$/, '') ?? '';
    // `may` of one language is never `may` of another.
    if (key !== '' && !/\s/.test(key) && !words.has(key)) words.set(key, english);
  };
  const dated = (options: Intl.DateTimeFormatOptions, type: Intl.DateTimeFormatPartTypes, at: number) =>
    new Intl.DateTimeFormat(locale, { ...options, timeZone: 'UTC' })
      .formatToParts(at)
      .find((part) => part.type === type)?.value;
  const english = (options: Intl.DateTimeFormatOptions, at: number) =>
    new Intl.DateTimeFormat('en', { ...options, timeZone: 'UTC' }).format(at).toLowerCase();
  for (let day = 0; day < 7; day++) {
    const at = SUNDAY + day * DAY_MS;
    for (const weekday of ['long', 'short'] as const)
      add(dated({ weekday }, 'weekday', at), english({ weekday: 'long' }, at));
  }
  for (let month = 0; month < 12; month++) {
    const at = Date.UTC(2026, month, 15);
    for (const one of ['long', 'short'] as const) {
      for (const options of [{ month: one }, { month: one, day: 'numeric' }] as const)
        add(dated(options, 'month', at), english({ month: 'long' }, at));
    }
  }
  const relative = new Intl.RelativeTimeFormat(locale, { numeric: 'auto' });
  add(relative.format(0, 'day'), 'today');
  add(relative.format(1, 'day'), 'tomorrow');
  add(relative.format(0, 'second'), 'now');
  for (const unit of units) {
    for (const unitDisplay of ['long', 'short', 'narrow'] as const) {
      // One letter that is a year somewhere is too much else.
      if (unitDisplay === 'narrow' && ofCalendar.has(unit)) continue;
      const format = new Intl.NumberFormat(locale, { style: 'unit', unit, unitDisplay });
      for (const count of counts) add(format.formatToParts(count).find(({ type }) => type === 'unit')?.value, unit);
    }
    const [before, , behind] = relative.formatToParts(5, unit);
    if (before?.type === 'literal') {
      add(before.value, 'in');
      add(behind?.value, unit);
    }
  }
  add(joinerIn(locale), 'and');
  const full = new Intl.DateTimeFormat(locale, { dateStyle: 'full', timeStyle: 'short' }).formatToParts(0);
  add(full[full.findIndex(({ type }) => type === 'hour') - 1]?.value, 'at');
  return words;
}
