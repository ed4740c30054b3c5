/** Messages of a bot's own: declared once with typed parameters, worded once for each language. */
import { fillIn, namesIn } from '../base/template.js';
import { echoText } from '../base/text.js';
import { Refusal } from '../commands/call.js';
import type { Worded, Wording } from '../commands/worded.js';
import type { Notice, Tone } from '../contract/notice.js';
import type { Words } from '../contract/words.js';

/** What a parameter is, so that every language writes it in its own way. */
export type ParameterKind = 'text' | 'number' | 'duration' | 'datetime' | 'list';

/** What a parameter of each kind is given. */
export interface ParameterValues {
  /** People's own words are neutralised. */
  text: string;
  number: number;
  /** Milliseconds. */
  duration: number;
  /** Milliseconds since 1970-01-01 UTC, or a date. */
  datetime: number | Date;
  list: readonly string[];
}

type Shape = Readonly<Record<string, ParameterKind>>;

/** By code, which is dotted; the parameters of each. */
export type MessageShapes = Readonly<Record<`${string}.${string}`, Shape>>;

type MessageValues<Of> = {
  readonly [Name in keyof Of]: Of[Name] extends ParameterKind ? ParameterValues[Of[Name]] : never;
};

/** `'We open {opens}.'`, or a function of the parameters, each written already. */
export type MessageText<Of> = string | ((written: { readonly [Name in keyof Of]: string }, words: Words) => string);

/** A language's texts for every message. */
export type MessageTexts<Shapes extends MessageShapes> = { readonly [C in keyof Shapes]: MessageText<Shapes[C]> };

type GivenValues<Of> = keyof Of extends never ? [] : [parameters: MessageValues<Of>];

/** What `messages` gives: refusing and saying in the reader’s language. */
export interface OwnMessages<Shapes extends MessageShapes> {
  /** Declines a call; return it, or throw it from deeper down. */
  refuse<C extends keyof Shapes & string>(code: C, ...given: GivenValues<Shapes[C]>): Refusal;
  /** Answers a call in the caller's language. */
  say<C extends keyof Shapes & string>(code: C, ...given: GivenValues<Shapes[C]>): Worded;
}

/**
 * Declares messages. The first of the languages is the one for everybody whose own is not there.
 *
 * @throws TypeError naming every text that is missing, or that names a parameter which is not declared.
 *
 * @example
 * const { refuse, say } = messages(
 *   { 'library.closed': { opens: 'datetime' } },
 *   { en: { 'library.closed': 'We are closed. We open {opens}.' } },
 * );
 * const run = () => refuse('library.closed', { opens: Date.now() + 3_600_000 });
 */
export function messages<const Shapes extends MessageShapes>(
  shapes: Shapes,
  texts: Readonly<Record<string, MessageTexts<NoInfer<Shapes>>>>,
): OwnMessages<Shapes> {
  const problems = [...textProblems(shapes, texts)];
  if (problems.length > 0) throw new TypeError(`The messages are wrong: ${problems.join('; ')}`);
  const byLocale = new Map(Object.entries(texts).map(([locale, all]) => [locale.toLowerCase(), all]));
  const [first] = byLocale.values();

  function worded(code: string, parameters: Readonly<Record<string, unknown>>): Wording {
    return (words, timeZone) => {
      const locale = words.locale.toLowerCase();
      const text = (byLocale.get(locale) ?? byLocale.get(locale.split('-', 1)[0] as string) ?? first)?.[code as never];
      const written = writeAll(shapes[code as never] ?? {}, parameters, words, timeZone);
      return typeof text === 'function'
        ? (text as (written: Readonly<Record<string, string>>, words: Words) => string)(written, words)
        : fillIn(text as unknown as string, written);
    };
  }

  return {
    refuse: (code, ...[parameters = {}]) =>
      new Refusal(code, worded(code, parameters as Record<string, unknown>), parameters as Record<string, unknown>),
    say: (code, ...[parameters = {}]) => ({ wording: worded(code, parameters as Record<string, unknown>) }),
  };
}

/**
 * How many of something were done, as a partial success.
 *
 * @example
 * const run = () => partlyDone(7, 9, 'Two tools are missing.');
 */
export function partlyDone(done: number, asked: number, saying: string | Omit<Notice, 'amount' | 'tone'>): Notice {
  const tone: Tone = done >= asked ? 'success' : 'partial';
  return { tone, ...(typeof saying === 'string' ? { body: saying } : saying), amount: { done, asked } };
}

function writeAll(
  shape: Shape,
  parameters: Readonly<Record<string, unknown>>,
  words: Words,
  timeZone: string,
): Readonly<Record<string, string>> {
  return Object.fromEntries(
    Object.entries(shape).map(([name, kind]) => [name, writtenParameter(kind, parameters[name], words, timeZone)]),
  );
}

const LONGEST_TEXT = 200;

function writtenParameter(kind: ParameterKind, value: unknown, words: Words, timeZone: string): string {
  switch (kind) {
    case 'text':
      return echoText(String(value), LONGEST_TEXT);
    case 'number':
      return words.number(value as number);
    case 'duration':
      return words.duration(value as number);
    case 'datetime':
      return words.datetime(value as number | Date, timeZone);
    case 'list':
      return words.list(
        (value as readonly string[]).map((one) => echoText(one)),
        'and',
      );
  }
}

function* textProblems(
  shapes: MessageShapes,
  texts: Readonly<Record<string, Readonly<Record<string, unknown>>>>,
): Iterable<string> {
  if (Object.keys(texts).length === 0) yield 'there is no language; give texts for at least one';
  for (const [locale, all] of Object.entries(texts)) {
    for (const [code, shape] of Object.entries(shapes)) {
      const text = all[code];
      if (typeof text === 'function') continue;
      if (typeof text !== 'string') {
        yield `${locale} has no text for ${code}`;
        continue;
      }
      for (const name of namesIn(text)) {
        if (!(name in shape)) yield `${locale}, ${code}: there is no parameter {${name}}`;
      }
    }
    for (const code of Object.keys(all))
      if (!(code in shapes)) yield `${locale} has a text for ${code}, which is not declared`;
  }
}
