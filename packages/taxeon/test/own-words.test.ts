import {
  type Actor,
  arg,
  command,
  createCommandLayer,
  group,
  hasCode,
  type LayerOptions,
  type Outcome,
  type RefusalHook,
  refuse,
} from 'taxeon';
import { askInChat } from 'taxeon/asking';
import type { Reply } from 'taxeon/platform';
import { describe, expect, expectTypeOf, test } from 'vitest';
import { codeOf, oddmereData, sceneOf, silentLog } from '../../../test/support/oddmere.js';

const described = { description: 'x', run: () => 'The lamp is lit.' };

/** What is said first, to whom, for how long in milliseconds. */
async function saidTo(layer: Partial<LayerOptions>, own: object, text: string, ofGroup: object = {}) {
  const lamp = command({
    ...described,
    name: 'lamp',
    args: { n: arg.integer({ optional: true }) },
    cooldowns: { user: '1h' },
    run: ({ args }) => (args.n === 7 ? refuse('lamp.broken', 'It is broken.') : 'The lamp is lit.'),
    ...own,
  });
  const shed = group({ ...ofGroup, name: 'shed', description: 'x', commands: [lamp] });
  const scene = await sceneOf([shed], layer);
  await scene.types('wren', '!shed lamp');
  const { outcome } = await scene.types('wren', text);
  const { reply } = outcome as { readonly reply?: Reply };
  const { body, details = [] } = reply?.notice ?? {};
  return [codeOf(outcome), body, reply?.visibleTo, reply?.expiresInMs ?? 'stays', details] as const;
}

describe('what is said for a code', () => {
  test('has its own words, expiry and visibility on one command', async () => {
    const own = {
      messages: {
        'cooldown.active': 'Not yet.',
        'argument.invalid': 'A number, please.',
        'argument.extra': 'Too much.',
      },
      manners: { 'cooldown.active': { expires: '5s' }, 'argument.*': { usage: false, expires: '9s' } },
    };
    expect(await saidTo({}, own, '!shed lamp')).toEqual(['cooldown.active', 'Not yet.', 'everyone', 5000, []]);
    expect(await saidTo({}, own, '!shed lamp x')).toEqual(['argument.extra', 'Too much.', 'everyone', 9000, []]);
    expect(await saidTo({}, own, '!shed lamp 1 2')).toEqual(['argument.extra', 'Too much.', 'everyone', 9000, []]);
  });

  test('is what layer, group and command say, field by field, the innermost first', async () => {
    const layer = {
      manners: { 'cooldown.active': { visibleTo: 'everyone', expires: '1m' }, 'lamp.broken': { expires: '7s' } },
    } as const;
    const ofGroup = { manners: { 'cooldown.*': { expires: 'never' } } };
    expect(await saidTo(layer, {}, '!shed lamp')).toEqual([
      'cooldown.active',
      expect.any(String),
      'everyone',
      60_000,
      [],
    ]);
    expect(await saidTo(layer, {}, '!shed lamp', ofGroup)).toEqual([
      'cooldown.active',
      expect.any(String),
      'everyone',
      'stays',
      [],
    ]);
    const own = { manners: { 'cooldown.active': { visibleTo: 'caller' } } };
    expect(await saidTo(layer, own, '!shed lamp', ofGroup)).toEqual([
      'cooldown.active',
      expect.any(String),
      'caller',
      'stays',
      [],
    ]);
    const free = { cooldowns: { user: '5 in 1m' } };
    expect(await saidTo(layer, free, '!shed lamp 7')).toEqual(['lamp.broken', 'It is broken.', 'everyone', 7000, []]);
    expect(await saidTo({}, free, '!shed lamp 7')).toEqual(['lamp.broken', 'It is broken.', 'everyone', 'stays', []]);
  });

  const wrong: [string, object, string][] = [
    [
      'a code that is almost one',
      { 'cooldown.actve': {} },
      'manners.cooldown.actve: there is no such field; write cooldown.active',
    ],
    ['a family that is almost one', { 'argumnt.*': {} }, 'manners.argumnt.*: there is no such field; write argument.*'],
    [
      'a field that there is not',
      { 'tool.out': { expire: '5s' } },
      'manners.tool.out.expire: there is no such field; write expires',
    ],
    ['a number without unit', { 'tool.out': { expires: 5 } }, 'manners.tool.out.expires: is 5; give'],
    [
      'all codes at once',
      { '*': {} },
      "manners.*: is no code; write one such as 'tool.out', or a family such as 'argument.*'",
    ],
    ['a word', { argument: {} }, 'manners.argument: '],
    ['a text', { 'tool.out': 'private' }, 'manners.tool.out: is "private"; give an object'],
  ];
  test.each(wrong)('%s is a problem of the declaration, on layer, group and command', (_, manners, expected) => {
    const given = { manners } as never;
    const lamp = command({ ...described, name: 'lamp' });
    const making = [
      () => createCommandLayer({ commands: [lamp], prefixes: ['!'], ...(given as object) }),
      () => createCommandLayer({ commands: [command({ ...described, name: 'lamp', ...(given as object) })] }),
      () =>
        createCommandLayer({
          commands: [group({ name: 'shed', description: 'x', commands: [lamp], ...(given as object) })],
        }),
    ];
    for (const make of making) expect(make).toThrow(expected);
  });
});

describe('onRefusal', () => {
  const hooked = (onRefusal: RefusalHook) => saidTo({ onRefusal }, {}, '!shed lamp x');

  test('says to whom and for how long, too, and else leaves it as it would be', async () => {
    expect(await hooked(() => ({ body: 'No.', visibleTo: 'everyone', expires: '8s' }))).toEqual([
      'argument.extra',
      'No.',
      'everyone',
      8000,
      [],
    ]);
    expect(await hooked(() => 'No.')).toEqual(['argument.extra', 'No.', 'everyone', 'stays', []]);
    const cooled = await saidTo({ onRefusal: () => 'No.' }, {}, '!shed lamp');
    expect(cooled).toEqual(['cooldown.active', 'No.', 'everyone', 20_000, []]);
  });

  test('mentions whom it names', async () => {
    const scene = await sceneOf([command({ ...described, name: 'lamp' })], {
      onRefusal: (_, { mention, caller }) => `Look here, ${mention(caller)}.`,
    });
    const { outcome } = await scene.types('wren', '!lamp more');
    expect(outcome).toMatchObject({ reply: { mentions: ['wren'] } });
  });

  test('is told parameters by code', () => {
    const hook: RefusalHook = (refusal) => {
      if (refusal.by === 'layer' && refusal.code === 'cooldown.active')
        expectTypeOf(refusal.parameters.retryAfterMs).toEqualTypeOf<number>();
      if (refusal.by === 'handler') expectTypeOf(refusal.parameters.reason).toEqualTypeOf<string>();
      return hasCode(refusal, 'argument.invalid') ? `not ${refusal.parameters.read}` : undefined;
    };
    expect(hook).toBeTypeOf('function');
  });
});

test('an outcome is narrowed by its code, and so are its parameters', async () => {
  const scene = await sceneOf([command({ ...described, name: 'lamp', cooldowns: { user: '1h' } })]);
  await scene.types('wren', '!lamp');
  const outcome: Outcome = (await scene.types('wren', '!lamp')).outcome;
  expect(hasCode(outcome, 'cooldown.active') && outcome.parameters.endsAt).toBe(scene.clock.now() + 3_600_000);
  expect(hasCode(outcome, 'running.full')).toBe(false);
  expect(hasCode((await scene.types('wren', 'hello')).outcome, 'cooldown.active')).toBe(false);
});

describe('usage stands under what an argument is to blame for, and under nothing else:', () => {
  const lamp = command({
    ...described,
    name: 'lamp',
    args: { n: arg.integer(), words: arg.tail({ optional: true }) },
    requires: ({ condition }) => [
      condition('the shed is open', ({ args }) => args['n'] !== 3 || 'The shed is closed.'),
    ],
    together: ({ n }, blame) => (n === 4 ? blame('n', 'Not four.') : undefined),
  });
  test.each([
    ['!lamp', 'argument.missing', true],
    ['!lamp x', 'argument.invalid', true],
    ['!lamp 4', 'requirement.failed', true],
    ['!lamp 3', 'requirement.failed', false],
    ['!lamp "3', 'input.malformed', false],
  ])('%s', async (text, code, hasUsage) => {
    const scene = await sceneOf([lamp]);
    const { outcome, posts } = await scene.types('wren', text);
    const usage = posts[0]?.notice.details?.some((line) => line.startsWith('Usage: '));
    expect([codeOf(outcome), usage ?? false]).toEqual([code, hasUsage]);
  });
});

test('whoever calls can be mentioned and told: what is no person is named, and unreachable', async () => {
  const told: unknown[] = [];
  const lamp = command({
    name: 'lamp',
    description: 'x',
    run: async ({ caller, mention, tell }) => {
      const whom: Actor = caller;
      told.push([mention(whom), await tell(whom, 'It is lit.')]);
    },
  });
  const data = oddmereData();
  const scene = await sceneOf([lamp], { log: silentLog });
  await scene.console('lamp');
  await scene.layer.invoke(lamp, { as: 'night watch', args: {}, platform: scene.platform });
  await scene.types('wren', '!lamp');
  expect(told).toEqual([
    ['console', 'unreachable'],
    ['night watch', 'unreachable'],
    ['@wren', 'delivered'],
  ]);
  expect(data.world.people.map(({ id }) => id)).toContain('wren');
});

describe('own words of an argument', () => {
  const tool = arg.choice(['lathe', 'drill'], {
    description: 'Which tool',
    messages: {
      'argument.missing': 'Say which tool.',
      'argument.invalid': ({ read }, { locale }) => (read === 'saw' ? `No saws (${locale}).` : (undefined as never)),
    },
    question: ({ locale }) => `Which tool? (${locale})`,
  });
  const ofCommand = { 'argument.missing': 'Something is missing.', 'argument.invalid': 'Something is wrong.' };
  const lend = (messages: object = {}) =>
    command({
      ...described,
      name: 'lend',
      args: { tool, pence: arg.integer({ max: 9 }) },
      messages,
      run: () => 'Lent.',
    });
  const bodyOf = async (line: string, messages?: object, options: object = {}) => {
    const { outcome } = await (await sceneOf([lend(messages)], options)).types('wren', line);
    return (outcome as { reply: { notice: { body: string } } }).reply.notice.body;
  };

  test('count before the command’s, for this argument alone', async () => {
    expect(await bodyOf('!lend', ofCommand)).toBe('Say which tool.\nSomething is missing.');
    expect(await bodyOf('!lend saw 3', ofCommand)).toBe('No saws (en).');
  });

  test('that give nothing leave it to the command’s, and these to the usual', async () => {
    expect(await bodyOf('!lend axe 3', ofCommand)).toBe('Something is wrong.');
    expect(await bodyOf('!lend axe 3')).toContain('takes one of lathe or drill');
    expect(await bodyOf('!lend lathe', { 'argument.missing': () => undefined })).toContain('“pence” is missing');
  });

  test('the same words for several problems are said once', async () => {
    const words = { 'argument.invalid': 'Write it so: lend TOOL PENCE.' };
    expect(await bodyOf('!lend axe 20', words)).toBe('Write it so: lend TOOL PENCE.');
  });

  test('it is asked for in the bot’s words', async () => {
    const asking = askInChat({ whenMissing: 'ask' });
    expect(await bodyOf('!lend', {}, { asking })).toBe('Which tool? (en)');
  });

  const wrong: [string, object, string][] = [
    ['a code that is not about it', { 'cooldown.active': 'no' }, 'n.messages.cooldown.active: there is no such field'],
    [
      'a code that is almost one',
      { 'argument.invald': 'no' },
      'n.messages.argument.invald: there is no such field; write argument.invalid',
    ],
    ['no words', { 'argument.invalid': 7 }, 'n.messages.argument.invalid: is 7; give a text or a function'],
  ];
  test.each(wrong)('%s is a problem of the declaration', (_, messages, expected) => {
    const n = arg.integer({ messages: messages as never });
    expect(() =>
      createCommandLayer({ commands: [command({ ...described, name: 'a', args: { n }, run() {} })] }),
    ).toThrow(expected);
  });
});
