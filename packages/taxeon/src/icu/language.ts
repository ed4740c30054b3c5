/** A language made of ICU messages. */

import { type MessageFormatElement, TYPE } from '@formatjs/icu-messageformat-parser';
import { IntlMessageFormat } from 'intl-messageformat';
import { foundOrMade } from '../base/bounded-map.js';
import { joinerIn } from '../base/joiner.js';
import { ofLocale } from '../base/locale.js';
import { isSaid } from '../base/text.js';
import { toldWaitMs, unitsOf } from '../base/time.js';
import type { Missing } from '../contract/codes.js';
import { type Expectation, type ExpectedValue, moneyInWords } from '../contract/expectation.js';
import type { Words } from '../contract/words.js';
import type { Language } from '../replies/language.js';
import { messageIn } from '../replies/messages.js';
import { type IcuKey, type IcuMessages, icuParameters } from './keys.js';

/** Messages that do not make a language, with every problem. */
export class LanguageError extends Error {
  override readonly name = 'LanguageError';

  constructor(
    readonly locale: string,
    readonly problems: readonly string[],
  ) {
    super(`The messages in ${locale} are wrong: ${problems.join('; ')}`);
  }
}

/** A language made of ICU messages. */
export interface IcuLanguage extends Language {
  /** Keys for which there is no message: these are said in English. */
  readonly missing: readonly string[];
}

type IcuValues = Readonly<Record<string, string | number>>;
type WriteMessage = (values: IcuValues) => string;

/**
 * Makes a language of messages in ICU MessageFormat, as they are kept in a JSON file. What they can say is
 * the keys of `IcuMessages`; what is missing is said in English.
 *
 * @param locale BCP 47
 * @throws LanguageError naming each message that does not read, and each parameter or key that there is not.
 *
 * @example
 * const polish = icuLanguage('pl', { 'command.unknown': 'Nie ma polecenia „{name}”.' });
 * createCommandLayer({ languages: [polish], commands });
 */
export function icuLanguage(locale: string, messages: Partial<IcuMessages>): IcuLanguage {
  const problems = [...languageProblems(locale, messages)];
  if (problems.length > 0) throw new LanguageError(locale, problems);
  const missing = Object.keys(icuParameters).filter((key) => !(key in messages));
  return { ...languageOf(locale, messages), missing };
}

/** Without checking the messages, which a test has done for those that ship; each is parsed when it is first said. */
export function languageOf(locale: string, messages: Partial<IcuMessages>): Language {
  const writers = new Map<IcuKey, WriteMessage>();
  const writer = (key: IcuKey): WriteMessage | undefined => {
    const message = messages[key];
    if (message === undefined) return undefined;
    return foundOrMade(writers, key, () => {
      // The messages are plain text: what looks like a tag is none.
      const format = new IntlMessageFormat(message, locale, undefined, { ignoreTag: true });
      return (values) => String(format.format(values));
    });
  };
  const intl = intlWords(locale);
  const words: Words = {
    ...intl,
    expected: (expected) => expectedIn(expected, words, writer),
    text: (key, values) => writer(key as IcuKey)?.(valuesOf(values, words, writer)),
  };
  return { locale, words, inEnglish: wordsToEnglish(locale) };
}

type Writers = (key: IcuKey) => WriteMessage | undefined;

/**
 * Lists and lengths of time in words, with their number beside them; what is absent is `none`. A choice in a
 * message cannot hold a hyphen, so a reason such as `the-bot` is `the_bot`.
 */
function valuesOf(parameters: Readonly<Record<string, unknown>>, words: Words, writer: Writers): IcuValues {
  const values: Record<string, string | number> = {};
  for (const [name, value] of Object.entries(parameters)) {
    if (name === 'expected') values[name] = value === undefined ? '' : words.expected(value as Expectation);
    else if (name === 'missing')
      values[name] = (value as readonly Missing[]).map((one) => missingIn(one, writer)).join(' ');
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

function missingIn(missing: Missing, writer: Writers): string {
  const { what, name, without } = missing;
  const written = writer(`missing.${what}`)?.({ name, without: String(without) });
  return (
    written ?? messageIn(undefined, { code: 'permission.caller', parameters: { missing: [missing], denied: false } })
  );
}

function expectedIn(expected: Expectation, words: Words, writer: Writers): string {
  if (typeof expected === 'string') return expected;
  const own = expected.own && ofLocale(expected.own, words.locale);
  if (own !== undefined) return own;
  const write = writer(`expected.${expected.key}` as IcuKey);
  if (write === undefined) return expected.english;
  const values = Object.entries(expected.parameters).map(([name, value]) => [name, expectedValue(value, words)]);
  return write(Object.fromEntries(values));
}

function expectedValue(value: ExpectedValue, words: Words): string | number {
  if (typeof value !== 'object') return value;
  if ('ms' in value) return words.duration(value.ms);
  if ('currency' in value) return moneyInWords(value, words.locale);
  return 'oneOf' in value ? words.list(value.oneOf, 'or') : words.expected(value.each);
}

function* languageProblems(locale: string, messages: Partial<IcuMessages>): Iterable<string> {
  try {
    Intl.getCanonicalLocales(locale);
  } catch {
    yield `"${locale}" is no language tag; give one such as 'pl'`;
    return;
  }
  for (const [key, message] of Object.entries(messages)) {
    if (!Object.hasOwn(icuParameters, key)) yield `there is no message "${key}"`;
    else yield* messageProblems(locale, key, message, icuParameters[key as IcuKey]);
  }
}

function* messageProblems(locale: string, key: string, message: unknown, allowed: readonly string[]): Iterable<string> {
  if (!isSaid(message)) {
    yield `${key} is no text that says something`;
    return;
  }
  let ast: readonly MessageFormatElement[];
  try {
    ast = new IntlMessageFormat(message, locale, undefined, { ignoreTag: true }).getAst();
  } catch (error) {
    yield `${key} does not read: ${error instanceof Error ? error.message.split('\n', 1)[0] : error}`;
    return;
  }
  for (const name of new Set(namesInElements(ast))) {
    if (!allowed.includes(name)) {
      yield `${key} has no parameter {${name}}${allowed.length === 0 ? '' : `; there are ${allowed.join(', ')}`}`;
    }
  }
}

function* namesInElements(elements: readonly MessageFormatElement[]): Iterable<string> {
  for (const element of elements) {
    if (element.type === TYPE.literal || element.type === TYPE.pound) continue;
    yield element.value;
    if (element.type === TYPE.select || element.type === TYPE.plural) {
      for (const option of Object.values(element.options)) yield* namesInElements(option.value);
    }
  }
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
const word = /\p{L}[\p{L}\p{M}’']*\.?/gu;

/** Puts a language's words in a text into English; what else stands there is left alone. */
function wordsToEnglish(locale: string): (text: string) => string {
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
