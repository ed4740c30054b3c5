import { arg, command, createCommandLayer, DeclarationError, type RequirementBuilder } from 'taxeon';
import { describe, expect, test } from 'vitest';

const run = () => 'done';
const base = { description: 'Something', run };

function problemsOf(...declarations: unknown[]): string[] {
  try {
    createCommandLayer({ commands: declarations.map((declaration) => command(declaration as never)), prefixes: ['!'] });
  } catch (error) {
    if (error instanceof DeclarationError)
      return error.problems.map(({ command, field, problem }) => `${command}, ${field}: ${problem}`);
    throw error;
  }
  return [];
}

describe('a wrong declaration fails when the catalogue is built, naming command, field and mend', () => {
  const wrong: [string, object, string][] = [
    ['a name with a space', { ...base, name: 'give back' }, 'name: "give back" is no name'],
    ['an empty description', { ...base, name: 'a', description: ' ' }, 'description: is empty'],
    ['an unknown place', { ...base, name: 'a', in: 'room' }, 'in: is "room"'],
    ['an unknown surface', { ...base, name: 'a', surfaces: ['voice'] }, 'surfaces: names "voice"'],
    ['no handler', { name: 'a', description: 'x' }, 'run: is missing'],
    [
      'an argument that looks like a number',
      { ...base, name: 'a', args: { 1: arg.text() } },
      'args.1: looks like a number',
    ],
    [
      'an argument named __proto__',
      { ...base, name: 'a', args: Object.defineProperty({}, '__proto__', { value: arg.text(), enumerable: true }) },
      'args.__proto__: is a name that JavaScript keeps',
    ],
    [
      'text behind a tail',
      { ...base, name: 'a', args: { all: arg.tail(), more: arg.text() } },
      'args.all: takes all that is left',
    ],
    [
      'required behind optional',
      { ...base, name: 'a', args: { n: arg.integer({ optional: true }), t: arg.text() } },
      'args.t: is required but follows n',
    ],
    [
      'an optional text in the middle',
      { ...base, name: 'a', args: { t: arg.text({ optional: true }), n: arg.integer({ optional: true }) } },
      'args.t: may be left out, but any word fits it',
    ],
    [
      'optional and default',
      { ...base, name: 'a', args: { n: arg.integer({ optional: true, default: 3 }) } },
      'args.n: has both',
    ],
    [
      'a default out of bounds',
      { ...base, name: 'a', args: { n: arg.integer({ max: 5, default: 9 }) } },
      'args.n: has a default of 9',
    ],
    [
      'a duration that does not read',
      { ...base, name: 'a', args: { d: arg.duration({ min: '3 moons' as never }) } },
      'args.d: has `min: "3 moons"`',
    ],
    [
      'bounds the wrong way round',
      { ...base, name: 'a', args: { d: arg.duration({ min: '3d', max: '1d' }) } },
      'args.d: has `min` above `max`',
    ],
    [
      'bounds that are not whole',
      { ...base, name: 'a', args: { n: arg.integer({ min: 0.5 }) } },
      'args.n: has `min: 0.5`',
    ],
    ['no labels', { ...base, name: 'a', args: { c: arg.choice([]) } }, 'args.c: has no labels'],
    [
      'the same label twice',
      { ...base, name: 'a', args: { c: arg.choice(['Saw', 'saw']) } },
      'args.c: names the label "saw" twice',
    ],
    [
      'a member outside a guild',
      { ...base, name: 'a', in: 'direct', args: { who: arg.member() } },
      "in: is 'direct', but who is a member",
    ],
    [
      'outranking a text',
      {
        ...base,
        name: 'a',
        args: { t: arg.text() },
        requires: ({ caller }: never) => [(caller as { outranks(n: string): unknown }).outranks('t')],
      },
      'requires: asks that caller outranks t, but “t” is no argument that holds a member',
    ],
    ...(
      [
        [
          'nobody’s argument, deep down',
          (b: RequirementBuilder<never>) => [b.not(b.anyOf(b.caller.can('x'), b.target('toString').isBot()))],
          'toString is a bot, but “toString” is no',
        ],
        [
          'anyOf of nothing',
          (b: RequirementBuilder<never>) => [b.not(b.anyOf())],
          'requires: has an anyOf() of nothing',
        ],
        ['allOf of nothing', (b: RequirementBuilder<never>) => [b.allOf()], 'requires: has an allOf() of nothing'],
        [
          'a function for a requirement',
          (b: RequirementBuilder<never>) => [b.caller.can],
          'requires: gives a function, which is no requirement',
        ],
        [
          'what only looks like a requirement',
          () => [{ decide: () => 'yes' }],
          'requires: gives an object, which is no requirement',
        ],
        ['true for a requirement', () => [true], 'requires: gives true, which is no requirement'],
        [
          'a list in the list',
          (b: RequirementBuilder<never>) => [[b.caller.can('x')]],
          'requires: gives a list, which is no requirement',
        ],
        [
          'what is no requirement, inside',
          (b: RequirementBuilder<never>) => [b.allOf(b.caller.can as never)],
          'requires: throws: allOf takes requirements, not a function',
        ],
        [
          'a permission without a name',
          (b: RequirementBuilder<never>) => [b.caller.can(undefined as never)],
          'requires: throws: caller.can takes a name, not undefined',
        ],
      ] as const
    ).map(([what, requires, problem]): [string, object, string] => [what, { ...base, name: 'a', requires }, problem]),
    [
      'requirements that throw',
      {
        ...base,
        name: 'a',
        requires: () => {
          throw new Error('boom');
        },
      },
      'requires: throws: boom',
    ],
    ['requirements that are no list', { ...base, name: 'a', requires: () => 'steward' }, 'requires: gives no list'],
    [
      'a cooldown without a unit',
      { ...base, name: 'a', cooldowns: { user: '5' } },
      'cooldowns.user: "5" does not read',
    ],
    [
      'a cooldown for nobody',
      { ...base, name: 'a', cooldowns: { moon: '5s' } },
      'cooldowns.moon: counts by nothing known',
    ],
  ];
  test.each(wrong)('%s', (_, declaration, expected) => {
    const problems = problemsOf(declaration);
    expect(problems).toHaveLength(1);
    expect(problems[0]).toContain(expected);
  });
});

test('all problems of all commands are told at once', () => {
  const problems = problemsOf(
    { ...base, name: 'lend', aliases: ['take'], cooldowns: { user: 'often' } },
    { ...base, name: 'borrow', aliases: ['TAKE', 'l!'], args: { n: arg.integer({ min: 9, max: 1 }) } },
    { ...base, name: 'Lend', description: '', id: 'lend' },
  );
  expect(problems).toEqual([
    expect.stringContaining('lend, cooldowns.user'),
    expect.stringContaining('borrow, aliases[1]'),
    expect.stringContaining('borrow, args.n: has min 9 above max 1'),
    expect.stringContaining('Lend, description'),
    expect.stringContaining('borrow, aliases[0]: "TAKE" already belongs to lend'),
    expect.stringContaining('Lend, name: "Lend" already belongs to lend'),
    expect.stringContaining('Lend, id: "lend" is also the id of lend'),
  ]);
});

test('a prefix that is empty or has space around it is refused', () => {
  expect(() => createCommandLayer({ commands: [], prefixes: ['', ' !'] })).toThrow(
    /prefixes: "" is empty.*\n.*prefixes: " !"/,
  );
});

test('kinds are plain values: shared, spread and mapped', async () => {
  const pence = arg.integer({ min: 1, max: 500 });
  const pounds = pence.map((value) => value / 100);
  const named = { ...pounds, description: 'How much' };
  const pay = command({
    ...base,
    name: 'pay',
    args: { a: pence, b: named.map((value) => `£${value}`) },
    run: ({ args }) => `${args.a} ${args.b}`,
  });
  const layer = createCommandLayer({ commands: [pay], prefixes: ['!'] });
  const outcome = await layer.handle({
    surface: 'text',
    text: '!pay 3 250',
    caller: { kind: 'user', id: 'wren', name: 'Wren' },
    place: { kind: 'direct', channel: { id: 'd', name: 'd' } },
    at: 0,
  });
  expect(outcome).toMatchObject({ status: 'completed', args: { a: 3, b: '£2.5' } });
});
