/** Arguments that make something of a value, or refuse it: at once or by promise. */
import { type Arg, arg, type Command, command, misread } from 'taxeon';
import { askInChat } from 'taxeon/asking';
import { afterEach, beforeEach, describe, expect, test } from 'vitest';
import { everyKind } from '../../../test/support/kinds.js';
import { codeOf, sceneOf } from '../../../test/support/oddmere.js';

const described = { description: 'Something' };

const act = (args: Record<string, Arg<unknown>>) =>
  command({ ...described, name: 'act', args, run: () => 'Done.' }) as Command;

const even = (n: number) => (n % 2 === 0 ? n : misread('an even number'));
const ways: [string, (value: unknown) => unknown][] = [
  ['at once', (value) => value],
  ['by promise', async (value) => value],
];

describe.each(ways)('a map that answers %s', (_, later) => {
  const refusing = arg.integer().map((n) => later(even(n)) as number);

  test('gives the handler what it made', async () => {
    const { outcome } = await (await sceneOf([act({ n: refusing })])).types('wren', '!act 4');
    expect(outcome).toMatchObject({ status: 'completed', args: { n: 4 } });
  });

  const places: [string, Record<string, Arg<unknown>>, string, string][] = [
    ['its place', { n: refusing, note: arg.tail({ optional: true }) }, '!act 3 for it', '3'],
    ['a flag', { n: arg.integer({ optional: true, flag: true }).map((n) => later(even(n))) }, '!act --n=3', '3'],
    ['a value of a list', { n: arg.list(refusing) }, '!act 2, 3, 4', '3'],
    [
      'a list as a whole',
      { n: arg.list(arg.integer()).map((all) => later(all.length < 3 ? all : misread('two'))) },
      '!act 1 2 3',
      '1, 2, 3',
    ],
    ['a map of a map', { n: refusing.map((n) => n + 1) }, '!act 3', '3'],
  ];
  test.each(places)('blames the argument and keeps the place: %s', async (_, args, text, read) => {
    const scene = await sceneOf([act(args)]);
    const { outcome } = await scene.types('wren', text);
    expect(outcome).toMatchObject({ code: 'argument.invalid', parameters: { argument: 'n', read, misfit: 'shape' } });
    const { problems } = outcome as { problems: readonly { span?: { start: number; end: number } }[] };
    expect(problems).toHaveLength(1);
    const { span } = problems[0] as { span: { start: number; end: number } };
    expect(
      text
        .slice(span.start, span.end)
        .replace(/^--n=/, '')
        .replaceAll(/(?<=\d) /g, ', '),
    ).toBe(read);
  });

  test('on a slash option, and for a default, without a place', async () => {
    const scene = await sceneOf([act({ n: refusing })]);
    const { outcome } = await scene.invokes('wren', 'act', { n: 3 });
    expect(outcome).toMatchObject({ code: 'argument.invalid', parameters: { argument: 'n', read: '3' } });
    const odd = arg.integer({ default: 3 }).map((n) => later(even(n)));
    expect(codeOf((await (await sceneOf([act({ odd })])).types('wren', '!act')).outcome)).toBe('argument.invalid');
  });

  test('is asked again where it is asked for', async () => {
    const scene = await sceneOf([act({ n: refusing })], { asking: askInChat({ whenMissing: 'ask' }) });
    expect(codeOf((await scene.types('wren', '!act 3')).outcome)).toBe('waiting');
    expect(codeOf((await scene.types('wren', '5')).outcome)).toBe('waiting');
    expect((await scene.types('wren', '6')).outcome).toMatchObject({ status: 'completed', args: { n: 6 } });
  });

  test('may refuse any value of any kind', async () => {
    let refused = 0;
    for (const [kind, value] of everyKind) {
      const refuses = value.map(() => later(misread('another')));
      const scene = await sceneOf([
        act({ value }),
        command({ ...described, name: 'not', args: { value: refuses }, run: () => 'Done.' }) as Command,
      ]);
      const { outcome: missing } = await scene.types('wren', '!act');
      const { details = [] } = (missing as { reply?: { notice: { details?: readonly string[] } } }).reply?.notice ?? {};
      const example = details.flatMap((line) => /^Example: !act (.*)$/.exec(line)?.[1] ?? [])[0];
      if (example === undefined) continue;
      expect([kind, codeOf((await scene.types('wren', `!act ${example}`)).outcome)]).toEqual([kind, 'completed']);
      expect([kind, codeOf((await scene.types('wren', `!not ${example}`)).outcome)]).toEqual([
        kind,
        'argument.invalid',
      ]);
      refused++;
    }
    expect(refused).toBeGreaterThan(everyKind.length / 2);
  });
});

describe('a map that fails', () => {
  const unhandled: unknown[] = [];
  const note = (error: unknown) => void unhandled.push(error);
  beforeEach(() => void process.on('unhandledRejection', note));
  afterEach(() => void process.off('unhandledRejection', note));

  const fails: [string, (n: number) => unknown][] = [
    [
      'throws',
      () => {
        throw new Error('no database');
      },
    ],
    ['rejects', () => Promise.reject(new Error('no database'))],
    [
      'rejects, and throws for another value',
      (n) => {
        if (n > 1) throw new Error('no database');
        return Promise.reject(new Error('nor this'));
      },
    ],
  ];
  test.each(fails)('and %s is told with a reference, and ends no process', async (_, map) => {
    for (const n of [arg.integer().map(map), arg.list(arg.integer().map(map)), arg.integer({ default: 7 }).map(map)]) {
      const scene = await sceneOf([act({ n })]);
      expect(codeOf((await scene.types('wren', '!act 1 2'.slice(0, n.kind.item === undefined ? 6 : 8))).outcome)).toBe(
        'callback.failed',
      );
    }
    await new Promise((resolve) => setTimeout(resolve, 5));
    expect(unhandled).toEqual([]);
  });

  test('and never answers is not waited for', async () => {
    const scene = await sceneOf([act({ n: arg.integer().map(() => new Promise(() => undefined)) })], {
      patience: '2s',
    });
    const pending = scene.types('wren', '!act 1');
    await scene.clock.advance(3000);
    expect(codeOf((await pending).outcome)).toBe('callback.failed');
  });
});

test('a default that is computed is checked as what is typed', async () => {
  const cases: [Arg<unknown>, string][] = [
    [arg.duration({ max: '12d', default: () => 20 * 86_400_000 }), 'argument.invalid'],
    [arg.integer({ max: 5, default: async () => 9 }), 'argument.invalid'],
    [arg.integer({ default: (() => 'nine') as never }), 'argument.invalid'],
    [arg.choice(['lathe', 'welder'], { default: () => 'saw' as never }), 'argument.invalid'],
    [arg.list(arg.integer(), { max: 2, default: () => [1, 2, 3] }), 'argument.invalid'],
    [arg.integer({ max: 5, default: () => 4 }), 'completed'],
    [arg.integer({ default: () => undefined }), 'argument.missing'],
  ];
  for (const [value, expected] of cases) {
    expect(codeOf((await (await sceneOf([act({ value })])).types('wren', '!act')).outcome)).toBe(expected);
  }
});
