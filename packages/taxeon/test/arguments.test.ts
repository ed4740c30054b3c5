import { readFileSync } from 'node:fs';
import { polish } from '@taxeon/icu';
import { runUntil, standIn, virtualClock } from '@taxeon/testing';
import { type Arg, arg, command, createCommandLayer, misread, type Outcome } from 'taxeon';
import * as kinds from 'taxeon/arg';
import * as v from 'valibot';
import { describe, expect, test } from 'vitest';
import * as z from 'zod';
import { unhidden } from '../../../test/support/grammar.js';
import { everyKind, kindsOnPage } from '../../../test/support/kinds.js';
import { codeOf, oddmereData, sceneOf, startOfAfternoon } from '../../../test/support/oddmere.js';

const described = { description: 'Try a kind', run: () => 'done' };

function sceneWith(value: Arg<unknown>) {
  const clock = virtualClock(startOfAfternoon);
  const platform = standIn(oddmereData().world, { clock });
  const commands = [command({ ...described, name: 'try', args: { value } })];
  return { platform, layer: createCommandLayer({ commands, prefixes: ['!'], clock, timeZone: 'Europe/London' }) };
}

function told(outcome: Outcome): string {
  if (outcome.status === 'ignored') return 'ignored';
  const { body, details } = outcome.reply?.notice ?? { body: '' };
  if (outcome.status !== 'completed') return `says: ${body}`;
  return `reads: ${shown(outcome.args?.['value'])}${details === undefined ? '' : ` (${details[0]})`}`;
}

function shown(value: unknown): string {
  if (value instanceof Date) return value.toISOString();
  if (value instanceof URL) return value.href;
  if (typeof value === 'object' && value !== null && 'name' in value) return String(value.name);
  return JSON.stringify(value);
}

describe('what each kind takes and refuses, and in which words, as docs/arguments.md says', () => {
  for (const { kind, declared, rows } of kindsOnPage) {
    test.each(rows)(`${kind}: %s`, async (typed, expected) => {
      const { platform, layer } = sceneWith(declared);
      const input = platform.typed({ person: 'ines', place: 'pellbrook', text: `!try ${unhidden(typed)}` });
      expect(told(await layer.handle(input, platform))).toBe(expected);
    });
  }

  test('for every kind that is typed', () => {
    const typed = everyKind.filter(([, { kind }]) => kind.tokens !== 'attached');
    expect(typed).toHaveLength(kindsOnPage.length);
    expect(kindsOnPage.filter(({ rows }) => rows.length < 2)).toEqual([]);
  });
});

describe('several people who fit are named, never guessed between', () => {
  const world = oddmereData().world;
  const twins = {
    ...world,
    people: [...world.people, { id: 'wren-2', name: 'Wren' }],
    guilds: world.guilds.map((guild) => ({ ...guild, members: { ...guild.members, 'wren-2': [] } })),
  };
  const commands = [command({ ...described, name: 'try', args: { who: arg.member() } })];

  test('by name they are ambiguous, by id they are not', async () => {
    const platform = standIn(twins);
    const layer = createCommandLayer({ commands, prefixes: ['!'] });
    const read = async (typed: string) =>
      layer.handle(platform.typed({ person: 'ines', place: 'oddmere', text: `!try ${typed}` }), platform);
    expect(await read('Wre')).toMatchObject({
      code: 'argument.ambiguous',
      parameters: { read: 'Wre', matches: ['@\u2060wren', '@\u2060wren-2'] },
    });
    expect(told(await read('Wre'))).toBe(
      'says: “who”: “Wre” could be @\u2060wren or @\u2060wren-2. Which one do you mean?',
    );
    expect(await read('@wren-2')).toMatchObject({ status: 'completed', args: { who: { id: 'wren-2' } } });
  });
});

test('every kind has a row of its options', () => {
  const page = readFileSync(new URL('../../../docs/arguments.md', import.meta.url), 'utf8');
  const table = page.slice(page.indexOf('| kind | gives'), page.indexOf('## Beside the kinds'));
  const rows = [...table.matchAll(/^\| `(\w+)` \|/gm)].map(([, name]) => name);
  expect(rows.sort()).toEqual(Object.keys(kinds).sort());
});

test('whom the bot knows from elsewhere is told to its owners alone', async () => {
  const commands = [command({ ...described, name: 'try', args: { who: arg.member() } })];
  const platform = standIn(oddmereData().world);
  const layer = createCommandLayer({ commands, prefixes: ['!'], owners: ['stand-in/ines'] });
  const tried = async (person: string, text: string) =>
    codeOf(await layer.handle(platform.typed({ person, place: 'pellbrook', text }), platform));
  for (const name of ['pim', '@pim', 'Pim']) {
    expect(await tried('wren', `!try ${name}`)).toBe('argument.invalid');
    expect(await tried('ines', `!try ${name}`)).toBe('argument.absent-member');
  }
});

describe('validators of any library that speaks Standard Schema', () => {
  const layerWith = (value: Arg<unknown>) =>
    createCommandLayer({ commands: [command({ ...described, name: 'try', args: { value } })], prefixes: ['!'] });
  const layers: [string, ReturnType<typeof layerWith>][] = [
    ['zod', layerWith(arg.schema(z.coerce.number().multipleOf(5)))],
    [
      'valibot',
      layerWith(arg.schema(v.pipe(v.string(), v.transform(Number), v.multipleOf(5, 'give a multiple of 5')))),
    ],
  ];
  test.each(layers)('%s', async (_, layer) => {
    const platform = standIn(oddmereData().world);
    const read = async (typed: string) =>
      layer.handle(platform.typed({ person: 'ines', place: 'oddmere', text: `!try ${typed}` }), platform);
    expect(await read('15')).toMatchObject({ status: 'completed', args: { value: 15 } });
    expect(codeOf(await read('16'))).toBe('argument.invalid');
    expect(told(await read('16'))).toMatch(/multiple of 5/);
  });

  test('one that answers later', async () => {
    const later = z.string().refine(async (code) => code === 'AB12');
    const scene = await sceneOf([
      command({ ...described, name: 'try', args: { value: arg.schema(later, { expected: 'the code' }) } }),
    ]);
    expect((await scene.types('wren', '!try AB12')).outcome.status).toBe('completed');
    expect(told((await scene.types('wren', '!try AB13')).outcome)).toBe(
      'says: “value” takes the code; “AB13” is not that.',
    );
  });
});

describe('a kind of one’s own that misbehaves fails closed, with a reference', () => {
  const misbehaving: [string, () => unknown][] = [
    [
      'throws',
      () => {
        throw new Error('no shelves');
      },
    ],
    [
      'throws a text',
      () => {
        throw 'no shelves';
      },
    ],
    ['rejects', () => Promise.reject(new Error('no shelves'))],
    ['never answers', () => new Promise(() => undefined)],
  ];
  test.each(misbehaving)('one that %s', async (_, read) => {
    const mark = arg.custom({ name: 'mark', expected: 'a mark', example: 'B12', read });
    const scene = await sceneOf([command({ ...described, name: 'try', args: { mark } })], {
      patience: '50ms',
      reference: () => 'abcd2345',
    });
    const { outcome, posts } = await runUntil(scene.clock, scene.types('wren', '!try B12'));
    expect(outcome).toMatchObject({ status: 'failed', code: 'callback.failed', parameters: { reference: 'abcd2345' } });
    expect(posts).toHaveLength(1);
  });
});

test.each([7, null, ' ', [], {}, { pl: 7 }])('misread takes words alone, and not %j', (expected) => {
  expect(() => misread(expected as never)).toThrow('misread takes a text, or texts by locale, and not ');
});

describe('checks across arguments', () => {
  const reserve = command({
    ...described,
    name: 'reserve',
    args: { from: arg.integer(), to: arg.integer() },
    together: ({ from, to }, blame) => (from < to ? undefined : blame('to', 'It has to be after from.')),
  });

  test('point at one of them', async () => {
    const scene = await sceneOf([reserve]);
    expect((await scene.types('wren', '!reserve 1 2')).outcome.status).toBe('completed');
    const { outcome, posts } = await scene.invokes('wren', 'reserve', { from: 3, to: 2 });
    expect(outcome).toMatchObject({
      status: 'refused',
      code: 'requirement.failed',
      parameters: { argument: 'to', reason: 'It has to be after from.' },
    });
    expect(posts[0]?.notice).toMatchObject({
      body: '“to”: It has to be after from.',
      details: ['Usage: /reserve <from> <to>'],
    });
  });

  test('may be late, and fail closed', async () => {
    const late = command({
      ...described,
      name: 'late',
      args: { n: arg.integer() },
      together: async ({ n }, blame) => (n > 1 ? blame('n', 'Too many.') : undefined),
    });
    const broken = command({
      ...described,
      name: 'broken',
      together: () => {
        throw new Error('boom');
      },
    });
    const scene = await sceneOf([late, broken]);
    expect((await scene.types('wren', '!late 1')).outcome.status).toBe('completed');
    expect(codeOf((await scene.types('wren', '!late 2')).outcome)).toBe('requirement.failed');
    expect(codeOf((await scene.types('wren', '!broken')).outcome)).toBe('callback.failed');
  });
});

test('several wrong arguments are told together, with usage and an example', async () => {
  const { posts } = await (
    await sceneOf([
      command({
        ...described,
        name: 'fine',
        args: {
          who: arg.member(),
          pence: arg.integer({ min: 1, max: 500 }),
          tool: arg.text({ optional: true }),
          quiet: arg.boolean({ flag: true }),
        },
      }),
    ])
  ).types('ines', '!fine zed 10abc');
  expect(posts[0]?.notice).toEqual({
    tone: 'problem',
    body: [
      '“who” takes a person here, by mention or name; “zed” is not that.',
      '“pence” takes a whole number from 1 to 500; “10abc” is not that.',
    ].join('\n'),
    details: ['Usage: !fine <who> <pence> [tool] [--quiet]', 'Example: !fine @ines 1'],
  });
});

test('an excess that is capped is told to the caller, whatever the handler answers', async () => {
  const args = {
    pence: arg.integer({ max: 500, cap: true }),
    keep: arg.duration({ max: '12d', cap: true, default: '3d' }),
  };
  const scene = await sceneOf([
    command({ ...described, name: 'quiet', args, run: () => undefined }),
    command({
      ...described,
      name: 'loud',
      args,
      run: ({ args: { pence, keep } }) => ({ body: `${pence} ${keep}`, details: ['one'] }),
    }),
  ]);
  const [quiet] = (await scene.types('wren', '!quiet 900')).posts;
  expect(quiet?.notice.details).toEqual(['“pence” is lowered to 500, the most there may be.']);
  const [loud] = (await scene.types('wren', '!loud 900 20d')).posts;
  expect(loud?.notice).toMatchObject({
    body: '500 1036800000',
    details: [
      'one',
      '“pence” is lowered to 500, the most there may be.',
      '“keep” is lowered to 12 days, the most there may be.',
    ],
  });
});

test('what a value is lowered to is told whole, as the reader’s language writes it', async () => {
  const args = { length: arg.number({ max: 1234.56789, cap: true }) };
  const cut = command({ ...described, name: 'cut', args });
  const scene = await sceneOf([cut], { languages: [polish()] });
  for (const [locale, most] of [
    ['en', '1,234.56789'],
    ['pl', '1234,56789'],
  ] as const) {
    const typed = scene.platform.typed({ person: 'wren', place: 'oddmere', text: '!cut 9999', locale });
    expect((await scene.platform.send(typed)).posts[0]?.notice.details?.[0]).toContain(` ${most}`);
  }
});
