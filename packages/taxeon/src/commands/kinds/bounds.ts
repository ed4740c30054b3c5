/** Least and most, as several kinds have them. */
import { aFlag, aNumber, type Fields } from '../../base/fields.js';
import type { Amount } from '../../contract/expectation.js';
import { aboveMaximum, belowMinimum, Capped, type Misread } from '../kind.js';

export interface Bounds {
  readonly min?: number;
  readonly max?: number;
  /** Lowers what is above `max` to it and tells the caller, where otherwise it would be refused. */
  readonly cap?: boolean;
}

export const boundFields: Fields<Bounds> = { min: aNumber, max: aNumber, cap: aFlag };

/** The check of a value against its bounds; `asAmount` tells the maximum to the person whose value is lowered. */
export function bounded(
  { min = Number.NEGATIVE_INFINITY, max = Number.POSITIVE_INFINITY, cap = false }: Bounds,
  asAmount: (value: number) => Amount = (value) => value,
): (value: number) => number | Misread | Capped<number> {
  return (value) => {
    if (value < min) return belowMinimum;
    if (value <= max) return value;
    return cap ? new Capped(max, asAmount(max)) : aboveMaximum;
  };
}

export function* boundProblems(
  { min, max, cap }: Bounds = {},
  isRight: (value: number) => boolean,
  what: string,
): Iterable<string> {
  for (const [name, bound] of [
    ['min', min],
    ['max', max],
  ] as const) {
    if (bound !== undefined && !isRight(bound)) yield `has \`${name}: ${bound}\`; give ${what}`;
  }
  if (min !== undefined && max !== undefined && min > max) yield `has min ${min} above max ${max}; swap them`;
  if (cap === true && max === undefined) yield 'has `cap` and no `max`; say what to lower to';
}
