import { aNumber, type Fields } from '../../base/fields.js';
import { type ArgOf, type ArgOptions, type DefaultOf, type Exactly, makeArg, type NoOptions } from '../arg.js';
import { aboveMaximum, belowMinimum, type Kind, notOfShape } from '../kind.js';
import { ofLength } from './expected.js';
import { present } from './schema.js';

export interface TextOptions extends ArgOptions<DefaultOf<string>> {
  /** Fewest characters, as people count them: `👍🏽` is one. */
  readonly min?: number;
  /** Most characters, as people count them. */
  readonly max?: number;
}

const fields: Fields<Omit<TextOptions, keyof ArgOptions<unknown>>> = { min: aNumber, max: aNumber };

/**
 * One word, or several in quotes.
 *
 * @example
 * arg.text({ description: 'Which tool', max: 40 })
 */
export function text<const Options extends TextOptions = NoOptions>(
  options?: Exactly<Options, TextOptions>,
): ArgOf<string, 'text', Options> {
  return makeArg('text', textKind('text', 1, options), options as Options, [], fields);
}

/**
 * All that is left of the line, exactly as typed, line breaks included.
 *
 * @example
 * arg.tail({ description: 'Anything to remember', optional: true })
 */
export function tail<const Options extends TextOptions = NoOptions>(
  options?: Exactly<Options, TextOptions>,
): ArgOf<string, 'tail', Options> {
  return makeArg('tail', textKind('tail', 'rest', options), options as Options, [], fields);
}

/** Whether a text has fewer characters than so many, as people count them (grapheme clusters, Unicode TS #29). */
function isShorter(text: string, count: number): boolean {
  if (text.length < count) return true;
  if (text.length >= count * LONGEST_CHARACTER || /^[\0-\x7f]*$/.test(text)) return false;
  segmenter ??= new Intl.Segmenter();
  let seen = 0;
  for (const _ of segmenter.segment(text)) if (++seen === count) return false;
  return true;
}

let segmenter: Intl.Segmenter | undefined;

/** In UTF-16 code units: a family of four with their skin tones. What is longer is built to look short. */
const LONGEST_CHARACTER = 32;

function textKind(name: string, tokens: 1 | 'rest', options: TextOptions = {}): Kind<string> {
  const { min = tokens === 'rest' ? 1 : 0, max = Number.POSITIVE_INFINITY } = options;
  const misfit = (value: string) =>
    isShorter(value, min) ? belowMinimum : isShorter(value, max + 1) ? value : aboveMaximum;
  const isValue = (value: unknown) => typeof value === 'string' && misfit(value) === value;
  const length = {
    min: min > (tokens === 'rest' ? 1 : 0) ? min : undefined,
    max: max === Number.POSITIVE_INFINITY ? undefined : max,
  };
  return {
    name,
    expected:
      tokens === 'rest' ? ofLength('tail', 'some text', length) : ofLength('text', 'a word or a quoted text', length),
    expectedAlone: ofLength('tail', 'some text', length),
    schema: { type: 'string', ...present({ minLength: length.min, maxLength: length.max }) },
    // What would be a good word here, only the argument can say.
    example: undefined,
    measure: 'length',
    traits: { readsAlone: true, isVerbatim: true },
    tokens,
    leavesQuoted: false,
    read: misfit,
    take: (value) => (typeof value === 'string' ? misfit(value) : notOfShape),
    write: (value) => value,
    isValue,
  };
}
