/** Figures in words. */
import type { Spread } from './measure/compare.js';
import type { Figure, Row, Unit } from './measure/row.js';
import type { Surroundings } from './surroundings.js';

export interface Measured extends Surroundings {
  readonly name: string;
  readonly figure: Figure;
}

interface Chapter {
  readonly title: string;
  readonly rows: readonly Row[];
}

const HEAD = [
  '| row | what | goal | measured | middle half | ours | yardstick | against itself |',
  '|---|---|---|---|---|---|---|---|',
];

export function table(rows: readonly Row[], measured: readonly Measured[]): string {
  const lines = rows.flatMap((row) => {
    const found = measured.find(({ name }) => name === row.name);
    return found === undefined ? [] : [line(row, found.figure)];
  });
  return [...HEAD, ...lines].join('\n');
}

function line({ name, what, goal, unit }: Row, { noise, oursNs, yardstickNs, ...figure }: Figure): string {
  const isReached = figure.value <= goal;
  const cells = [
    `\`${name}\``,
    what,
    `≤ ${amount(goal, unit)}`,
    isReached ? amount(figure.value, unit) : `**${amount(figure.value, unit)}**`,
    range(figure, unit),
    oursNs === undefined ? '' : nanoseconds(oursNs),
    yardstickNs === undefined ? '' : nanoseconds(yardstickNs),
    noise === undefined ? '' : range(noise, unit),
  ];
  return `| ${cells.join(' | ')} |`;
}

function range({ low, high }: Spread, unit: Unit): string {
  return low === high ? '' : `${digits(low)}–${amount(high, unit)}`;
}

function amount(value: number, unit: Unit): string {
  return unit === '×' || unit === '%' ? `${digits(value)}${unit === '×' ? '×' : ' %'}` : `${digits(value)} ${unit}`;
}

function digits(value: number): string {
  return value >= 20 ? Math.round(value).toLocaleString('en') : String(Number(value.toFixed(2)));
}

function nanoseconds(ns: number): string {
  if (ns < 1000) return `${ns.toFixed(0)} ns`;
  return ns < 1e6 ? `${(ns / 1000).toFixed(2)} µs` : `${(ns / 1e6).toFixed(1)} ms`;
}

const intro = `# Performance

\`npm run bench -- --write\` writes this page; \`npm run bench -- --only text\` measures the rows whose names begin with
\`text\`, and \`--json FILE\` writes the figures for a program.

A ratio (×) is ours over the yardstick's: below 1 is faster. It is the median of the rounds of one run in which both
sides take turns, each on a clock and inputs of its own; every call is checked to have come out as it should. "Middle
half" is the spread of the rounds, and "against itself" that of a second instance of ours over the first, where there
is nothing to be seen but noise. A figure above its goal is bold, and what is known of it stands below the table; one
that is above it by no more than that noise counts as reached.

The yardsticks are bots as a good engineer writes them by hand: [lean](../bench/src/bots/text-lean.ts), synchronous
where nothing has to be waited for; [awaiting](../bench/src/bots/text-awaiting.ts) every look-up;
[on slash](../bench/src/bots/slash-lean.ts); and [with everything](../bench/src/bots/everything-by-hand.ts).
A [test](../bench/test/hand-written.test.ts) proves that they come to the same outcomes as the layer. 10,000 people call
in turn, and time is the machine's.

What a bundle comes to stands in [size](size.md), which a test holds.
`;

/** The whole page. */
export function markdown(chapters: readonly Chapter[], measured: readonly Measured[]): string {
  const parts = [intro, `${sources(measured)}\n`];
  for (const { title, rows } of chapters) {
    parts.push(`## ${title}\n`, `${table(rows, measured)}\n`);
    const notes = rows.filter((row) => row.why !== undefined && isMissed(row, measured));
    for (const { name, why } of notes) parts.push(`**${name}**: ${why}\n`);
  }
  return parts.join('\n');
}

function isMissed({ name, goal }: Row, measured: readonly Measured[]): boolean {
  const found = measured.find((one) => one.name === name);
  return found !== undefined && found.figure.value > goal;
}

/** Most rows are of one run; those that were measured again say so. */
function sources(measured: readonly Measured[]): string {
  const byRun = new Map<string, string[]>();
  for (const { name, machine, date, commit } of measured) {
    const run = `${machine}; ${date}; commit ${commit}`;
    byRun.set(run, [...(byRun.get(run) ?? []), name]);
  }
  const runs = [...byRun].sort(([, one], [, other]) => other.length - one.length);
  return runs.map(([run, names], index) => `${run}${index === 0 ? '' : `: ${names.join(', ')}`}.`).join('\n\n');
}
