/** Words that several kinds share for what they expect. */
import { echoText, either } from '../../base/text.js';
import type { Expected, ExpectedValue } from '../../contract/expectation.js';

export function plainly(key: string, english: string): Expected {
  return { key, parameters: {}, english };
}

/** What is found by name in a list that is asked for. */
export const aName = plainly('name', 'a name from the list');

/** The same where there is nothing in it. */
const nothingListed = plainly('nothing-listed', 'a name from a list that is empty now');

const MOST_TOLD = 8;

/** One of several: those that come first, if there are many, so that it fits into any message. */
export function oneOfThese(labels: readonly string[], first: readonly string[] = []): Expected {
  if (labels.length === 0) return nothingListed;
  const told: string[] = [];
  for (const label of labels.length > MOST_TOLD ? [...first, ...labels] : labels) {
    const shown = echoText(label) || '?';
    if (!told.includes(shown) && told.push(shown) === MOST_TOLD) break;
  }
  const more = Math.max(0, labels.length - told.length);
  const others = more === 0 ? [] : [`${more} more`];
  return {
    key: 'choice',
    parameters: { labels: { oneOf: told }, more },
    english: `one of ${either([...told, ...others])}`,
  };
}

export interface Range {
  readonly min: number | undefined;
  readonly max: number | undefined;
}

/** Something with a least and a most: a number, a length of time. */
export function ranging(
  key: string,
  english: string,
  { min, max }: Range,
  inWords: (bound: number) => string = String,
  asValue: (bound: number) => ExpectedValue = (bound) => bound,
): Expected {
  const parameters = { bounds: boundsOf(min, max), min: asValue(min ?? 0), max: asValue(max ?? 0) };
  return { key, parameters, english: `${english}${rangeInWords(min, max, inWords)}` };
}

/** Something with a least and a most number of characters. */
export function ofLength(key: string, english: string, { min, max }: Range): Expected {
  const parameters = { bounds: boundsOf(min, max), min: min ?? 0, max: max ?? 0 };
  return { key, parameters, english: `${english}${lengthInWords(min, max)}` };
}

function boundsOf(min: number | undefined, max: number | undefined): string {
  if (min === undefined) return max === undefined ? 'none' : 'max';
  return max === undefined ? 'min' : 'both';
}

function rangeInWords(min: number | undefined, max: number | undefined, inWords: (bound: number) => string): string {
  if (min !== undefined && max !== undefined) return ` from ${inWords(min)} to ${inWords(max)}`;
  if (min !== undefined) return ` of at least ${inWords(min)}`;
  return max === undefined ? '' : ` of at most ${inWords(max)}`;
}

function lengthInWords(min: number | undefined, max: number | undefined): string {
  if (max === undefined) return min === undefined ? '' : ` of at least ${min} characters`;
  return min === undefined ? ` of at most ${max} characters` : ` of ${min} to ${max} characters`;
}
