/** What a line costs grows with its length and no faster, whatever the kind is, and however it is given. */
import { type Arg, arg, type Command, command, createCommandLayer } from 'taxeon';
import { complete } from 'taxeon/queries';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { everyKind, kindsOnPage } from '../../../test/support/kinds.js';
import { codeOf, sceneOf } from '../../../test/support/oddmere.js';
import { type StepCounter, stepCounter } from '../../../test/support/steps.js';

let counter: StepCounter;
beforeAll(async () => {
  counter = await stepCounter();
});
afterAll(() => counter.end());

/** What a person could hold down or paste, whatever is asked for. */
const anything =
  'a|a |5|5 |-5 |5h|1h30|1d |½|" |"|“|\\|, |,|-|--|--value x |--value=x |--no-value |-v |--many x |. |…|and |in |the |at |until ' +
  '|half |next |monday |tomorrow |for |@|@a |#|<|(|%|£|$ |12:|1,|5.|+|\u0301|\u200b|\u{1f528}|\u{1f468}\u200d|🇬|ﷺ|\n|``` |x:|:';

/** Every way in which a value of a kind can be given by text, by name. */
function waysOf(declared: Arg<unknown>): ReadonlyMap<string, Command> {
  const optional = { absent: { as: 'undefined' } } as const;
  const many = { max: 1_000_000, optional: true } as const;
  const note = arg.tail({ optional: true });
  const tries: Readonly<Record<string, Record<string, Arg<unknown>>>> = {
    alone: { value: declared },
    noted: { value: { ...declared, ...optional }, note },
    flagged: { value: { ...declared, ...optional, flag: { short: 'v' } }, note },
    listed: { value: arg.list(declared, many) },
    flags: { value: arg.list(declared, { ...many, flag: true }), note },
    behind: { first: { ...arg.integer(), ...optional }, value: arg.list(declared, { ...many, unique: true }) },
  };
  const commands = Object.entries(tries).map(([name, args]) => {
    const described = { name, description: 'Give it', args, run: () => 'done' };
    return [name, command(described) as Command] as const;
  });
  const possible = commands.filter(([, one]) => {
    try {
      return createCommandLayer({ commands: [one] }) !== undefined;
    } catch {
      // Not every kind can stand everywhere: a tail is in no list.
      return false;
    }
  });
  return new Map(possible);
}

const few = 80;
const isSweep = process.env['SWEEP'] === 'all';
let turn = 0;

test.each(everyKind)(
  '%s',
  async (name, declared) => {
    const ways = waysOf(declared);
    const scene = await sceneOf([...ways.values()], { damping: 'off' });
    const own = kindsOnPage.find(({ kind }) => kind === name)?.rows.map(([typed]) => typed) ?? [];
    const [first = 'x'] = own;
    const flags = [`--value ${first} `, `--value=${first} `, `-v "${first}" `];
    const pieces = [...flags, ...anything.split('|'), ...own.flatMap((typed) => [`${typed} `, `${typed}, `])];

    const give = async (way: string, piece: string, times: number) => {
      const text = piece.repeat(times);
      const line = `!${way} ${first} ${text}`;
      expect(codeOf((await scene.types('ines', `!${way} ${text}`)).outcome)).not.toBe('command.unknown');
      await scene.types('ines', line);
      await scene.invokes('ines', way, { value: text });
      await scene.invokes('ines', way, { value: Array(times).fill(piece) });
      const typed = scene.platform.typed({ person: 'ines', place: 'oddmere/counter', text: line });
      await complete(scene.layer, typed, line.length, scene.platform);
    };
    /** Whether twice as much more takes twice as many steps more; what begins at a length is seen as a leap only once. */
    const isLinear = async (way: string, some: readonly string[]) => {
      const steps = (times: number) => counter.of(() => Promise.all(some.map((piece) => give(way, piece, times))));
      let [times, before, now] = [2 * few, await steps(few), await steps(2 * few)];
      let grew = now - before;
      for (let leaps = 0; leaps < 4; leaps++) {
        times *= 2;
        [before, now] = [now, await steps(times)];
        if (now - before < 2.1 * grew + some.length * few) return true;
        grew = now - before;
      }
      return false;
    };

    for (const way of ways.keys()) {
      await give(way, 'warm ', few);
      for (let from = 0; from < pieces.length; from += 6) {
        // Some of them, others of each kind and way; all in a sweep.
        if (!isSweep && turn++ % 23 > 0) continue;
        const some = pieces.slice(from, from + 6);
        if (await isLinear(way, some)) continue;
        for (const piece of some) expect([way, piece, await isLinear(way, [piece])]).toEqual([way, piece, true]);
        expect.unreachable(`${way} grows faster with all of ${JSON.stringify(some)}`);
      }
    }
  },
  300_000,
);
