/** Lists: what stands between their values, what may stand there once, and completing them. */
import { type Arg, arg, type Command, command } from 'taxeon';
import { complete } from 'taxeon/queries';
import { describe, expect, test } from 'vitest';
import * as z from 'zod';
import { codeOf, sceneOf } from '../../../test/support/oddmere.js';

const described = { description: 'Something' };
const act = (values: Arg<unknown>, more: Record<string, Arg<unknown>> = {}) =>
  command({ ...described, name: 'act', args: { values, ...more }, run: () => 'Done.' }) as Command;

const valuesOf = async (values: Arg<unknown>, line: string) => {
  const { outcome } = await (await sceneOf([act(values)])).types('ines', line);
  return outcome.status === 'completed' ? outcome.args?.['values'] : codeOf(outcome);
};

test('a word between texts is left out, and kept in quotes', async () => {
  const texts = arg.list(arg.text());
  expect(await valuesOf(texts, '!act red, green and blue')).toEqual(['red', 'green', 'blue']);
  expect(await valuesOf(texts, '!act red & green')).toEqual(['red', 'green']);
  expect(await valuesOf(texts, '!act rock "and" roll')).toEqual(['rock', 'and', 'roll']);
  expect(await valuesOf(texts, '!act and')).toEqual(['and']);
});

describe('a list of what may stand there once', () => {
  const rows: [string, Arg<unknown>, string, string, string][] = [
    ['numbers', arg.integer(), '1, 2, 3', '1, 2, 1', '1'],
    ['people, however they are named', arg.member(), 'wren, tobias', 'wren, tobias, @wren', '@\u2060wren'],
    [
      'things',
      arg.choice(() => [{ name: 'hedge trimmer' }, { name: 'drill' }], { name: ({ name }) => name }),
      'hedge trimmer, drill',
      'hedge, hedge trimmer',
      'hedge trimmer',
    ],
    ['moments', arg.datetime(), 'tomorrow 9:00, tomorrow 10:00', 'tomorrow 9:00, tomorrow 9:00', 'tomorrow 9:00'],
    [
      'addresses',
      arg.url(),
      'https://oddmere.example/a https://oddmere.example/b',
      'https://oddmere.example https://oddmere.example/',
      'https:/\u2060/oddmere\u2060.example/',
    ],
  ];
  test.each(rows)('%s', async (_, item, right, wrong) => {
    const list = arg.list(item as Arg<unknown, 'x'>, { unique: true });
    expect(await valuesOf(list, `!act ${right}`)).toHaveLength(right.split(/, | (?=https)/).length);
    expect(await valuesOf(list, `!act ${wrong}`)).toBe('argument.extra');
    expect(await valuesOf(arg.list(item as Arg<unknown, 'x'>), `!act ${wrong}`)).toHaveLength(
      wrong.split(/, | (?=https)/).length,
    );
  });

  test('is told by what was typed, and where', async () => {
    const scene = await sceneOf([act(arg.list(arg.integer(), { unique: true }))]);
    const { outcome } = await scene.types('ines', '!act 1, 2, 1');
    expect(outcome).toMatchObject({
      parameters: { argument: 'values', read: '1', because: 'twice' },
      problems: [{ span: { start: 11, end: 12 } }],
    });
    const { body } = (outcome as unknown as { reply: { notice: { body: string } } }).reply.notice;
    expect(body).toBe('“1” stands twice; once is enough.');
  });
});

describe('completing a list on slash', () => {
  const things = arg.choice(() => ['hedge trimmer', 'drill', 'drill press', "o'clock"]);

  test('goes on behind a comma, without what is there, and reads when chosen', async () => {
    const scene = await sceneOf([act(arg.list(things))]);
    const at = { person: 'ines', place: 'oddmere/counter', path: ['act'] };
    for (const [typed, expected] of [
      ['', ['hedge trimmer', 'drill', 'drill press', "o'clock"]],
      ['hed', ['hedge trimmer']],
      ['hedge trimmer, ', ['drill', 'drill press', "o'clock"]],
      ['hedge trimmer,dr', ['drill', 'drill press']],
      ['drill, hedge trimmer, drill p', ['drill press']],
    ] as const) {
      const input = scene.platform.invoked({ ...at, options: { values: typed } });
      const offered = await complete(scene.layer, input, 'values', scene.platform);
      expect([typed, offered.map(({ label }) => label)]).toEqual([typed, expected]);
      for (const { text } of offered) {
        const { outcome } = await scene.invokes('ines', 'act', { values: text });
        expect([text, outcome.status]).toEqual([text, 'completed']);
        const count = typed.split(',').length;
        expect(outcome).toMatchObject({ args: { values: { length: count } } });
      }
    }
  });
});

test('a member by mention alone is no name on slash either', async () => {
  const scene = await sceneOf([act(arg.member({ by: 'mention' }))]);
  const code = async (value: string) => codeOf((await scene.invokes('ines', 'act', { values: value })).outcome);
  expect(await code('@tobias')).toBe('completed');
  expect(await code('tobias')).toBe('completed');
  expect(await code('Tobias')).toBe('argument.invalid');
  expect(await code('Tob')).toBe('argument.invalid');
  const input = scene.platform.invoked({
    person: 'ines',
    place: 'oddmere/counter',
    path: ['act'],
    options: { values: 'To' },
  });
  for (const { text } of await complete(scene.layer, input, 'values', scene.platform))
    expect(await code(text)).toBe('completed');
});

test('a validator’s own sentence is said, cleaned', async () => {
  const rows: [string, string][] = [
    ['Give an address.', '“values”: Give an address.'],
    ['No  such\u202e address', '“values”: No such address.'],
  ];
  for (const [said, expected] of rows) {
    const scene = await sceneOf([act(arg.schema(z.string().refine(() => false, said)))]);
    const { outcome } = await scene.types('ines', '!act x');
    expect((outcome as unknown as { reply: { notice: { body: string } } }).reply.notice.body).toBe(expected);
  }
});

test('a name with a sign that nobody sees is found, also where it is the longest', async () => {
  const names = ['hedge', 'hed\u200bge trim\u00admer'];
  for (const choice of [arg.choice(names), arg.choice(() => names)]) {
    const read = async (line: string) => valuesOf(choice, line);
    expect(await read('!act hedge trimmer')).toBe(names[1]);
    expect(await read('!act hedge')).toBe(names[0]);
    expect(await read('!act hedge\u200b trim\u200bmer')).toBe(names[1]);
  }
});

// Four minutes, where each time all that were before it are copied.
test('a flag that is given a hundred thousand times is read at once', { timeout: 30_000 }, async () => {
  const list = arg.list(arg.integer(), { flag: true, optional: true, max: 3 });
  const scene = await sceneOf([act(list, { days: arg.integer({ flag: true, optional: true }) })]);
  for (const flag of ['--values=1 ', '--days=3 ', '--days 3 ', '--nothing=1 ']) {
    const { outcome } = await scene.types('ines', `!act ${flag.repeat(900_000 / flag.length)}`);
    expect([flag, codeOf(outcome)]).toEqual([flag, expect.stringMatching(/^argument\./)]);
  }
});
