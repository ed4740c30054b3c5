/** What an argument expects, as data, so that every language can say it in its own words. */
import { either } from '../base/text.js';
import { durationInWords } from '../base/time.js';

/** A bound of a moment: the present one, so far from it in milliseconds, or a fixed one in ISO 8601. */
export type MomentBound = 'now' | { readonly fromNowMs: number } | { readonly at: string };

/** The developer's own words, or what one of the built-in kinds takes. */
export type Expectation =
  | string
  | { readonly of: 'word' | 'words'; readonly min: number | undefined; readonly max: number | undefined }
  | { readonly of: 'integer' | 'number'; readonly min: number | undefined; readonly max: number | undefined }
  /** In milliseconds. */
  | { readonly of: 'duration'; readonly min: number | undefined; readonly max: number | undefined }
  | { readonly of: 'datetime'; readonly min: MomentBound | undefined; readonly max: MomentBound | undefined }
  | { readonly of: 'choice'; readonly labels: readonly string[] }
  | { readonly of: 'url'; readonly protocols: readonly string[] }
  | { readonly of: 'list'; readonly min: number; readonly max: number; readonly each: Expectation }
  | { readonly of: 'boolean' | 'emoji' | 'member' | 'mention' | 'user' | 'role' | 'channel' };

/** The most there may be of something: the developer's own words, a number, or a length of time. */
export type Amount = string | number | { readonly ms: number };

/** In English, in words that follow "takes": `a whole number from 1 to 500`. */
export function expectedInEnglish(expected: Expectation): string {
  if (typeof expected === 'string') return expected;
  switch (expected.of) {
    case 'word':
      return `a word or a quoted text${lengths(expected)}`;
    case 'words':
      return `some text${lengths(expected)}`;
    case 'integer':
      return `a whole number${range(expected, String)}`;
    case 'number':
      return `a number${range(expected, String)}`;
    case 'duration':
      return `a length of time${range(expected, durationInWords)}`;
    case 'datetime':
      return `a date and time such as 2026-05-09 14:30 or tomorrow 17:00${moments(expected)}`;
    case 'choice':
      return `one of ${either(expected.labels)}`;
    case 'url':
      return `an address that begins with ${either(expected.protocols.map((protocol) => `${protocol}://`))}`;
    case 'list':
      return `${count(expected)}, each ${expectedInEnglish(expected.each)}`;
    default:
      return simple[expected.of];
  }
}

export function amountInEnglish(amount: Amount): string {
  return typeof amount === 'object' ? durationInWords(amount.ms) : String(amount);
}

const simple = {
  boolean: 'yes or no',
  emoji: 'one emoji',
  member: 'a person here, by mention or name',
  mention: 'a person here, by mention',
  user: 'a person, by mention or name',
  role: 'a role here, by mention or name',
  channel: 'a channel here, by mention or name',
} as const;

interface Range {
  readonly min: number | undefined;
  readonly max: number | undefined;
}

function range({ min, max }: Range, inWords: (bound: number) => string): string {
  if (min !== undefined && max !== undefined) return ` from ${inWords(min)} to ${inWords(max)}`;
  if (min !== undefined) return ` of at least ${inWords(min)}`;
  return max === undefined ? '' : ` of at most ${inWords(max)}`;
}

function lengths({ min, max }: Range): string {
  if (max === undefined) return min === undefined ? '' : ` of at least ${min} characters`;
  return min === undefined ? ` of at most ${max} characters` : ` of ${min} to ${max} characters`;
}

function count({ min, max }: { readonly min: number; readonly max: number }): string {
  if (min === max) return `${min} values`;
  return min === 1 ? `up to ${max} values` : `${min} to ${max} values`;
}

function moments({ min, max }: { readonly min: MomentBound | undefined; readonly max: MomentBound | undefined }) {
  const words: string[] = [];
  if (min !== undefined) words.push(min === 'now' ? 'in the future' : moment(min, 'not before', 'at least'));
  if (max !== undefined) words.push(max === 'now' ? 'in the past' : moment(max, 'not after', 'at most'));
  return words.length === 0 ? '' : `, ${words.join(' and ')}`;
}

function moment(bound: Exclude<MomentBound, 'now'>, fixed: string, relative: string): string {
  return 'at' in bound ? `${fixed} ${bound.at}` : `${relative} ${durationInWords(bound.fromNowMs)} from now`;
}
