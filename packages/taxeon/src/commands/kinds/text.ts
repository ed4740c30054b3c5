import { type ArgOf, type ArgOptions, type DefaultOf, makeArg } from '../arg.js';
import { aboveMaximum, belowMinimum, type Kind } from '../kind.js';

export interface TextOptions {
  /** Fewest characters (UTF-16 code units). */
  readonly min?: number;
  /** Most characters (UTF-16 code units). */
  readonly max?: number;
}

/**
 * One word, or several in quotes.
 *
 * @example
 * arg.text({ description: 'Which tool', max: 40 })
 */
export function text<const Optional extends boolean = false, Default extends DefaultOf<string> = never>(
  options: TextOptions & ArgOptions<Optional, Default> = {},
): ArgOf<string, 'text', Optional, Default> {
  return makeArg('text', textKind('text', 1, options), options);
}

/**
 * All that is left of the line, exactly as typed, line breaks included.
 *
 * @example
 * arg.tail({ description: 'Anything to remember', optional: true })
 */
export function tail<const Optional extends boolean = false, Default extends DefaultOf<string> = never>(
  options: TextOptions & ArgOptions<Optional, Default> = {},
): ArgOf<string, 'tail', Optional, Default> {
  return makeArg('tail', textKind('tail', 'rest', options), options);
}

function textKind(name: string, tokens: 1 | 'rest', options: TextOptions): Kind<string> {
  const { min = tokens === 'rest' ? 1 : 0, max = Number.POSITIVE_INFINITY } = options;
  const misfit = (value: string) =>
    value.length < min ? belowMinimum : value.length > max ? aboveMaximum : undefined;
  return {
    name,
    expected: `${tokens === 'rest' ? 'some text' : 'a word, or several in quotes'}${lengths(min, max, tokens)}`,
    example: tokens === 'rest' ? 'a few words' : 'word',
    tokens,
    leavesQuoted: false,
    read: (typed) => misfit(typed) ?? typed,
    accepts: (value) => typeof value === 'string' && misfit(value) === undefined,
  };
}

function lengths(min: number, max: number, tokens: 1 | 'rest'): string {
  const least = min > (tokens === 'rest' ? 1 : 0);
  if (max === Number.POSITIVE_INFINITY) return least ? ` of at least ${min} characters` : '';
  return least ? ` of ${min} to ${max} characters` : ` of at most ${max} characters`;
}
