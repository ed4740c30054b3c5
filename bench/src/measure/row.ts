/** What a row of the table is: what is measured, and what it is to reach. */
import type { Spread } from './compare.js';

export type Unit = '×' | 'bytes' | 'kB' | 'KiB' | 'MB' | 'µs' | 'ms' | '%';

export interface Row {
  /** For `--only`. */
  readonly name: string;
  readonly what: string;
  /** The most that it should come to. */
  readonly goal: number;
  readonly unit: Unit;
  /** Why it is not reached, where it is not. */
  readonly why?: string;
  /** For what is measured once a process: how many it is measured in. */
  readonly processes?: number;
  measure(): Promise<Figure> | Figure;
}

/** What came out; the middle half of the rounds beside it. */
export interface Figure extends Spread {
  /** Of a ratio, both sides in nanoseconds an operation. */
  readonly oursNs?: number;
  readonly yardstickNs?: number;
  /** A second one of ours over the first, measured in the same way. */
  readonly noise?: Spread;
}

/** What was measured once. */
export function one(value: number): Figure {
  return { value, low: value, high: value };
}
