/** Interleaved medians: both sides run in turn, in batches, each on inputs of its own. */
import type { Figure } from './row.js';

export interface Side {
  readonly name: string;
  /** Makes ready for a batch, outside of what is timed. */
  prepare?(size: number): void;
  /** Runs one batch of `size` operations. */
  batch(size: number): Promise<void> | void;
}

export interface Comparison {
  ours(): Side;
  yardstick(): Side;
  /** How many operations a batch has. */
  readonly size: number;
  readonly rounds?: number;
}

interface Ratio {
  readonly ratio: Spread;
  readonly oursNs: number;
  readonly yardstickNs: number;
}

export interface Spread {
  readonly value: number;
  /** The middle half of what was measured. */
  readonly low: number;
  readonly high: number;
}

const WARM_UP = 20;
const ROUNDS = 61;

/** Ours over the yardstick, and a second one of ours over the first: what there is no difference in. */
export async function compare({ ours, yardstick, size, rounds = ROUNDS }: Comparison): Promise<Figure> {
  const own = ours();
  const { ratio, oursNs, yardstickNs } = await ratioOf(own, yardstick(), size, rounds);
  const noise = await ratioOf(own, ours(), size, Math.ceil(rounds / 2));
  return { ...ratio, oursNs, yardstickNs, noise: noise.ratio };
}

async function ratioOf(own: Side, other: Side, size: number, rounds: number): Promise<Ratio> {
  const oursNs: number[] = [];
  const yardstickNs: number[] = [];
  const ratios: number[] = [];
  for (let round = 0; round < WARM_UP + rounds; round++) {
    // Each goes first once a round, so that neither always meets the other's garbage.
    const first = await time(own, size);
    const second = await time(other, size);
    const third = await time(other, size);
    const fourth = await time(own, size);
    if (round < WARM_UP) continue;
    oursNs.push((first + fourth) / 2);
    yardstickNs.push((second + third) / 2);
    ratios.push((first + fourth) / (second + third));
  }
  return { ratio: spreadOf(ratios), oursNs: median(oursNs), yardstickNs: median(yardstickNs) };
}

async function time(side: Side, size: number): Promise<number> {
  side.prepare?.(size);
  const start = process.hrtime.bigint();
  await side.batch(size);
  return Number(process.hrtime.bigint() - start) / size;
}

export function spreadOf(values: readonly number[]): Spread {
  return { value: quantile(values, 0.5), low: quantile(values, 0.25), high: quantile(values, 0.75) };
}

function median(values: readonly number[]): number {
  return quantile(values, 0.5);
}

export function quantile(values: readonly number[], at: number): number {
  const sorted = [...values].sort((a, b) => a - b);
  return sorted[Math.floor((sorted.length - 1) * at)] as number;
}
