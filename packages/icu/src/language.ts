/** A language made of ICU messages. */
import { type MessageFormatElement, TYPE } from '@formatjs/icu-messageformat-parser';
import { IntlMessageFormat } from 'intl-messageformat';
import type { Language } from 'taxeon';
import { languageOf, type TextKey, type TextValues, type TypedWords, textParameters } from 'taxeon/language';

/** ICU MessageFormat by key, as it stands in a message file. */
export type IcuMessages = Readonly<Record<TextKey, string>>;

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

type WriteMessage = (values: TextValues) => string;

/**
 * Makes a language of messages in ICU MessageFormat, as they are kept in a JSON file. What they can say is
 * the keys of `IcuMessages`; what is missing is said in English.
 *
 * @param locale BCP 47
 * @param typed words of dates, lengths of time and answers that `Intl` does not know, by the English word
 * @throws LanguageError naming each message that does not read, and each parameter or key that there is not.
 *
 * @example
 * const polish = icuLanguage('pl', { 'command.unknown': 'Nie ma polecenia „{name}”.' });
 * createCommandLayer({ languages: [polish], commands });
 */
export function icuLanguage(locale: string, messages: Partial<IcuMessages>, typed?: TypedWords): IcuLanguage {
  const problems = [...languageProblems(locale, messages)];
  if (problems.length > 0) throw new LanguageError(locale, problems);
  const missing = Object.keys(textParameters).filter((key) => !(key in messages));
  return { ...uncheckedLanguage(locale, messages, typed), missing };
}

/** Without checking the messages, which a test has done for those that ship; each is parsed when it is first said. */
export function uncheckedLanguage(locale: string, messages: Partial<IcuMessages>, typed?: TypedWords): Language {
  const writers = new Map<string, WriteMessage>();
  function writeMessage(key: string, values: TextValues): string | undefined {
    const message = messages[key as TextKey];
    if (message === undefined) return undefined;
    const write = writers.get(key) ?? writerOf(locale, message);
    writers.set(key, write);
    return write(values);
  }
  return languageOf(locale, writeMessage, typed);
}

function writerOf(locale: string, message: string): WriteMessage {
  // The messages are plain text: what looks like a tag is none.
  const format = new IntlMessageFormat(message, locale, undefined, { ignoreTag: true });
  return (values) => String(format.format(values));
}

function* languageProblems(locale: string, messages: Partial<IcuMessages>): Iterable<string> {
  try {
    Intl.getCanonicalLocales(locale);
  } catch {
    yield `"${locale}" is no language tag; give one such as 'pl'`;
    return;
  }
  for (const [key, message] of Object.entries(messages)) {
    if (!Object.hasOwn(textParameters, key)) yield `there is no message "${key}"`;
    else yield* messageProblems(locale, key, message, textParameters[key as TextKey]);
  }
}

function* messageProblems(locale: string, key: string, message: unknown, allowed: readonly string[]): Iterable<string> {
  if (typeof message !== 'string' || message.trim() === '') {
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
