/** How the size of the catalogue is felt: the same line, a mix of all, building it, and finding names. */
import {
  arg,
  type Command,
  type CommandLayer,
  command,
  complete,
  createCommandLayer,
  type Input,
  type Platform,
} from 'taxeon';
import { compare, printRatios, type Side } from './compare.js';
import { message, rememberingPlatform } from './messages.js';

const SMALL = 10;
const LARGE = 10_000;
const CALLS = 2_000;
const COMPLETIONS = 200;

const shapes = ['drill', 'spade', 'ladder', 'sander', 'clamp', 'saw', 'plane', 'rake', 'router', 'vice'];

/** Names as people give them: `lend-drill-17`. */
function nameOf(index: number): string {
  const shape = shapes[index % shapes.length];
  const verb = ['lend', 'return', 'count', 'mend'][Math.floor(index / shapes.length) % 4];
  return `${verb}-${shape}-${Math.floor(index / (shapes.length * 4))}`;
}

function commandsOf(count: number): readonly Command[] {
  return Array.from({ length: count }, (_, index) =>
    command({
      name: nameOf(index),
      aliases: [`${nameOf(index)}-x`],
      description: 'Charge a late return',
      args: { who: arg.member(), pence: arg.integer({ min: 1, max: 500 }), note: arg.tail({ optional: true }) },
      requires: ({ caller, bot }) => [caller.can('fine'), bot.can('fine'), caller.outranks('who')],
      cooldowns: { user: '3 in 1m' },
      run: ({ args }) => `${args.who.name} owes ${args.pence} pence.`,
    }),
  );
}

function layerOf(commands: readonly Command[]): CommandLayer {
  let now = 1_000_000;
  const clock = {
    now: () => {
      now += 30_000;
      return now;
    },
  };
  return createCommandLayer({ commands, prefixes: ['!'], clock });
}

function callSide(name: string, count: number, lines: readonly string[]): Side {
  const layer = layerOf(commandsOf(count));
  const inputs = lines.map((line) => message(line));
  const platform: Platform = rememberingPlatform({ replies: [] });
  return {
    name,
    async batch(size) {
      for (let index = 0; index < size; index++) {
        const { status } = await layer.handle(inputs[index % inputs.length] as Input, platform);
        if (status !== 'completed') throw new Error(`${name}: ${status}`);
      }
    },
  };
}

const sameLine = [`!${nameOf(3)} <100000000000000002> 50 the saw came back late`];
const mixOf = (count: number) =>
  Array.from({ length: count }, (_, index) => `!${nameOf((index * 7919) % count)} <100000000000000002> 50 late`);

/** What somebody has typed so far: beginnings of names, of words in them, and pieces inside. */
const typings = ['l', 'lend-s', 'drill', 'nder-1', 'mend-rake-2', 'zzz', 'ount'];

function completionSide(name: string, count: number): Side {
  const layer = layerOf(commandsOf(count));
  const platform = rememberingPlatform({ replies: [] });
  const inputs = typings.map((typed) => message(`!${typed}`));
  return {
    name,
    async batch(size) {
      for (let index = 0; index < size; index++) {
        const input = inputs[index % inputs.length] as Input;
        await complete(layer, input, input.text?.length ?? 0, platform);
      }
    },
  };
}

/** Finding alone, without asking who may run what, as a linear scan does it. */
function scanSide(count: number): Side {
  const names = commandsOf(count).flatMap(({ declaration: { name, aliases = [] } }) => [name, ...aliases]);
  return {
    name: 'linear scan',
    batch(size) {
      for (let index = 0; index < size; index++) {
        const typed = typings[index % typings.length] as string;
        const ranks: string[][] = [[], [], []];
        for (const one of names) {
          const at = one.toLowerCase().indexOf(typed);
          if (at === 0) ranks[0]?.push(one);
          else if (at > 0) ranks[one[at - 1] === '-' ? 1 : 2]?.push(one);
        }
        const found = ranks.flatMap((rank) => rank.sort()).slice(0, 25);
        if (found.length > 25) throw new Error('too many');
      }
    },
  };
}

function build(count: number): number {
  const commands = commandsOf(count);
  const start = process.hrtime.bigint();
  createCommandLayer({ commands, prefixes: ['!'] });
  return Number(process.hrtime.bigint() - start) / count / 1000;
}

const cold = build(LARGE);
const ratios = [
  await compare({
    name: `the same line, ${LARGE} commands over ${SMALL}`,
    ours: callSide('large', LARGE, sameLine),
    yardstick: callSide('small', SMALL, sameLine),
    size: CALLS,
  }),
  await compare({
    name: `a uniform mix, ${LARGE} commands over ${SMALL}`,
    ours: callSide('large', LARGE, mixOf(LARGE)),
    yardstick: callSide('small', SMALL, mixOf(SMALL)),
    size: CALLS,
  }),
  await compare({
    name: `completion over ${LARGE} names over 100`,
    ours: completionSide('large', LARGE),
    yardstick: completionSide('small', 100),
    size: COMPLETIONS,
  }),
  await compare({
    name: `completion over ${LARGE} names over a linear scan`,
    ours: completionSide('index', LARGE),
    yardstick: scanSide(LARGE),
    size: 20,
  }),
];
printRatios('bench/catalogue', ratios);
console.log(`\na catalogue of ${LARGE}, built cold: ${cold.toFixed(1)} µs a command`);
