/** For who writes a language: `taxeon/language`. What there is to say, by key, and what each text is filled in with. */
import { type RequirementKey, requirementTexts } from './access/requirements/words.js';
import { askingTexts } from './asking/words.js';
import { namesIn } from './base/template.js';
import type { Arg } from './commands/arg.js';
import type * as kinds from './commands/kinds/index.js';
import type { LengthKey } from './commands/kinds/lengths.js';
import type { MomentKey } from './commands/kinds/moment-mistakes.js';
import type { Code, CodeParameters, Missing } from './contract/codes.js';
import { modulesTexts } from './modules/texts.js';
import { settingsTexts } from './queries/settings-words.js';
import type { attachment } from './reading/kinds/attachment.js';
import type { list as listOf } from './reading/kinds/list.js';
import { helpTexts } from './replies/help.js';
import { replyTexts } from './replies/phrases.js';

export type { TypedWords } from './commands/kinds/typed-words.js';
export { languageOf, type TextValues, type WriteText } from './replies/other-language.js';

const texts = { ...replyTexts, ...helpTexts, ...askingTexts, ...settingsTexts, ...modulesTexts } as const;

type Kinds = typeof kinds & { readonly attachment: typeof attachment; readonly list: typeof listOf };
/** The kinds of arguments that say what they expect; the others have words of the developer's. */
type KindKey = Exclude<
  {
    [Name in keyof Kinds]: Kinds[Name] extends (...given: never[]) => Arg<unknown, infer Type>
      ? Type extends `list of ${string}`
        ? 'list'
        : Exclude<Type, `${string} in guild`>
      : never;
  }[keyof Kinds],
  'custom' | 'pattern' | 'schema'
>;
/** What is expected where a kind says more than its name. */
type ExpectedKey = KindKey | MomentKey | LengthKey | 'percent' | 'mention' | 'name' | 'nothing-listed';

/** All keys that a language may have a text for. */
export type TextKey =
  | Code
  | keyof typeof texts
  | `requires.${RequirementKey | 'not'}`
  | `missing.${Missing['what']}`
  | `expected.${ExpectedKey}`;

/** How a parameter is written: a list also as its `…Count`, a length of time, whose name ends on `Ms`, also without that. */
const text = 0;
const list = 1;
const number = 2;
type FormOf<Value> = [Value] extends [readonly string[]]
  ? typeof list
  : [Value] extends [number | undefined]
    ? typeof number
    : typeof text;

type Forms<Parameters> = { readonly [Name in keyof Parameters]: FormOf<Parameters[Name]> };

const codes: { readonly [C in Code]: Forms<CodeParameters[C]> } = {
  'command.unknown': { name: text, because: text, near: list, help: text },
  'command.changed': { name: text },
  'command.unavailable': { command: text, because: text, surface: text },
  'place.wrong': { command: text, allowed: text, atConsole: text },
  'permission.caller': { missing: text, denied: text },
  'permission.bot': { name: text },
  'permission.rank': { of: text, argument: text, who: text, because: text },
  'permission.target': { argument: text, who: text, because: text, permission: text },
  'requirement.failed': { argument: text, reason: text },
  'argument.missing': { argument: text, expected: text },
  'argument.invalid': { argument: text, read: text, expected: text, misfit: text, measure: text, near: list },
  'argument.ambiguous': { argument: text, read: text, matches: list },
  'argument.absent-member': { argument: text, read: text },
  'argument.extra': { read: text, because: text, argument: text, expected: text },
  'argument.unknown': { name: text, near: list },
  'input.malformed': { what: text },
  'cooldown.active': { counts: text, retryAfterMs: number, endsAt: number },
  'running.full': { counts: text, most: number },
  'store.unavailable': { reference: text },
  'answer.none': { asked: text, because: text },
  'answer.stopped': { asked: text },
  'layer.closing': {},
  'handler.failed': { reference: text },
  'handler.timeout': { afterMs: number, reference: text },
  'callback.failed': { reference: text },
  'platform.forbidden': { reference: text },
  'platform.gone': { reference: text },
  'platform.unreachable': { reference: text },
  'platform.slowed': { reference: text },
  'platform.failed': { reference: text },
};

/** Texts that a function writes. */
type WrittenKey = { [Key in keyof typeof texts]: (typeof texts)[Key] extends string ? never : Key }[keyof typeof texts];

const written: Readonly<Record<WrittenKey, readonly string[]>> = {
  'help.limit': ['uses', 'window', 'windowMs', 'counts'],
  'help.running': ['uses', 'counts'],
  'help.nothing-found': ['name', 'near', 'nearCount'],
};

const missing: Readonly<Record<Missing['what'], readonly string[]>> = {
  permission: ['name', 'without'],
  role: ['name', 'without'],
  ownership: ['without'],
};

const range = ['bounds', 'min', 'max'] as const;

const expected: Readonly<Record<ExpectedKey, readonly string[]>> = {
  text: range,
  tail: range,
  integer: range,
  number: range,
  percent: range,
  money: [...range, 'currency'],
  attachment: ['max', 'typed', 'types'],
  duration: range,
  until: [...range, 'example'],
  datetime: ['lower', 'upper', 'min', 'max', 'example'],
  choice: ['labels', 'more'],
  name: [],
  'nothing-listed': [],
  url: ['protocols'],
  list: ['count', 'min', 'max', 'each'],
  boolean: [],
  emoji: [],
  member: [],
  mention: [],
  user: [],
  role: [],
  channel: [],
  day: ['example'],
  time: ['example'],
  skipped: ['example'],
  zone: ['example'],
  evening: ['example'],
  weekday: ['example'],
  'one-time': ['example'],
  'one-day': ['example'],
  'length-order': [],
  'length-calendar': [],
  'length-counted': [],
};

/**
 * Every key, with the names of the values that its text may use: for looking through a file of translations.
 *
 * @example
 * const translated = new Set(['command.unknown', 'help.commands']);
 * const lacking = Object.keys(textParameters).filter((key) => !translated.has(key));
 */
export const textParameters = Object.fromEntries(allKeys()) as Readonly<Record<TextKey, readonly string[]>>;

function namesFrom([name, form]: [string, number]): string[] {
  if (form === list) return [name, `${name}Count`];
  return name.endsWith('Ms') ? [name, name.slice(0, -'Ms'.length)] : [name];
}

function* allKeys(): Iterable<[TextKey, readonly string[]]> {
  for (const [code, forms] of Object.entries(codes)) yield [code as Code, Object.entries(forms).flatMap(namesFrom)];
  for (const [key, inEnglish] of Object.entries(texts))
    yield [key as keyof typeof texts, typeof inEnglish === 'string' ? namesIn(inEnglish) : written[key as WrittenKey]];
  for (const [key, { needed }] of Object.entries(requirementTexts))
    yield [`requires.${key as RequirementKey}`, namesIn(needed)];
  yield ['requires.not', ['needed']];
  for (const [what, names] of Object.entries(missing)) yield [`missing.${what as Missing['what']}`, names];
  for (const [key, names] of Object.entries(expected)) yield [`expected.${key as ExpectedKey}`, names];
}
