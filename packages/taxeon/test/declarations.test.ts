import { polish } from '@taxeon/icu';
import fc from 'fast-check';
import {
  arg,
  type CommandOrGroup,
  command,
  createCommandLayer,
  DeclarationError,
  group,
  guildSettings,
  helpCommand,
  type RequirementBuilder,
  refuse,
  vocabulary,
} from 'taxeon';
import { problemInWords } from 'taxeon/queries';
import { describe, expect, test } from 'vitest';
import { codeOf, sceneOf, silentLog } from '../../../test/support/oddmere.js';

const run = () => 'done';
/** One that has a right value in each field. */
const declaredOf = (name: string) => ({
  name,
  aliases: ['light'],
  description: 'Light it',
  id: 'lamp',
  in: 'guild',
  surfaces: ['text'],
  args: { who: arg.member(), n: arg.integer({ optional: true }) },
  requires: ({ caller }: RequirementBuilder<never>) => [caller.can('light'), caller.outranks('who' as never)],
  cooldowns: { user: '5 in 1m', 'a.b': { allow: '1m', key: () => 'x' } },
  running: { user: 1 },
  messages: { 'cooldown.active': 'Later.' },
  manners: { 'cooldown.*': { visibleTo: 'caller' } },
  whenMissing: 'refuse',
  scope: 'everywhere',
  localized: { pl: { name: 'lampa' } },
  section: 'Shop',
  module: 'shop',
  examples: ['wren'],
  confirm: undefined,
  together: () => undefined,
  visibleTo: 'everyone',
  timeout: '30s',
  around: undefined,
  onRefusal: undefined,
  isHelp: undefined,
  run,
});

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
      'requires: asks that caller outranks “t”, but “t” is no argument that holds a member',
    ],
    ...(
      [
        [
          'nobody’s argument, deep down',
          (b: RequirementBuilder<never>) => [b.not(b.anyOf(b.caller.can('x'), b.target('toString').isBot()))],
          '“toString” is a bot, but “toString” is no',
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
    ['a limit in a text', { ...base, name: 'a', running: { user: '1' as never } }, 'running.user: allows "1"; give'],
    ['a limit of a large kind', { ...base, name: 'a', running: { user: 0n as never } }, 'running.user: allows 0; give'],
    [
      'a map without a function',
      { ...base, name: 'a', args: { n: arg.integer().map('twice' as never) } },
      'args.n: has a `.map` without a function',
    ],
    [
      'a cooldown for nobody',
      { ...base, name: 'a', cooldowns: { moon: '20s' } },
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

test('money, percent and files are declared right, or told', () => {
  const problemsOf = (value: () => unknown) => () =>
    createCommandLayer({ commands: [command({ ...base, name: 'a', args: { value: value() } } as never)] });
  expect(problemsOf(() => arg.money({} as never))).toThrow('`currency: undefined`; give a code of ISO 4217');
  expect(problemsOf(() => arg.money({ currency: 'QQQ' }))).toThrow('give a code of ISO 4217');
  expect(problemsOf(() => arg.money({ currency: 'GBP', max: 3.5 }))).toThrow('`max: 3.5`; give a whole number');
  expect(problemsOf(() => arg.money({ currency: 'GBP', min: 5, max: 3 }))).toThrow('min 5 above max 3');
  expect(problemsOf(() => arg.number({ percent: 'yes' } as never))).toThrow('`percent`: is "yes"');
  expect(problemsOf(() => arg.attachment({ max: '2MB' } as never))).toThrow('`max`: is "2MB"; give a number');
});

test('what is of the wrong form hides nothing else that is wrong, and is told once', () => {
  const who = arg.member;
  const declared = {
    name: 'a',
    description: 5,
    aliases: 'b',
    args: { who, n: arg.integer({ min: 3, max: 1 }) },
    cooldowns: { user: 60, guild: 'often', channel: { allow: '1m', cost: 0, charge: 'no' } },
    messages: { 'cooldown.active': 7 },
    requires: ({ caller }: RequirementBuilder<never>) => [caller.can('fine'), caller.outranks('who' as never), 'fly'],
  };
  expect(problemsOf(declared)).toEqual([
    'a, description: is 5; give a text',
    'a, aliases: is "b"; give a list of texts',
    'a, messages.cooldown.active: is 7; give a text or a function',
    "a, cooldowns.user: is 60; write '60s'",
    expect.stringContaining('a, cooldowns.channel.charge: is "no"; give one of'),
    'a, args.who: is a function; call it, as in arg.integer()',
    expect.stringContaining('a, requires: gives "fly", which is no requirement'),
    expect.stringContaining('a, cooldowns.guild: "often" does not read'),
    'a, run: is missing; give the function that does the work',
    expect.stringContaining('has min 3 above max 1'),
  ]);
});

test('whatever stands in a field, a declaration is right or told, and nothing else is thrown', () => {
  const fields = [...Object.keys(declaredOf('lamp')), 'aliases.x', 'description.x', 'args.who', '__proto__', ''];
  const junk = fc.oneof(
    fc.anything(),
    fc.constantFrom<unknown>(Symbol('x'), () => 5, command, arg.integer, [[]], { 'a.b': 5 }),
  );
  fc.assert(
    fc.property(fc.constantFrom(...fields), junk, fc.boolean(), (field, value, isGroup) => {
      const declared: object = { ...declaredOf('lamp'), ...(isGroup ? { commands: [] } : {}) };
      Object.defineProperty(declared, field, { value, enumerable: true, configurable: true });
      const made = isGroup ? group(declared as never) : command(declared as never);
      try {
        createCommandLayer({ commands: [made], prefixes: ['!'], log: silentLog });
      } catch (error) {
        expect(error).toBeInstanceOf(DeclarationError);
      }
    }),
    { numRuns: 3000 },
  );
});

test('help takes its layer', () => {
  expect(() => helpCommand(undefined as never)).toThrow('helpCommand takes the layer: commands: (layer) => ');
});

test.each([
  [5, 'The handler gave 5; as a notice it is none'],
  [true, 'The handler gave true; as a notice it is none'],
  [['a'], 'The handler gave a list; as a notice it has a body that is no text'],
  [{ text: 'a' }, 'The handler gave an object; as a notice it has a body that is no text'],
])('a handler that gives %j is told so in the log', async (given, says) => {
  const logged: unknown[] = [];
  const log = { ...silentLog, error: ({ error }: { error?: unknown }) => void logged.push((error as Error).message) };
  const { outcome } = await (
    await sceneOf([command({ ...base, name: 'a', run: () => given as never })], { log })
  ).types('wren', '!a');
  expect([codeOf(outcome), logged]).toEqual(['handler.failed', [says]]);
});

describe('what is not read is told, and never left out in silence', () => {
  const one = (more: object) => ({ ...base, name: 'a', ...more });
  const fields: [string, object, string][] = [
    ['require:', one({ require: () => [] }), 'a, require: there is no such field; write requires'],
    ['needed:', one({ needed: [] }), 'a, needed: there is no such field; leave it out'],
    ['cooldown:', one({ cooldown: { user: '20s' } }), 'a, cooldown: there is no such field; write cooldowns'],
    ['requires that is a list', one({ requires: [] }), 'a, requires: is a list; give a function'],
    [
      'cooldowns that are a text',
      one({ cooldowns: '20s' }),
      'a, cooldowns: is "20s"; give an object such as { user: \'1m\' }',
    ],
    ['a bare number', one({ cooldowns: { user: 60 } }), "a, cooldowns.user: is 60; write '60s'"],
    ['as many milliseconds', one({ cooldowns: { user: 60_000 } }), "a, cooldowns.user: is 60000; write '60s'"],
    ['alias:', one({ alias: ['b'] }), 'a, alias: there is no such field; write aliases'],
    [
      'a list of arguments',
      one({ args: [arg.text()] }),
      'a, args: is a list; give an object such as { tool: arg.text() }',
    ],
    [
      'an option of a cooldown',
      one({ cooldowns: { user: { allow: '20s', exemt: () => [] } } }),
      'user.exemt: there is no such field; write exempt',
    ],
    ['aliases that are a text', one({ aliases: 'take' }), 'a, aliases: is "take"; give a list of texts'],
    [
      'a code that there is not',
      one({ messages: { 'cooldown.actve': 'no' } }),
      'messages.cooldown.actve: there is no such field; write cooldown.active',
    ],
    [
      'a message that is a number',
      one({ messages: { 'cooldown.active': 7 } }),
      'messages.cooldown.active: is 7; give a text or a function',
    ],
    [
      'an argument that was not called',
      one({ args: { n: arg.integer } }),
      'a, args.n: is a function; call it, as in arg.integer()',
    ],
    ['an argument that is none', one({ args: { n: 'integer' } }), 'a, args.n: is no argument'],
    [
      'an option of an argument',
      one({ args: { n: arg.integer({ mni: 3 } as never) } }),
      'a, args.n: has `mni`: there is no such field; write min',
    ],
    [
      'orbot',
      one({ args: { who: arg.member({ orbot: true } as never) } }),
      'a, args.who: has `orbot`: there is no such field; write orBot',
    ],
    [
      'orBot that is a text',
      one({ args: { who: arg.member({ orBot: 'no' } as never) } }),
      'a, args.who: has `orBot`: is "no"; give true or false',
    ],
    [
      'a bound that is a text',
      one({ args: { n: arg.integer({ max: '5' as never }) } }),
      'a, args.n: has `max`: is "5"; give a number',
    ],
    [
      'match that there is not',
      one({ args: { who: arg.member({ match: 'exakt' } as never) } }),
      'a, args.who: has `match`: is "exakt"; give one of "beginning", "exact"',
    ],
    [
      'an option of a kind of one’s own',
      one({
        args: {
          k: arg.custom({ name: 'k', expected: 'k', example: 'k', read: () => 1, isvalue: () => true } as never),
        },
      }),
      'whose `isvalue` is wrong: there is no such field; write isValue',
    ],
    [
      'a flag that is a text',
      one({ args: { n: arg.integer({ optional: true, flag: 'n' } as never) } }),
      'a, args.n: has `flag`: is "n"; give true or { short: \'n\' }',
    ],
    [
      'an option of a rank',
      one({
        args: { who: arg.member() },
        requires: ({ caller }: RequirementBuilder<Record<'who', ReturnType<typeof arg.member>>>) => [
          caller.outranks('who', { orself: true } as never),
        ],
      }),
      'a, requires: throws: caller.outranks, orself: there is no such field; write orSelf',
    ],
    [
      'a set of guilds that there is not',
      one({ scope: 'stagin' }),
      'a, scope: names "stagin", which is no set of guilds',
    ],
  ];
  test.each(fields)('%s', (_, declaration, expected) => {
    expect(problemsOf(declaration).join('\n')).toContain(expected);
  });

  test.each([
    ['a list of nothing', () => arg.list(undefined as never), 'arg.list takes an argument'],
    ['a kind that is none', () => arg.custom(undefined as never), 'arg.custom takes a kind'],
    [
      'a pattern that is a text',
      () => arg.pattern('x' as never, {} as never),
      'arg.pattern takes a regular expression',
    ],
    ['labels that are a text', () => arg.choice('abc' as never), 'arg.choice takes a list'],
    ['a vocabulary that is none', () => vocabulary(undefined as never), 'vocabulary: is undefined; give an object'],
    [
      'a list of a vocabulary',
      () => vocabulary({ permision: [] } as never),
      'vocabulary, permision: there is no such field; write permissions',
    ],
    ['settings of guilds', () => guildSettings({ guild: {} } as never), 'guild: there is no such field; write guilds'],
  ] as [string, () => unknown, string][])('where it is made: %s', (_, make, expected) => {
    expect(make).toThrow(expected);
  });

  const entries: [string, unknown, string][] = [
    ['a declaration that command() was not given', one({}), '(layer), commands[1]: is an object, which is no command'],
    ['a function', command, '(layer), commands[1]: is a function, which is no command'],
    ['nothing', undefined, '(layer), commands[1]: is undefined, which is no command'],
    ['a name', 'shelf', '(layer), commands[1]: is "shelf", which is no command'],
  ];
  test.each(entries)('an entry of `commands` that is none: %s', (_, entry, expected) => {
    const problems = (commands: readonly unknown[]) => layerProblems({ commands });
    expect(problems([command(one({}) as never), entry])).toContain(expected);
    const inGroup = group({ name: 'g', description: 'x', commands: [command(one({}) as never), entry as never] });
    expect(problems([inGroup])).toContain(expected.replace('(layer)', 'g'));
  });

  const options: [string, object, string][] = [
    ['prefix:', { prefix: '!' }, '(layer), prefix: there is no such field; write prefixes'],
    ['prefixes that are a text', { prefixes: '!' }, 'prefixes: is "!"; give a list of texts'],
    ['a console that can a text', { console: { can: 'fine' } }, 'console.can: is "fine"; give a list of texts'],
    [
      'a console with a right that there is not',
      { console: { cna: ['fine'] } },
      'console.cna: there is no such field; write can',
    ],
    [
      'roles that give a text',
      { roles: { steward: 'fine' } },
      'roles: is an object; give a list of permissions by role',
    ],
    ['usage: true', { usage: true }, 'usage: is true; give `countUsage`'],
    [
      'settings that are data',
      { settings: { oddmere: {} } },
      'settings: is an object; give what `guildSettings` gives',
    ],
    ['a store that is none', { store: {} }, 'store: is an object; give a store'],
    ['a logger that is a function', { log: () => undefined }, 'log: is a function; give a log with'],
    [
      'a manner of a code',
      { manners: { 'tool.out': { visibleto: 'caller' } } },
      'manners.tool.out.visibleto: there is no such field; write visibleTo',
    ],
    [
      'commands that are missing',
      { commands: undefined },
      'commands: is undefined; give a list of commands and groups',
    ],
    ['options that are null', null as never, '(layer), : is null'],
    ['a language that is a text', { languages: ['en'] }, 'languages: is a list; give a list of languages'],
    [
      'a language that was not called',
      { languages: [() => 'pl'] },
      'languages: is a list; give a list of languages such as `polish()`',
    ],
    ['several at once', { prefix: '!', owners: 'irc/odalys', timeZone: 'Moon' }, 'timeZone: "Moon" is no time zone'],
  ];
  test.each(options)('an option of the layer: %s', (_, given, expected) => {
    expect(layerProblems(given && { commands: [command(one({}) as never)], ...given })).toContain(expected);
  });

  test('an event, and a listener that is none', () => {
    const layer = createCommandLayer({ commands: [command(one({}) as never)] });
    expect(() => layer.on('complete' as never, () => undefined)).toThrow(
      'There is no event "complete"; listen to completed',
    );
    expect(() => layer.on('completed', 'me' as never)).toThrow('"me" is no listener');
  });

  test('a code of the layer with which a handler refuses, by type and while it runs', async () => {
    // @ts-expect-error it would say that the layer has refused
    const forged = () => refuse('permission.caller', 'No.');
    const scene = await sceneOf([command({ ...base, name: 'a', run: forged })]);
    expect(codeOf((await scene.types('wren', '!a')).outcome)).toBe('handler.failed');
  });
});

function layerProblems(options: object): string {
  try {
    createCommandLayer(options as never);
  } catch (error) {
    if (!(error instanceof DeclarationError)) throw error;
    return error.problems.map(({ command: path, field, problem }) => `${path}, ${field}: ${problem}`).join('\n');
  }
  return '';
}

test.each([
  ['throws', () => JSON.parse('moon'), /^a, localized: throws for pl: Unexpected token/],
  ['gives nothing', () => undefined, 'a, localized: gives undefined for pl; give a name, a description and args'],
  ['gives an empty description', () => ({ description: ' ' }), 'a, localized: gives an object for pl'],
  ['gives a promise', async () => ({}), 'a, localized: gives an object for pl; give it at once'],
  [
    'misspells',
    () => ({ descripton: 'x' }),
    'a, localized: gives an object for pl; give a name, a description and args',
  ],
])('a function for other languages that %s is told, of commands and of groups', (_, localized, problem) => {
  const languages = [polish()];
  const wrong = { description: 'Something', name: 'a', localized };
  const problems = (commands: CommandOrGroup[]) => {
    try {
      createCommandLayer({ commands, prefixes: ['!'], languages });
      return [];
    } catch (error) {
      return (error as DeclarationError).problems.map(problemInWords);
    }
  };
  const told = [expect.stringMatching(problem)];
  expect(problems([command({ ...wrong, run } as never)])).toEqual(told);
  const inside = command({ ...base, name: 'b' });
  expect(problems([group({ ...wrong, commands: [inside] } as never)])).toEqual(told);
});
