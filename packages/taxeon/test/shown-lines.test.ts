/** Every line that is shown is read back where it is made, for who reads it, or left out. */
import { type Arg, arg, type Command, command, misread } from 'taxeon';
import { complete, helpOf, lineFor, referenceOf } from 'taxeon/queries';
import { manifestOf } from 'taxeon/registration';
import { describe, expect, test } from 'vitest';
import { everyKind } from '../../../test/support/kinds.js';
import { codeOf, type Scene, sceneOf } from '../../../test/support/oddmere.js';

const described = { description: 'Something' };

interface Builder {
  readonly caller: { outranks(argument: string, options?: object): unknown };
}

const act = (value: Arg<unknown>, more: object = {}) =>
  command({ ...described, name: 'act', args: { value }, run: () => 'Done.', ...more }) as Command;

/** What a line comes to, typed at the counter. */
const reads = async (scene: Scene, line: string, by = 'wren') => codeOf((await scene.types(by, line)).outcome);

async function detailsOf(scene: Scene, line: string, by = 'wren'): Promise<string> {
  const { outcome } = await scene.types(by, line);
  const { notice } = (outcome as { reply?: { notice: { body: string; details?: readonly string[] } } }).reply ?? {};
  return [notice?.body, ...(notice?.details ?? [])].join('\n');
}

const examplesIn = (text: string) => [...text.matchAll(/^Example: (.*)$/gm)].map(([, line]) => line ?? '');

/** With words that need quotes, signs of the line's own, and what looks like a flag. */
const awkward = ['hedge trimmer', 'two  spaces', '-5 lathe', "don't", '“low”', 'a, b', '--', 'back\\slash'];
const kinds: readonly (readonly [string, Arg<unknown>])[] = [
  ...everyKind,
  ...awkward.map((label) => [`choice of ${label}`, arg.choice([label, `${label}s`])] as const),
  ['list of awkward choices', arg.list(arg.choice(awkward as [string, ...string[]]))],
];

describe.each(kinds)('%s', (_, value) => {
  test('every example of a refusal and of help reads', async () => {
    const scene = await sceneOf([act(value)]);
    const examples = examplesIn(await detailsOf(scene, '!act'));
    const input = scene.platform.typed({ person: 'wren', place: 'oddmere/counter', text: '!x' });
    const help = await helpOf(scene.layer, input, 'act', scene.platform);
    for (const line of [...examples, ...(help.kind === 'command' ? help.examples : [])]) {
      expect([line, await reads(scene, line)]).toEqual([line, 'completed']);
    }
  });

  test('it is in the manifest, and what is written for a value reads back as the same', async () => {
    const commandOf = act(value);
    const scene = await sceneOf([commandOf]);
    const [form] = manifestOf(scene.layer).commands;
    const option = form?.arguments?.properties?.['value'];
    expect(option).toMatchObject({ type: expect.any(String) });
    const { outcome } = await scene.types('wren', examplesIn(await detailsOf(scene, '!act'))[0] ?? '!act');
    if (outcome.status !== 'completed' || value.kind.write === undefined) return;
    const line = lineFor(scene.layer, commandOf, outcome.args, scene.platform);
    expect((await scene.types('wren', `!${line}`)).outcome).toMatchObject({ args: outcome.args });
  });

  test('every value that is suggested reads, in a line and as an option', async () => {
    const scene = await sceneOf([act(value)]);
    const text = '!act ';
    const typed = scene.platform.typed({ person: 'wren', place: 'oddmere/counter', text });
    for (const one of await complete(scene.layer, typed, text.length, scene.platform)) {
      if (one.kind !== 'value') continue;
      const line = text.slice(0, one.start) + one.text;
      expect([line, await reads(scene, line)]).toEqual([line, 'completed']);
    }
    const invoked = scene.platform.invoked({
      person: 'wren',
      place: 'oddmere/counter',
      path: ['act'],
      options: { value: '' },
    });
    for (const { text: option } of await complete(scene.layer, invoked, 'value', scene.platform)) {
      const { outcome } = await scene.invokes('wren', 'act', { value: option });
      expect([option, codeOf(outcome)]).toEqual([option, 'completed']);
    }
  });
});

test.each(awkward)('a near label is told as it is to be typed: %s', async (label) => {
  const scene = await sceneOf([act(arg.choice([label, 'something quite different']))]);
  const told = await detailsOf(scene, `!act "${label.replace(/["\\]/g, '\\$&')}x"`);
  const [, near = ''] = /Did you mean (.*)\?/.exec(told) ?? [];
  expect([near, await reads(scene, `!act ${near}`)]).toEqual([near, 'completed']);
  const { outcome } = await scene.invokes('wren', 'act', { value: `${label}x` });
  expect(outcome).toMatchObject({ parameters: { near: [label] } });
});

describe('what does not read is not suggested', () => {
  const numbered = arg.text({ ...described, max: 4, complete: () => ['1234', 'attic', '5678'] });

  test('by a function of the bot’s own', async () => {
    const scene = await sceneOf([act(numbered)]);
    const typed = scene.platform.typed({ person: 'wren', place: 'oddmere/counter', text: '!act ' });
    const offered = await complete(scene.layer, typed, 5, scene.platform);
    expect(offered.map(({ text }) => text)).toEqual(['1234', '5678']);
    const invoked = scene.platform.invoked({ person: 'wren', place: 'oddmere/counter', path: ['act'], options: {} });
    const options = await complete(scene.layer, invoked, 'value', scene.platform);
    expect(options.map(({ text }) => text)).toEqual(['1234', '5678']);
  });

  test('a list goes on, though it is too short so far', async () => {
    const pair = arg.list(arg.choice(['lathe', 'welder']), { min: 2 });
    const scene = await sceneOf([act(pair)]);
    const typed = scene.platform.typed({ person: 'wren', place: 'oddmere/counter', text: '!act ' });
    expect((await complete(scene.layer, typed, 5, scene.platform)).map(({ text }) => text)).toEqual([
      'lathe',
      'welder',
    ]);
  });

  test('from ten thousand that do not read, nothing, and soon', async () => {
    let asked = 0;
    const never = arg.custom(
      {
        name: 'shelf',
        expected: 'a shelf',
        example: 'attic',
        read() {
          asked += 1;
          return misread('no such shelf');
        },
      },
      { ...described, complete: () => Array.from({ length: 10_000 }, (_, n) => `shelf-${n}`) },
    );
    const scene = await sceneOf([act(never)]);
    const typed = scene.platform.typed({ person: 'wren', place: 'oddmere/counter', text: '!act ' });
    expect(await complete(scene.layer, typed, 5, scene.platform)).toEqual([]);
    expect(asked).toBeLessThanOrEqual(500);
  });
});

test('help by slash shows no line, since nobody types one there', async () => {
  const scene = await sceneOf([act(arg.choice(['lathe', 'welder']))]);
  const at = { person: 'wren', place: 'oddmere/counter' };
  const slash = scene.platform.invoked({ ...at, path: ['act'], options: {} });
  expect(await helpOf(scene.layer, slash, 'act', scene.platform)).toMatchObject({ examples: [] });
  const text = scene.platform.typed({ ...at, text: '!x' });
  expect(await helpOf(scene.layer, text, 'act', scene.platform)).toMatchObject({ examples: ['!act lathe'] });
});

describe('whoever reads it', () => {
  const praise = act(arg.member(), { in: 'guild' });

  test('is named in an example where that reads, and is not where the platform does not know them', async () => {
    const scene = await sceneOf([praise]);
    expect(examplesIn(await detailsOf(scene, '!act'))).toEqual(['!act @wren']);
    const { directory } = scene.platform;
    Object.assign(directory, { member: () => undefined, membersNamed: () => [] });
    expect(examplesIn(await detailsOf(scene, '!act'))).toEqual([]);
  });

  test('is suggested where they may be named, and the bot is not', async () => {
    const suggested = async (command: Command) => {
      const scene = await sceneOf([command]);
      const typed = scene.platform.typed({ person: 'wren', place: 'oddmere/counter', text: '!act ' });
      return (await complete(scene.layer, typed, 5, scene.platform)).map(({ text }) => text);
    };
    const own = act(arg.member(), { requires: ({ caller }: Builder) => [caller.outranks('value', { orSelf: true })] });
    const others = act(arg.member(), { requires: ({ caller }: Builder) => [caller.outranks('value')] });
    expect(await suggested(own)).toContain('Wren');
    expect(await suggested(others)).not.toContain('Wren');
    for (const one of [own, others]) expect(await suggested(one)).not.toContain('Mallet');
    expect(await suggested(act(arg.member({ orBot: true })))).toContain('Mallet');
  });

  test('is nobody where commands are written down for all', async () => {
    const scene = await sceneOf([praise]);
    const { place } = scene.platform.typed({ person: 'wren', place: 'oddmere/counter', text: 'x' });
    for (const as of [undefined, 'steward']) {
      const reference = await referenceOf(scene.layer, place as never, scene.platform, as === undefined ? {} : { as });
      expect(reference.sections.flatMap(({ commands }) => commands.flatMap(({ examples }) => examples))).toEqual([]);
    }
  });
});
