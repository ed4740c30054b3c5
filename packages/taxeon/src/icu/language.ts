/** A language made of ICU messages. */
import { type MessageFormatElement, TYPE } from '@formatjs/icu-messageformat-parser';
import { IntlMessageFormat } from 'intl-messageformat';
import { toldWaitMs } from '../base/time.js';
import type { Requirement } from '../commands/requirements.js';
import type { Code, Missing } from '../contract/codes.js';
import { type Expectation, type ExpectedValue, moneyInWords } from '../contract/expectation.js';
import type { Words } from '../contract/words.js';
import { english } from '../replies/english.js';
import { english as helpInEnglish } from '../replies/help.js';
import type { HelpPhrases, Language, Messages, Phrases } from '../replies/language.js';
import { intlWords } from './intl-words.js';
import { type ExpectedKey, type IcuKey, type IcuMessages, icuParameters, type RequirementKey } from './keys.js';
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

type Values = Readonly<Record<string, string | number>>;
type Write = (values: Values) => string;

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
  const problems = [...problemsOf(locale, messages)];
  if (problems.length > 0) throw new LanguageError(locale, problems);
  return languageOf(locale, messages);
}

/** Without checking the messages, which a test has done for those that ship; each is parsed when it is first said. */
export function languageOf(locale: string, messages: Partial<IcuMessages>): IcuLanguage {
  const writers = new Map<IcuKey, Write>();
  const writer = (key: IcuKey): Write | undefined => {
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
    amount: (amount) =>
      typeof amount === 'string' ? amount : typeof amount === 'number' ? intl.number(amount) : intl.duration(amount.ms),
    ready: (key, values) => writer(key)?.(values),
  };
  const phrase = (key: IcuKey, values: Values, otherwise: string) => writer(key)?.(values) ?? otherwise;
  return {
    locale,
    words,
    messages: Object.fromEntries(
      Object.keys(english.messages).map((code) => [code, messageIn(code as Code, words, writer)]),
    ) as unknown as Messages,
    phrases: {
      ...(plainPhrases(writer, english.phrases) as Phrases),
      aliases: (names) => phrase('help.aliases', { names: names.join(', ') }, english.phrases.aliases(names)),
    },
    help: {
      ...(plainPhrases(writer, helpInEnglish) as HelpPhrases),
      needs: (requirements) =>
        phrase(
          'help.needs',
          { needed: requirements.map((one) => neededIn(one, words, writer)).join('; ') },
          helpInEnglish.needs(requirements),
        ),
      limit(limit) {
        const { uses, windowMs, counts } = limit;
        const otherwise = helpInEnglish.limit(limit);
        return windowMs === undefined
          ? phrase('help.running', { uses, counts }, otherwise)
          : phrase('help.limit', { uses, counts, window: intl.duration(windowMs) }, otherwise);
      },
      nothingFound: (name, near) =>
        phrase(
          'help.nothing-found',
          { name, near: words.list(near, 'or'), nearCount: near.length },
          helpInEnglish.nothingFound(name, near),
        ),
    },
    inEnglish: wordsToEnglish(locale),
    missing: Object.keys(icuParameters).filter((key) => !(key in messages)),
  };
}

type Writers = (key: IcuKey) => Write | undefined;

/** Those whose message is called as the phrase is, and has its parameters in their order. */
function plainPhrases(writer: Writers, phrasesInEnglish: Phrases | HelpPhrases): object {
  const phrases = Object.entries(phrasesInEnglish).map(([name, inEnglish]) => {
    const kebab = name.replace(/[A-Z]/g, (letter) => `-${letter.toLowerCase()}`);
    const reply = `reply.${kebab}` as IcuKey;
    const key = reply in icuParameters ? reply : (`help.${kebab}` as IcuKey);
    const say = (...given: never[]) =>
      writer(key)?.(
        Object.fromEntries((icuParameters[key] ?? []).map((parameter, index) => [parameter, given[index] ?? ''])),
      ) ?? (inEnglish as (...given: never[]) => string)(...given);
    return [name, say];
  });
  return Object.fromEntries(phrases);
}

function messageIn(
  code: Code,
  words: Words,
  writer: Writers,
): (parameters: Readonly<Record<string, unknown>>) => string {
  return (parameters) => {
    const write = writer(code);
    return write === undefined
      ? english.messages[code](parameters as never)
      : write(valuesOf(parameters, words, writer));
  };
}

/**
 * Lists and lengths of time in words, with their number beside them; what is absent is `none`. A choice in a
 * message cannot hold a hyphen, so a reason such as `the-bot` is `the_bot`.
 */
function valuesOf(parameters: Readonly<Record<string, unknown>>, words: Words, writer: Writers): Values {
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

function missingIn({ what, name, without }: Missing, writer: Writers): string {
  const write = writer(`missing.${what}`);
  if (write !== undefined) return write({ name, without: String(without) });
  return english.messages['permission.caller']({ missing: [{ what, name, without }], denied: false });
}

function neededIn({ key, parameters, operands, traits, english }: Requirement, words: Words, writer: Writers): string {
  const parts = operands.map((one) => neededIn(one, words, writer));
  if (traits.joins !== undefined) return words.list(parts, traits.joins);
  const [needed] = parts;
  const values = needed === undefined ? parameters : { ...parameters, needed };
  return writer(`requires.${key}` as RequirementKey)?.(values) ?? english.needed;
}

function expectedIn(expected: Expectation, words: Words, writer: Writers): string {
  if (typeof expected === 'string') return expected;
  const write = writer(`expected.${expected.key}` as ExpectedKey);
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

function* problemsOf(locale: string, messages: Partial<IcuMessages>): Iterable<string> {
  try {
    Intl.getCanonicalLocales(locale);
  } catch {
    yield `"${locale}" is no language tag; give one such as 'pl'`;
    return;
  }
  for (const [key, message] of Object.entries(messages)) {
    const allowed = icuParameters[key as IcuKey];
    if (allowed === undefined) yield `there is no message "${key}"`;
    else yield* messageProblems(locale, key, message, allowed);
  }
}

function* messageProblems(locale: string, key: string, message: unknown, allowed: readonly string[]): Iterable<string> {
  if (typeof message !== 'string') {
    yield `${key} is no text`;
    return;
  }
  let ast: readonly MessageFormatElement[];
  try {
    ast = new IntlMessageFormat(message, locale, undefined, { ignoreTag: true }).getAst();
  } catch (error) {
    yield `${key} does not read: ${error instanceof Error ? error.message.split('\n', 1)[0] : error}`;
    return;
  }
  for (const name of new Set(namesIn(ast))) {
    if (!allowed.includes(name)) {
      yield `${key} has no parameter {${name}}${allowed.length === 0 ? '' : `; there are ${allowed.join(', ')}`}`;
    }
  }
}

function* namesIn(elements: readonly MessageFormatElement[]): Iterable<string> {
  for (const element of elements) {
    if (element.type === TYPE.literal || element.type === TYPE.pound) continue;
    yield element.value;
    if (element.type === TYPE.select || element.type === TYPE.plural) {
      for (const option of Object.values(element.options)) yield* namesIn(option.value);
    }
  }
}
