/** Words of dates and lengths of time, as the runtime's own language data (Unicode CLDR) has them. */
import { joinerIn } from '../base/joiner.js';

const word = /\p{L}[\p{L}\p{M}’']*\.?/gu;

/** Puts a language's words in a text into English; what else stands there is left alone. */
export function wordsToEnglish(locale: string): (text: string) => string {
  let english: ReadonlyMap<string, string> | undefined;
  return (text) => {
    english ??= localWords(locale);
    return text.replace(word, (typed) => english?.get(typed.toLowerCase().replace(/\.$/, '')) ?? typed);
  };
}

const DAY_MS = 86_400_000;
const SUNDAY = Date.UTC(2026, 4, 3);
const counts = [1, 2, 5, 1.5];
const units = ['week', 'day', 'hour', 'minute', 'second', 'month', 'year'] as const;
const ofCalendar: ReadonlySet<string> = new Set(['month', 'year']);

function localWords(locale: string): ReadonlyMap<string, string> {
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
