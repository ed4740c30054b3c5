import fc from 'fast-check';
import { arg, command, type Outcome, type Requirement } from 'taxeon';
import { askInChat } from 'taxeon/asking';
import type { Input } from 'taxeon/platform';
import { describe, expect, test } from 'vitest';
import { gist, type Scene, sceneOf } from '../../../test/support/oddmere.js';

const lend = command({
  name: 'lend',
  description: 'Lend a tool',
  whenMissing: 'ask',
  args: {
    who: arg.member(),
    kind: arg.choice(['garden', 'power']),
    keep: arg.duration({ min: '1h', max: '12d' }),
    tools: arg.list(arg.integer({ max: 99 }), { max: 3 }),
    note: arg.tail({ max: 30 }),
  },
  requires: ({ caller }) => [caller.can('fine'), caller.outranks('who')],
  cooldowns: { user: '2 in 1m' },
  run: ({ args }) => `Lent to ${args.who.name}.`,
});

const scene = (): Promise<Scene> => sceneOf([lend], { asking: askInChat(), damping: 'off' });

/** What came of it: the same for a line and for what was asked. */
function result(outcome: Outcome): unknown {
  if (outcome.status !== 'waiting') return gist(outcome);
  const { asks } = outcome;
  return asks.for === 'argument' ? [asks.argument, asks.problem.code, asks.problem.parameters] : asks;
}

const values = [
  ['Tobias', '@wren', 'wre', 'Odalys', 'nobody', '"Tobias"'],
  ['garden', 'power', 'gardn', 'Power.'],
  ['2d', '3 days', '1h30m', '20d', '5'],
  ['7', '7, 8', '1 2 3', '7, 1000', '1, 2, 3, 4'],
  ['oiled', 'two words', '--dry', '"in quotes"', 'x'.repeat(40)],
] as const;

describe('an answer', () => {
  test('makes of a call what the line typed whole does', async () => {
    const picked = fc.tuple(...values.map((all) => fc.constantFrom(...all)));
    await fc.assert(
      fc.asyncProperty(picked, fc.nat(4), async (words, given) => {
        const asked = await scene();
        let typed = words.slice(0, given);
        let { outcome } = await asked.types('ines', ['!lend', ...typed].join(' '));
        for (const word of words.slice(given)) {
          // What is asked for is what comes next, unless what was typed was wrong.
          if (outcome.status !== 'waiting' || outcome.asks.for !== 'argument') break;
          if (outcome.asks.argument !== Object.keys(lend.declaration.args ?? {})[typed.length]) break;
          typed = [...typed, word];
          outcome = (await asked.types('ines', word)).outcome;
        }
        const whole = await scene();
        const line = ['!lend', ...typed].join(' ');
        expect([line, result(outcome)]).toEqual([line, result((await whole.types('ines', line)).outcome)]);
      }),
      { numRuns: 300 },
    );
  });

  test('is never taken from another person or another place', async () => {
    const people = ['ines', 'tobias', 'wren', 'odalys'];
    const places = ['oddmere/counter', 'oddmere/workshop', 'pellbrook', 'direct'];
    const { platform } = await scene();
    const all = people.flatMap((person) => places.map((place) => ({ person, place })));
    const known = all.filter((doing) => {
      try {
        return platform.typed({ ...doing, text: '' }) !== undefined;
      } catch {
        return false;
      }
    });
    expect(known.length).toBeGreaterThan(8);
    const others = known.filter(({ person, place }) => person !== 'ines' || place !== 'oddmere/counter');
    const messages = fc.array(
      fc.record({ doing: fc.constantFrom(...others), text: fc.constantFrom('Tobias', 'stop', '!lend', '50') }),
    );
    await fc.assert(
      fc.asyncProperty(messages, async (sent) => {
        const [open, plain] = [await scene(), await scene()];
        await open.types('ines', '!lend');
        const begun = new Set<string>();
        for (const { doing, text } of sent) {
          const key = JSON.stringify(doing);
          const outcomes = [];
          for (const one of [open, plain])
            outcomes.push((await one.platform.send(one.platform.typed({ ...doing, text }))).outcome);
          expect(result(outcomes[0] as Outcome)).toEqual(result(outcomes[1] as Outcome));
          if (text === '!lend') begun.add(key);
          else if (!begun.has(key)) expect(outcomes[0]).toEqual({ status: 'ignored', because: 'chat' });
        }
        expect(result((await open.types('ines', 'Tobias')).outcome)).toMatchObject(['kind', 'argument.missing', {}]);
      }),
      { numRuns: 60 },
    );
  });

  /** What may have changed since the question, each for the answer and for the line alike. */
  const changes: readonly ((scene: Scene, input: Input) => Input | Promise<Input>)[] = [
    (_, input) => ({ ...input, caller: { ...input.caller, permissions: new Set() } as never }),
    (_, input) => ({ ...input, caller: { ...input.caller, rank: 0 } as never }),
    (_, input) => ({ ...input, caller: { ...input.caller, name: 'Ines the second' } }),
    async (scene, input) => {
      for (let use = 0; use < 2; use++) await scene.types('ines', '!lend Tobias garden 2d 7 x');
      return input;
    },
    (scene, input) => {
      scene.layer.replace([command({ name: 'lend', description: 'Another', run: () => 'Done.' })]);
      return input;
    },
    (scene, input) => {
      const requires = ({ caller }: { readonly caller: { ownsBot(): Requirement } }) => [caller.ownsBot()];
      scene.layer.replace([command({ ...(lend.declaration as object), requires } as never)]);
      return input;
    },
    async (scene, input) => {
      void scene.layer.close();
      return input;
    },
  ];

  test('runs nothing that the whole line would not run at that moment', async () => {
    await fc.assert(
      fc.asyncProperty(fc.subarray([...changes.keys()]), fc.nat(4), async (which, given) => {
        const words = ['Tobias', 'garden', '2d', '7', 'x'];
        const [asked, whole] = [await scene(), await scene()];
        await asked.types('ines', ['!lend', ...words.slice(0, given)].join(' '));
        for (const word of words.slice(given, 4)) await asked.types('ines', word);
        const send = async (to: Scene, text: string) => {
          let input = to.platform.typed({ person: 'ines', place: 'oddmere/counter', text });
          for (const index of which) input = (await changes[index]?.(to, input)) ?? input;
          return (await to.platform.send(input)).outcome;
        };
        const answer = await send(asked, 'x');
        const line = await send(whole, ['!lend', ...words].join(' '));
        if (line.status === 'completed') expect(gist(answer)).toEqual(gist(line));
        else expect(answer.status).not.toBe('completed');
        if (which.length === 0) expect(line.status).toBe('completed');
      }),
      { numRuns: 200 },
    );
  });
});
