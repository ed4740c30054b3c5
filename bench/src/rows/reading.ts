/** Reading a line into typed arguments, against general libraries doing the nearest same work. */
import mri from 'mri';
import { parseArgsStringToArgv } from 'string-argv';
import { arg, command, createCommandLayer, parseDuration } from 'taxeon';
import yargsParser from 'yargs-parser';
// The reader alone, without the stages around it, is not part of the public interface.
import type { ArgMap } from '../../../packages/taxeon/src/commands/arg.js';
import { nowhere } from '../../../packages/taxeon/src/reading/by-shape.js';
import { Cursor } from '../../../packages/taxeon/src/reading/cursor.js';
import { readText } from '../../../packages/taxeon/src/reading/read-text.js';
import { Reading } from '../../../packages/taxeon/src/reading/reading.js';
import { compileSlots } from '../../../packages/taxeon/src/reading/slots.js';
import { message, place, quiet, steward } from '../bots/oddmere.js';
import { compare, quantile, type Side } from '../measure/compare.js';
import { one, type Row } from '../measure/row.js';

const LINES = 2_000;
const context = { ...nowhere, caller: steward, place };

type Read = (line: string) => Record<string, unknown>;

function reader(args: ArgMap): Read {
  const slots = compileSlots(args);
  return (line) => {
    const reading = new Reading(slots, context, false);
    readText(new Cursor(line, 0), reading);
    if (reading.problems !== undefined) throw new Error(JSON.stringify(reading.problems));
    return reading.args();
  };
}

function side(
  name: string,
  read: Read,
  lines: readonly string[],
  isRight: (args: Record<string, unknown>) => boolean,
): Side {
  for (const line of lines)
    if (!isRight(read(line))) throw new Error(`${name} misreads ${line}: ${JSON.stringify(read(line))}`);
  let kept = 0;
  return {
    name,
    batch(size) {
      for (let index = 0; index < size; index++)
        kept += Object.keys(read(lines[index % lines.length] as string)).length;
      if (kept === 0) throw new Error('nothing was read');
    },
  };
}

/** The hand-made end of both libraries' work: strict numbers and durations, the rest of the words as one text. */
function fromParsed(words: readonly unknown[], flags: { days?: unknown; quiet?: unknown }): Record<string, unknown> {
  const [tool, keep, ...rest] = words.map(String);
  const days = String(flags.days);
  if (!/^[+-]?\d+$/.test(days)) throw new Error('days is no whole number');
  return {
    tool,
    keep: parseDuration(keep ?? ''),
    days: Number(days),
    quiet: flags.quiet === true,
    note: rest.join(' '),
  };
}

const withTail = ['drill', 'jigsaw', '"hedge trimmer"', 'ladder'].map(
  (tool, index) => `${tool} ${index + 1}d --days 3 --quiet for the fence behind the shed, as we said on Monday`,
);
const isTailRight = ({ keep, days, quiet, note }: Record<string, unknown>) =>
  typeof keep === 'number' &&
  days === 3 &&
  quiet === true &&
  note === 'for the fence behind the shed, as we said on Monday';

const readTail = reader({
  tool: arg.text(),
  keep: arg.duration(),
  days: arg.integer({ flag: true, default: 1 }),
  quiet: arg.boolean({ flag: true }),
  note: arg.tail(),
});
const mriTail: Read = (line) => {
  const { _, ...flags } = mri(parseArgsStringToArgv(line), { boolean: ['quiet'], string: ['days'] });
  return fromParsed(_, flags);
};
const yargsOptions = {
  boolean: ['quiet'],
  string: ['days', '_'],
  configuration: { 'parse-positional-numbers': false },
};
const yargsTail: Read = (line) => {
  const { _, ...flags } = yargsParser(line, yargsOptions);
  return fromParsed(
    _.map((word) => String(word).replace(/^"(.*)"$/, '$1')),
    flags,
  );
};

const tailAlone = withTail.map((line) => line.replace(' --days 3 --quiet', ''));
const isTailAloneRight = ({ keep, note }: Record<string, unknown>) =>
  typeof keep === 'number' && note === 'for the fence behind the shed, as we said on Monday';
const readTailAlone = reader({ tool: arg.text(), keep: arg.duration(), note: arg.tail() });
const mriTailAlone: Read = (line) => {
  const [tool, keep, ...rest] = mri(parseArgsStringToArgv(line))._;
  return { tool, keep: parseDuration(keep ?? ''), note: rest.join(' ') };
};

const names = Array.from({ length: 20 }, (_, index) => `word${index}`);
const plain = Array.from({ length: 4 }, (_, line) => names.map((_, index) => `token${line}${index}`).join(' '));
const readPlain = reader(Object.fromEntries(names.map((name) => [name, arg.text()])));
const mriPlain: Read = (line) => {
  const words = mri(parseArgsStringToArgv(line))._;
  return Object.fromEntries(names.map((name, index) => [name, words[index]]));
};
const isPlainRight = (args: Record<string, unknown>) => names.every((name) => String(args[name]).startsWith('token'));

/** Whole layers, so that no stage is left out of the claim that reading is linear. */
const layer = createCommandLayer({
  commands: [
    command({
      name: 'jot',
      description: 'One word',
      args: { what: arg.text({ max: 5 }), more: arg.integer({ optional: true }) },
      run: () => 'done',
    }),
    command({
      name: 'all',
      description: 'Words',
      args: { words: arg.list(arg.text(), { max: 1e9 }) },
      run: () => 'done',
    }),
  ],
  prefixes: ['!'],
  damping: 'off',
  log: quiet,
});

const hostile: readonly [name: string, line: (bytes: number) => string][] = [
  ['quotes', (bytes) => `!jot ${'"'.repeat(bytes)}`],
  ['spaces', (bytes) => `!jot ${' '.repeat(bytes)}`],
  ['backslashes', (bytes) => `!jot ${'\\'.repeat(bytes)}`],
  ['one single word', (bytes) => `!jot ${'a'.repeat(bytes)}`],
  ['short words', (bytes) => `!all ${'wordword1 '.repeat(bytes / 10)}`],
];

/** Ten thousand things, of which many begin alike, from a function that is asked in each call. */
const shelves = ['amber', 'brass', 'cedar', 'ember', 'fern', 'hazel', 'iron', 'juniper', 'linen', 'maple'];
const many = Array.from({ length: 10_000 }, (_, index) => `${shelves[index % 10]} bench ${index.toString(36)}`);
const chosen = (options: { readonly optional?: true } = {}) => arg.choice(() => many, options);
const choosing = createCommandLayer({
  commands: [
    command({ name: 'take', description: 'A thing', args: { what: chosen() }, run: () => 'done' }),
    command({ name: 'all', description: 'Things', args: { what: arg.list(chosen()) }, run: () => 'done' }),
    command({
      name: 'note',
      description: 'A thing, or not',
      args: { what: chosen({ optional: true }), text: arg.tail({ optional: true }) },
      run: () => 'done',
    }),
    command({ name: 'jot', description: 'A note', args: { text: arg.tail({ optional: true }) }, run: () => 'done' }),
  ],
  prefixes: ['!'],
  damping: 'off',
  log: quiet,
});

/** In milliseconds a line, of which none says the same as the one before. */
async function choosingMs(line: (index: number) => string, status: string): Promise<number> {
  const times: number[] = [];
  for (let round = 0; round < 200; round++) {
    const start = process.hrtime.bigint();
    const outcome = await choosing.handle(message(line(round)));
    times.push(Number(process.hrtime.bigint() - start) / 1e6);
    if (outcome.status !== status) throw new Error(`${line(round)} is ${outcome.status}`);
  }
  return quantile(times, 0.5);
}

const mistyped = (index: number) => `${(many[(index * 37) % many.length] as string).replace('bench', 'bnech')}x`;

async function perByte(line: string, rounds: number): Promise<number> {
  const input = message(line);
  const times: number[] = [];
  for (let round = 0; round < rounds; round++) {
    const start = process.hrtime.bigint();
    await layer.handle(input);
    times.push(Number(process.hrtime.bigint() - start) / line.length);
  }
  return quantile(times, 0.5);
}

export const reading: readonly Row[] = [
  {
    name: 'reading-tail',
    what: 'a line with a duration and a tail into typed arguments, against string-argv + mri',
    goal: 0.25,
    unit: '×',
    measure: () =>
      compare({
        ours: () => side('ours', readTailAlone, tailAlone, isTailAloneRight),
        yardstick: () => side('mri', mriTailAlone, tailAlone, isTailAloneRight),
        size: LINES,
      }),
  },
  {
    name: 'reading-flags',
    what: 'a line with flags and a tail, against string-argv + mri',
    goal: 0.59,
    unit: '×',
    measure: () =>
      compare({
        ours: () => side('ours', readTail, withTail, isTailRight),
        yardstick: () => side('mri', mriTail, withTail, isTailRight),
        size: LINES,
      }),
  },
  {
    name: 'reading-flags-yargs',
    what: 'a line with flags and a tail, against yargs-parser',
    goal: 0.25,
    unit: '×',
    measure: () =>
      compare({
        ours: () => side('ours', readTail, withTail, isTailRight),
        yardstick: () => side('yargs', yargsTail, withTail, isTailRight),
        size: LINES,
      }),
  },
  {
    name: 'reading-words',
    what: '20 plain words, against string-argv + mri',
    goal: 0.59,
    unit: '×',
    measure: () =>
      compare({
        ours: () => side('ours', readPlain, plain, isPlainRight),
        yardstick: () => side('mri', mriPlain, plain, isPlainRight),
        size: LINES,
      }),
  },
  {
    name: 'choice-mistyped',
    what: 'a line with a mistyped choice among 10,000 that a function gives',
    goal: 5,
    unit: 'ms',
    measure: async () => one(await choosingMs((index) => `!take ${mistyped(index)}`, 'invalid')),
  },
  {
    name: 'choice-mistyped-list',
    what: 'a line with twenty of these',
    goal: 50,
    unit: 'ms',
    measure: async () =>
      one(
        await choosingMs(
          (index) => `!all ${Array.from({ length: 20 }, (_, n) => mistyped(index + n)).join(', ')}`,
          'invalid',
        ),
      ),
  },
  {
    name: 'choice-left-out',
    what: 'a right line that leaves out a choice among 10,000',
    goal: 5,
    unit: 'ms',
    measure: async () => one(await choosingMs((index) => `!note for the orchard, row ${index}`, 'completed')),
  },
  ...hostile.map(
    ([name, line]): Row => ({
      name: `linear-${name.replaceAll(' ', '-')}`,
      what: `a line of 1 MB of ${name} over one of 1 kB, time a byte`,
      goal: 2,
      unit: '×',
      measure: async () => one((await perByte(line(1_000_000), 20)) / (await perByte(line(1_000), 4000))),
    }),
  ),
];
