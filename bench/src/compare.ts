/** Interleaved medians: both sides run in turn, in batches, each on inputs of its own. */

export interface Side {
  readonly name: string;
  /** Runs one batch of `size` operations. */
  batch(size: number): Promise<void> | void;
}

export interface Comparison {
  readonly name: string;
  readonly ours: Side;
  readonly yardstick: Side;
  readonly size: number;
}

export interface Ratio {
  readonly name: string;
  /** Ours over the yardstick's, as the median of the rounds' ratios. */
  readonly ratio: number;
  /** The middle half of the rounds' ratios. */
  readonly low: number;
  readonly high: number;
  readonly oursNs: number;
  readonly yardstickNs: number;
}

const WARM_UP = 20;
const ROUNDS = 61;

export async function compare({ name, ours, yardstick, size }: Comparison): Promise<Ratio> {
  const oursNs: number[] = [];
  const yardstickNs: number[] = [];
  const ratios: number[] = [];
  for (let round = 0; round < WARM_UP + ROUNDS; round++) {
    // Each goes first once a round, so that neither always meets the other's garbage.
    const own = await time(ours, size);
    const other = await time(yardstick, size);
    const otherFirst = await time(yardstick, size);
    const ownSecond = await time(ours, size);
    if (round < WARM_UP) continue;
    oursNs.push((own + ownSecond) / 2);
    yardstickNs.push((other + otherFirst) / 2);
    ratios.push((own + ownSecond) / (other + otherFirst));
  }
  return {
    name,
    ratio: quantile(ratios, 0.5),
    low: quantile(ratios, 0.25),
    high: quantile(ratios, 0.75),
    oursNs: quantile(oursNs, 0.5),
    yardstickNs: quantile(yardstickNs, 0.5),
  };
}

async function time(side: Side, size: number): Promise<number> {
  const start = process.hrtime.bigint();
  await side.batch(size);
  return Number(process.hrtime.bigint() - start) / size;
}

function quantile(values: readonly number[], at: number): number {
  const sorted = [...values].sort((a, b) => a - b);
  return sorted[Math.floor((sorted.length - 1) * at)] as number;
}

export function printRatios(title: string, ratios: readonly Ratio[]): void {
  console.log(`\n${title} (Node ${process.version}, ${process.platform} ${process.arch})\n`);
  console.log('| what | ratio | middle half | ours | yardstick |');
  console.log('|---|---|---|---|---|');
  for (const { name, ratio, low, high, oursNs, yardstickNs } of ratios) {
    const cells = [
      name,
      `${ratio.toFixed(2)}×`,
      `${low.toFixed(2)}–${high.toFixed(2)}`,
      nanoseconds(oursNs),
      nanoseconds(yardstickNs),
    ];
    console.log(`| ${cells.join(' | ')} |`);
  }
}

function nanoseconds(ns: number): string {
  return ns < 1000 ? `${ns.toFixed(1)} ns` : `${(ns / 1000).toFixed(2)} µs`;
}
