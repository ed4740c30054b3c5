/** Kinds that are texts of a certain form. */
import { textByLocale, texts } from '../../base/fields.js';
import { either } from '../../base/text.js';
import { type Expected, type OwnExpected, ownExpectation } from '../../contract/expectation.js';
import { type ArgOf, type ArgOptions, type DefaultOf, type Exactly, makeArg, type NoOptions } from '../arg.js';
import { type Kind, notOfShape, takeIf } from '../kind.js';
import { plainly } from './expected.js';
import { explosive } from './explosive.js';

export interface EmojiOptions extends ArgOptions<DefaultOf<string>> {}

/**
 * One emoji, also one that is joined of several, or a short code such as `:ladder:`, which stays as it was typed.
 *
 * @example
 * arg.emoji({ description: 'A sign for the shelf' })
 */
export function emoji<const Options extends EmojiOptions = NoOptions>(
  options?: Exactly<Options, EmojiOptions>,
): ArgOf<string, 'emoji', Options> {
  return makeArg('emoji', emojiKind, options as Options);
}

/**
 * The set of Unicode TS #51, "emoji for general interchange"; the flag is newer than the compiler's target.
 * Made when first needed: that alone takes tens of milliseconds.
 */
let oneEmoji: RegExp | undefined;

function isOneEmoji(text: string): boolean {
  oneEmoji ??= /^\p{RGI_Emoji}$/v;
  // Some keyboards leave out what asks for the coloured form.
  return oneEmoji.test(text) || (text.length < 3 && /^\p{Emoji}$/u.test(text) && oneEmoji.test(`${text}\ufe0f`));
}

const LONGEST_EMOJI = 64;

const shortCode = /^:[\w+-]*[a-z][\w+-]*:$/i;

const isEmoji = (value: unknown) =>
  typeof value === 'string' && value.length <= LONGEST_EMOJI && (shortCode.test(value) || isOneEmoji(value));

const emojiKind: Kind<string> = {
  name: 'emoji',
  expected: plainly('emoji', 'one emoji'),
  traits: { readsAlone: true },
  example: '🔨',
  tokens: 1,
  leavesQuoted: false,
  shape: isEmoji,
  read: (typed) => (isEmoji(typed) ? typed : notOfShape),
  take: takeIf(isEmoji),
  write: (value) => value,
  isValue: isEmoji,
};

export interface UrlOptions extends ArgOptions<DefaultOf<URL>> {
  /** Without colons; `['https', 'http']` by default. */
  readonly protocols?: readonly string[];
}

const LONGEST_URL = 2048;

/**
 * An address such as `https://tools.example/drill`, read as the WHATWG URL standard says. Angle
 * brackets around it, which keep some systems from showing a preview, and the punctuation of a sentence are left out.
 *
 * @example
 * arg.url({ description: 'Where the manual is' })
 */
export function url<const Options extends UrlOptions = NoOptions>(
  options?: Exactly<Options, UrlOptions>,
): ArgOf<URL, 'url', Options> {
  return makeArg(
    'url',
    urlKind(Array.isArray(options?.protocols) ? options.protocols : ['https', 'http']),
    options as Options,
    [],
    { protocols: texts },
  );
}

function addressWith(beginnings: readonly string[]): Expected {
  const english = `an address that begins with ${either(beginnings)}`;
  return { key: 'url', parameters: { protocols: { oneOf: beginnings } }, english };
}

function urlKind(protocols: readonly string[]): Kind<URL> {
  const allowed = new Set(protocols.map((protocol) => `${protocol}:`));
  const isValue = (value: unknown) => value instanceof URL && allowed.has(value.protocol);
  return {
    name: 'url',
    expected: addressWith(protocols.map((protocol) => `${protocol}://`)),
    traits: { readsAlone: true },
    example: `${protocols[0] ?? 'https'}://tools.example/drill`,
    tokens: 1,
    leavesQuoted: false,
    shape: (typed) => /^[<(]?[a-z][a-z0-9+.-]*:/i.test(typed),
    read: (typed) => {
      if (typed.length > LONGEST_URL || /\s/.test(typed)) return notOfShape;
      const bare = typed.replace(/^[<(]|[.,;:!?>]+$/g, '');
      // A bracket may belong to the address.
      const inside = bare.includes('(') ? bare : bare.replace(/\)[.,;:!?]*$/, '');
      if (!URL.canParse(inside)) return notOfShape;
      const address = new URL(inside);
      return allowed.has(address.protocol) ? address : notOfShape;
    },
    take: takeIf(isValue),
    write: ({ href }) => href,
    isValue,
  };
}

export interface PatternOptions extends ArgOptions<DefaultOf<string>> {
  /** What the pattern is, in words that follow "takes": `a shelf mark such as B12`; for everyone, or by locale. */
  readonly expected: OwnExpected;
  /** One text that fits. */
  readonly example: string;
}

/** No pattern is tried on more than this, so that an unlucky one cannot hold up the bot. */
const LONGEST_PATTERN = 200;

/**
 * A text that a regular expression fits, from its first character to its last, of at most 200 characters. Patterns that
 * a text could make run for ever are problems of the declaration: repetitions or alternatives within a repetition, more
 * than three repetitions without end, references back.
 *
 * @example
 * arg.pattern(/[A-Z]\d{1,3}/, { expected: 'a shelf mark such as B12', example: 'B12' })
 */
export function pattern<const Options extends PatternOptions>(
  expression: RegExp,
  options: Exactly<Options, PatternOptions>,
): ArgOf<string, 'pattern', Options> {
  if (!(expression instanceof RegExp)) throw new TypeError('arg.pattern takes a regular expression');
  const whole = new RegExp(`^(?:${expression.source})$`, expression.flags.replace(/[gmy]/g, ''));
  // A pattern that changes what `^` and `$` mean would let more in than it fits.
  const isValue = (value: unknown) =>
    typeof value === 'string' && value.length <= LONGEST_PATTERN && whole.exec(value)?.[0] === value;
  const kind: Kind<string> = {
    name: 'pattern',
    expected: ownExpectation(options.expected),
    traits: { readsAlone: true },
    example: options.example,
    tokens: 1,
    leavesQuoted: false,
    shape: isValue,
    read: (typed) => (isValue(typed) ? typed : notOfShape),
    take: takeIf(isValue),
    write: (value) => value,
    isValue,
  };
  const danger = explosive(expression.source);
  // The example is tried only where that cannot hang.
  const problems =
    danger !== undefined
      ? [`has a pattern with ${danger}, which a text can make run for ever; write it without, or use arg.custom`]
      : isValue(options.example)
        ? []
        : [`has the example "${options.example}", which its pattern does not fit`];
  return makeArg('pattern', kind, options as Options, problems, { expected: textByLocale });
}
