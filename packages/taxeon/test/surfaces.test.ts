import { type Call, command } from 'taxeon';
import { keepNatives } from 'taxeon/platform';
import { describe, expect, test } from 'vitest';
import { codeOf, gist, oddmere, sceneOf } from '../../../test/support/oddmere.js';

interface Row {
  readonly by?: string;
  readonly text: string;
  readonly slash: readonly [name: string, options?: Record<string, unknown>];
  readonly at?: string;
  readonly expected: string;
}

const rows: readonly Row[] = [
  { text: '!borrow drill', slash: ['borrow', { tool: 'drill' }], expected: 'completed' },
  {
    text: '!borrow "hedge trimmer" 2 days',
    slash: ['borrow', { tool: 'hedge trimmer', keep: '2 days' }],
    expected: 'completed',
  },
  {
    text: '!borrow drill 1h30m for a shelf',
    slash: ['borrow', { tool: 'drill', keep: '1h30m', note: 'for a shelf' }],
    expected: 'completed',
  },
  { text: '!TAKE drill', slash: ['take', { tool: 'drill' }], expected: 'completed' },
  { text: '!borrow drill 20d', slash: ['borrow', { tool: 'drill', keep: '20d' }], expected: 'argument.invalid' },
  { text: '!borrow drill 5m', slash: ['borrow', { tool: 'drill', keep: '5m' }], expected: 'argument.invalid' },
  { text: '!borrow', slash: ['borrow'], expected: 'argument.missing' },
  { text: '!borrow drum', slash: ['borrow', { tool: 'drum' }], expected: 'argument.invalid' },
  { text: '!borow drill', slash: ['borow', { tool: 'drill' }], expected: 'command.unknown' },
  { text: '!shelf', slash: ['shelf'], expected: 'completed' },
  { text: '!shelf Power', slash: ['shelf', { kind: 'Power' }], expected: 'completed' },
  { text: '!shelf pwoer', slash: ['shelf', { kind: 'pwoer' }], expected: 'argument.invalid' },
  { text: '!fine tobias 50', slash: ['fine', { who: 'tobias', pence: 50 }], expected: 'completed' },
  { text: '!fine @tobias 50', slash: ['fine', { who: '@tobias', pence: '50' }], expected: 'completed' },
  {
    text: '!fine Tob 50 "hedge trimmer"',
    slash: ['fine', { who: 'Tob', pence: 50, tool: 'hedge trimmer' }],
    expected: 'completed',
  },
  { text: '!fine tobias 10abc', slash: ['fine', { who: 'tobias', pence: '10abc' }], expected: 'argument.invalid' },
  { text: '!fine tobias 0', slash: ['fine', { who: 'tobias', pence: 0 }], expected: 'argument.invalid' },
  { text: '!fine tobias 501', slash: ['fine', { who: 'tobias', pence: 501 }], expected: 'argument.invalid' },
  { text: '!fine tobias 1.5', slash: ['fine', { who: 'tobias', pence: 1.5 }], expected: 'argument.invalid' },
  { text: '!fine nobody 50', slash: ['fine', { who: 'nobody', pence: 50 }], expected: 'argument.invalid' },
  { text: '!fine tobias', slash: ['fine', { who: 'tobias' }], expected: 'argument.missing' },
  { by: 'tobias', text: '!fine wren 50', slash: ['fine', { who: 'wren', pence: 50 }], expected: 'permission.caller' },
  { text: '!fine ines 50', slash: ['fine', { who: 'ines', pence: 50 }], expected: 'permission.rank' },
  { text: '!fine odalys 50', slash: ['fine', { who: 'odalys', pence: 50 }], expected: 'permission.rank' },
  { text: '!fine mallet 50', slash: ['fine', { who: 'mallet', pence: 50 }], expected: 'permission.target' },
  {
    text: '?fine pim 50',
    slash: ['fine', { who: 'pim', pence: 50 }],
    at: 'pellbrook/bench',
    expected: 'argument.invalid',
  },
  {
    text: '?induct wren lathe',
    slash: ['induct', { who: 'wren', skill: 'lathe' }],
    at: 'pellbrook/bench',
    expected: 'permission.bot',
  },
  { text: '!borrow drill', slash: ['borrow', { tool: 'drill' }], at: 'direct', expected: 'place.wrong' },
];

describe('the same call by text and by slash gives the same command, arguments, status, code and parameters', () => {
  for (const { by = 'ines', text, slash, at = 'oddmere/counter', expected } of rows) {
    test(`${by}: ${text} is ${expected}`, async () => {
      const byText = await (await oddmere()).types(by, text, at);
      const bySlash = await (await oddmere()).invokes(by, slash[0], slash[1], at);
      expect(codeOf(byText.outcome)).toBe(expected);
      expect(gist(bySlash.outcome)).toEqual(gist(byText.outcome));
    });
  }
});

describe('the console reads lines as text does', () => {
  const lines: [string, string][] = [
    ['shelf power', 'completed'],
    ['!shelf power', 'completed'],
    ['shelf pwoer', 'argument.invalid'],
    ['shelf power now', 'argument.extra'],
    ['sehlf', 'command.unknown'],
    ['borrow drill', 'place.wrong'],
  ];
  test.each(lines)('%s is %s', async (line, expected) => {
    expect(codeOf((await (await oddmere()).console(line)).outcome)).toBe(expected);
  });
});

test('the console is answered even where a name is unknown to all', async () => {
  const scene = await oddmere();
  expect((await scene.console('anvil')).posts).toHaveLength(1);
  expect((await scene.invokes('ines', 'anvil')).posts).toHaveLength(1);
});

test('on text an unknown name that is like none of ours may be meant for another bot', async () => {
  const scene = await oddmere();
  const { outcome, posts } = await scene.types('ines', '!anvil');
  expect(codeOf(outcome)).toBe('command.unknown');
  expect(posts).toEqual([]);
});

test('a refusal by slash is seen by its caller alone, on text by everyone', async () => {
  const scene = await oddmere();
  expect((await scene.invokes('pim', 'borrow', { tool: 'drill' })).posts[0]?.visibleTo).toBe('pim');
  expect((await scene.types('pim', '!borrow drill')).posts[0]?.visibleTo).toBe('everyone');
});

test('each guild has its own prefix', async () => {
  const scene = await oddmere();
  expect((await scene.types('ines', '!shelf', 'pellbrook/bench')).outcome.status).toBe('ignored');
  expect((await scene.types('ines', '?shelf', 'pellbrook/bench')).posts[0]?.notice.body).toContain('soldering iron');
});

test('a handler has the platform’s own object, through a spread, and nobody else’s', async () => {
  const { keep, nativeOf } = keepNatives<{ readonly line: string }>();
  const other = keepNatives<object>();
  const seen: unknown[] = [];
  const lamp = command({
    name: 'lamp',
    description: 'Light the lamp',
    run(call) {
      const spread: Call = { ...call };
      seen.push(nativeOf(call), nativeOf(spread), other.nativeOf(call));
    },
  });
  const { layer, platform } = await sceneOf([lamp]);
  const input = platform.typed({ person: 'ines', place: 'oddmere/counter', text: '!lamp' });
  const native = { line: ':ines!ines@oddmere.example PRIVMSG #counter :!lamp' };
  expect((await layer.handle(keep(input, native), platform)).status).toBe('completed');
  expect(seen).toEqual([native, native, undefined]);
  expect(seen[0]).toBe(native);
  expect(nativeOf({} as never)).toBeUndefined();
});
