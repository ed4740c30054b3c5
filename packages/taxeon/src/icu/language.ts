/** A language made of ICU messages. */
import { type MessageFormatElement, TYPE } from '@formatjs/icu-messageformat-parser';
import { IntlMessageFormat } from 'intl-messageformat';
import { ofLocale } from '../base/locale.js';
import { isSaid } from '../base/text.js';
import { toldWaitMs } from '../base/time.js';
import type { Missing } from '../contract/codes.js';
import { type Expectation, type ExpectedValue, moneyInWords } from '../contract/expectation.js';
import type { Words } from '../contract/words.js';
import type { Language } from '../replies/language.js';
import { messageIn } from '../replies/messages.js';
import { intlWords } from './intl-words.js';
import { type IcuKey, type IcuMessages, icuParameters } from './keys.js';
import { wordsToEnglish } from './local-words.js';

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
    let write = writers.get(key);
    if (write === undefined) {
      // The messages are plain text: what looks like a tag is none.
      const format = new IntlMessageFormat(message, locale, undefined, { ignoreTag: true });
      write = (values) => String(format.format(values));
      writers.set(key, write);
    }
    return write;
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
