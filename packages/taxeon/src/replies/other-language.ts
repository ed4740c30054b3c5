/** A language besides English: what `Intl` knows of it, and texts that come from anywhere. */
import { foundOrMade } from '../base/bounded-map.js';
import { shown } from '../base/fields.js';
import { joinerIn } from '../base/joiner.js';
import { isLocale, ofLocale } from '../base/locale.js';
import { toldWaitMs, unitsOf } from '../base/time.js';
import { months, type TypedWords, wrongWords } from '../commands/kinds/typed-words.js';
import type { Missing } from '../contract/codes.js';
import { type Expectation, type ExpectedValue, moneyInWords } from '../contract/expectation.js';
import type { Words } from '../contract/words.js';
import type { Language } from './language.js';
import { messageIn } from './messages.js';

/** What a text is filled in with; what there is not is `'none'`. */
export type TextValues = Readonly<Record<string, string | number>>;

/** Writes a text by its key, in the language; `undefined` where it has none, which is then said in English. */
export type WriteText = (key: string, values: TextValues) => string | undefined;

/**
 * A language of texts that are kept anywhere. Lists, numbers, lengths of time and dates in words, and the words by which
 * dates and lengths are recognised, are what `Intl` knows of it.
 *
 * @param locale BCP 47
 * @param write gets each value ready to be said: lists and lengths of time in words (with the number beside them as
 *   `…Count` and `…Ms`), what is expected in the language's own words
 * @param typed words that `Intl` does not know: numbers from one to twelve, parts of the day, `yes` and `no`, cases of
 *   days. Each stands for an English word that dates, lengths of time or answers are made of
 *
 * @throws TypeError for what is no language tag, or no function
 *
 * @example
 * const texts: Readonly<Record<string, string>> = { 'command.unknown': 'Nie ma polecenia „{name}”.' };
 * const write: WriteText = (key, values) => texts[key]?.replace(/\{(\w+)\}/g, (_, name: string) => String(values[name]));
 * createCommandLayer({ commands, languages: [languageOf('pl', write)] });
 */
export function languageOf(locale: string, write: WriteText, typed: TypedWords = {}): Language {
  if (!isLocale(locale)) throw new TypeError(`languageOf: ${shown(locale)} is no language tag; give one such as 'pl'`);
  if (typeof write !== 'function') throw new TypeError('languageOf: give a function that writes a text by its key');
  const unread = wrongWords(typed);
  if (unread !== undefined) throw new TypeError(`languageOf: ${unread}`);
  const words: Words = {
    ...intlWords(locale),
    expected: (expected) => expectedIn(expected, words, write),
    text: (key, values) => write(key, valuesOf(values, words, write)),
  };
  return { locale, words, inEnglish: wordsToEnglish(locale, typed) };
}

/**
 * Lists and lengths of time in words, with their number beside them; what is absent is `none`. A choice in a
 * message cannot hold a hyphen, so a reason such as `the-bot` is `the_bot`.
 */
function valuesOf(parameters: Readonly<Record<string, unknown>>, words: Words, write: WriteText): TextValues {
  const values: Record<string, string | number> = {};
  for (const [name, value] of Object.entries(parameters)) {
    if (name === 'expected') values[name] = value === undefined ? '' : words.expected(value as Expectation);
    else if (name === 'missing')
      values[name] = (value as readonly Missing[]).map((one) => missingIn(one, write)).join(' ');
    else if (Array.isArray(value)) {
      values[name] = words.list(value, 'or');
      values[`${name}Count`] = value.length;
    } else if (typeof value === 'number') {
      values[name] = value;
      if (name.endsWith('Ms'))
        values[name.slice(0, -2)] = words.duration(name === 'retryAfterMs' ? toldWaitMs(value) : value);
    } else if (name === 'because') values[name] = String(value).replaceAll('-', '_');
    else values[name] = value === undefined ? 'none' : String(value);
  }
  values['after'] ??= 'none';
  return values;
}

function missingIn(missing: Missing, write: WriteText): string {
  const { what, name, without } = missing;
  const written = write(`missing.${what}`, { name, without: String(without) });
  return (
    written ?? messageIn(undefined, { code: 'permission.caller', parameters: { missing: [missing], denied: false } })
  );
}

function expectedIn(expected: Expectation, words: Words, write: WriteText): string {
  if (typeof expected === 'string') return expected;
  const own = expected.own && ofLocale(expected.own, words.locale);
  if (own !== undefined) return own;
  const values = Object.entries(expected.parameters).map(([name, value]) => [name, expectedValue(value, words)]);
  return write(`expected.${expected.key}`, Object.fromEntries(values)) ?? expected.english;
}

function expectedValue(value: ExpectedValue, words: Words): string | number {
  if (typeof value !== 'object') return value;
  if ('ms' in value) return words.duration(value.ms);
  if ('currency' in value) return moneyInWords(value, words.locale);
  return 'oneOf' in value ? words.list(value.oneOf, 'or') : words.expected(value.each);
}

// Lists, numbers, lengths of time and dates in any language, through `Intl`.
/** What `Intl` knows of a language by itself: everything but what an argument takes. */
type IntlWords = Omit<Words, 'expected'>;

/** @throws RangeError where `locale` is no language tag. */
function intlWords(locale: string): IntlWords {
  // Made when first needed: each takes a while to make.
  const numbers = madeOnce(() => new Intl.NumberFormat(locale));
  const lists = {
    or: madeOnce(() => new Intl.ListFormat(locale, { type: 'disjunction' })),
    and: madeOnce(() => new Intl.ListFormat(locale, { type: 'conjunction' })),
  };
  const spans = madeOnce(() => new Intl.ListFormat(locale, { type: 'unit', style: 'narrow' }));
  const lengths = new Map<string, Intl.NumberFormat>();
  const zones = new Map<string, Intl.DateTimeFormat>();

  function inUnit(count: number, unit: string): string {
    const format = () => new Intl.NumberFormat(locale, { style: 'unit', unit, unitDisplay: 'long' });
    return foundOrMade(lengths, unit, format).format(count);
  }

  return {
    locale,
    list: (words, joined) => lists[joined]().format(words),
    number: (value) => numbers().format(value),
    duration: (ms) => spans().format(unitsOf(ms).map(([count, unit]) => inUnit(count, unit))),
    datetime(at, timeZone) {
      const format = () => new Intl.DateTimeFormat(locale, { dateStyle: 'full', timeStyle: 'short', timeZone });
      return foundOrMade(zones, timeZone, format).format(at);
    },
  };
}

function madeOnce<T>(make: () => T): () => T {
  let made: T | undefined;
  return () => {
    made ??= make();
    return made;
  };
}

// Words of dates and lengths of time, as the runtime's own language data (Unicode CLDR) has them.
const word = /(?<!\p{L})(?!(?<=\d)[ap]m\b)\p{L}(?:[\p{L}\p{M}’']|-(?=\p{L}))*\.?/gu;

/** Puts a language's words in a text into English; what else stands there is left alone. */
function wordsToEnglish(locale: string, typed: TypedWords): (text: string) => string {
  let english: ReadonlyMap<string, string> | undefined;
  const translated = (one: string) => {
    const key = one.toLowerCase().replace(/\.$/, '');
    return english?.get(key) ?? english?.get(withoutMarks(key)) ?? one;
  };
  return (text) => {
    english ??= localWords(locale, typed);
    return withoutCounters(text).replace(word, translated);
  };
}

/** As on keyboards that lack letters: `srode`, `uebermorgen`. */
function withoutMarks(key: string): string {
  return key
    .replaceAll('ł', 'l')
    .normalize('NFD')
    .replace(/\p{M}+/gu, '');
}

/** What is written without spaces, with a sign behind each number: `12月24日`, `17時30分`, `2時間後`. */
function withoutCounters(text: string): string {
  if (!/[年月日時分秒週間]/.test(text)) return text;
  return text
    .replace(/来週/g, ' next week ')
    .replace(/来月/g, ' next month ')
    .replace(
      /午([前後]) ?(\d{1,2})時(?:(\d{1,2})分|(半))?/g,
      (_, half: string, hour: string, minute = '00', isHalf = '') => {
        return ` ${hour}:${isHalf === '' ? minute.padStart(2, '0') : '30'}${half === '前' ? 'am' : 'pm'} `;
      },
    )
    .replace(/(\d{4})年(\d{1,2})月(\d{1,2})日/g, '$1-$2-$3 ')
    .replace(
      /(\d{1,2})月(\d{1,2})日/g,
      (_, month: string, day: string) => `${day} ${months[Number(month) - 1] ?? '?'} `,
    )
    .replace(/(\d{1,2})時(\d{1,2})分/g, ' $1:$2 ')
    .replace(/(\d{1,2})時半/g, ' $1:30 ')
    .replace(/(\d{1,2})時(?!間)/g, ' $1:00 ')
    .replace(/(.+)[後后]$/, 'in $1')
    .replace(/(\d+) ?(週|日|時間|分|秒)間?/g, (_, count: string, unit: string) => ` ${count} ${counters[unit]} `)
    .replace(/(?<=[日曜時分0])[のに]/g, ' ')
    .replace(/(.+)まで$/, 'until $1')
    .replace(/([\u3040-\u9fff])(?=\d)/g, '$1 ')
    .trim();
}

const counters: Readonly<Record<string, string>> = { 週: 'week', 日: 'day', 時間: 'hour', 分: 'minute', 秒: 'second' };

const DAY_MS = 86_400_000;
const SUNDAY = Date.UTC(2026, 4, 3);
const counts = [1, 2, 5, 1.5];
const units = ['week', 'day', 'hour', 'minute', 'second', 'month', 'year'] as const;
const ofCalendar: ReadonlySet<string> = new Set(['month', 'year']);

function localWords(locale: string, typed: TypedWords): ReadonlyMap<string, string> {
  const words = new Map<string, string>();
  for (const [english, several] of Object.entries(typed)) {
    for (const one of several.toLowerCase().split(/\s+/)) words.set(one, english);
  }
  const add = (local: string | undefined, english: string) => {
    const key = local?.trim().toLowerCase().replace(/\.$/, '') ?? '';
    // `may` of one language is never `may` of another; a sign that is Sunday beside others is a day by itself.
    if (key !== '' && !(english === 'sunday' && key === '日') && !/\s/.test(key) && !words.has(key))
      words.set(key, english);
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
  add(relative.format(2, 'day'), 'overmorrow');
  add(relative.format(-1, 'day'), 'yesterday');
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
  for (const [local, one] of [...words]) {
    for (const form of [withoutMarks(local), local.replace(/[äöü]/g, (letter) => `${withoutMarks(letter)}e`)])
      if (!words.has(form)) words.set(form, one);
  }
  return words;
}
