/** How the number of commands is felt: the same line, a mix of all, an unknown name, building, and completion. */
import { arg, type Command, type CommandLayer, command, createCommandLayer } from 'taxeon';
import type { Input } from 'taxeon/platform';
import { complete } from 'taxeon/queries';
import { callersLike, message, movableClock, quiet, rememberingPlatform, steward } from '../bots/oddmere.js';
import { compare, type Side } from '../measure/compare.js';
import { one, type Row } from '../measure/row.js';
import { CALLS, layered } from '../measure/sides.js';

const SMALL = 10;
const LARGE = 10_000;
const COMPLETIONS = 200;

const shapes = ['drill', 'spade', 'ladder', 'sander', 'clamp', 'saw', 'plane', 'rake', 'router', 'vice'];
const verbs = ['lend', 'return', 'count', 'mend'];

/** Names as people give them: `lend-drill-17`. */
function nameOf(index: number): string {
  const shape = shapes[index % shapes.length];
  const verb = verbs[Math.floor(index / shapes.length) % verbs.length];
  return `${verb}-${shape}-${Math.floor(index / (shapes.length * verbs.length))}`;
}

function commandsOf(count: number, aliases = 1): readonly Command[] {
  return Array.from({ length: count }, (_, index) =>
    command({
      name: nameOf(index),
      aliases: Array.from({ length: aliases }, (_one, alias) => `${nameOf(index)}-${'xyzuv'[alias]}`),
      description: 'Charge a late return',
      args: { who: arg.member(), pence: arg.integer({ min: 1, max: 500 }), note: arg.tail({ optional: true }) },
      requires: ({ caller, bot }) => [caller.can('fine'), bot.can('fine'), caller.outranks('who')],
      cooldowns: { user: '3 in 1m' },
      run: ({ args }) => `${args.who.name} owes ${args.pence} pence.`,
    }),
  );
}

function layerOf(commands: readonly Command[]): CommandLayer {
  return createCommandLayer({ commands, prefixes: ['!'], clock: movableClock() });
}

function callsOn(count: number, text: (index: number) => string, expected = 'completed'): Side {
  return layered(
    `${count} commands`,
    (clock) => createCommandLayer({ commands: commandsOf(count), prefixes: ['!'], clock, log: quiet }),
    { inputs: callersLike(steward).map((caller, index) => message(text(index), caller)), expected },
  );
}

const known = () => `!${nameOf(3)} [p:person-0000000000002] 50 the saw came back late`;
const mixOf = (count: number) => (index: number) =>
  `!${nameOf((index * 7919) % count)} [p:person-0000000000002] 50 late`;
/** A letter is wrong, somewhere in it. */
const unknown = (index: number) =>
  `!${nameOf((index * 7919) % LARGE).replace('-', '_')} [p:person-0000000000002] 50 late`;

/** What a person has typed so far: beginnings of names, of words in them, and pieces inside. */
const typings = ['l', 'lend-s', 'drill', 'nder-1', 'mend-rake-2', 'zzz', 'ount'];

function completionOn(count: number): Side {
  const layer = layerOf(commandsOf(count));
  const platform = rememberingPlatform({ replies: [] });
  const inputs = typings.map((typed) => message(`!${typed}`));
  return {
    name: `${count} commands`,
    async batch(size) {
      for (let index = 0; index < size; index++) {
        const input = inputs[index % inputs.length] as Input;
        await complete(layer, input, input.text?.length ?? 0, platform);
      }
    },
  };
}

/** Finding alone, without asking who may run what, as a linear scan does it. */
function scanOf(count: number): Side {
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

/** In microseconds a command. */
function built(count: number, aliases: number): number {
  const commands = commandsOf(count, aliases);
  const start = process.hrtime.bigint();
  createCommandLayer({ commands, prefixes: ['!'] });
  return Number(process.hrtime.bigint() - start) / count / 1000;
}

export const catalogue: readonly Row[] = [
  {
    name: 'same-line',
    what: 'the same line with 10,000 commands, over 10',
    goal: 1.15,
    unit: '×',
    measure: () => compare({ ours: () => callsOn(LARGE, known), yardstick: () => callsOn(SMALL, known), size: CALLS }),
  },
  {
    name: 'mix',
    what: 'a uniform mix of 10,000 commands, over one of 10',
    goal: 2.2,
    unit: '×',
    why: 'Each call meets a command that is in no cache. What commands have alike (surfaces, scopes, requirements) is shared.',
    measure: () =>
      compare({
        ours: () => callsOn(LARGE, mixOf(LARGE)),
        yardstick: () => callsOn(SMALL, mixOf(SMALL)),
        size: CALLS,
        rounds: 31,
      }),
  },
  {
    name: 'unknown',
    what: 'an unknown name among 10,000, over a known one',
    goal: 20,
    unit: '×',
    measure: () =>
      compare({
        ours: () => callsOn(LARGE, unknown, 'command.unknown'),
        yardstick: () => callsOn(LARGE, mixOf(LARGE)),
        size: 500,
        rounds: 31,
      }),
  },
  {
    name: 'build-10000',
    what: 'building a catalogue of 10,000, cold, a command',
    goal: 50,
    unit: 'µs',
    why: 'A quarter is collecting garbage, a third are the checks of every field, the rest compiling.',
    processes: 5,
    measure: () => one(built(LARGE, 1)),
  },
  {
    name: 'build-1000',
    what: 'building a catalogue of 1,000 with five aliases each, cold, a command',
    goal: 100,
    unit: 'µs',
    why: 'The code runs for the first time, uncompiled. Half are checks, of which the names (of letters that may stand in them, and that no two look alike) are half.',
    processes: 5,
    measure: () => one(built(1000, 5)),
  },
  {
    name: 'completion-scan',
    what: 'completion over 10,000 names, over a linear scan of the names alone',
    goal: 0.05,
    unit: '×',
    measure: () => compare({ ours: () => completionOn(LARGE), yardstick: () => scanOf(LARGE), size: 20 }),
  },
  {
    name: 'completion-100',
    what: 'completion over 10,000 names, over 100',
    goal: 3,
    unit: '×',
    measure: () => compare({ ours: () => completionOn(LARGE), yardstick: () => completionOn(100), size: COMPLETIONS }),
  },
];
