/** Words that several kinds share for what they expect. */
import type { Expected, ExpectedValue } from '../../contract/expectation.js';

export function plainly(key: string, english: string): Expected {
  return { key, parameters: {}, english };
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
