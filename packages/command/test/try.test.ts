import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { describe, expect, test } from 'vitest';
import { until } from '../../../test/support/programs.js';
import { folderOf } from './support.js';

/** A shed with a lamp and a key, on the simulated platform. */
const config = `import { arg, command, createCommandLayer, refuse } from 'taxeon';
import { askInChat } from 'taxeon/asking';
import { defineConfig, standIn } from '@taxeon/testing';

const world = {
  bot: { id: 'mallet', name: 'Mallet' },
  permissions: ['fine'],
  people: [{ id: 'ines', name: 'Ines' }, { id: 'pim', name: 'Pim' }],
  guilds: ['oddmere', 'pellbrook'].map((id) => ({
    id, name: id, channels: ['counter', 'shed'], roles: [{ name: 'steward', rank: 3, permissions: ['fine'] }],
    members: { mallet: [], ines: ['steward'], pim: [] },
  })),
};

export default defineConfig({
  open(given) {
    let lit = 0;
    let isOpen = true;
    const commands = [
      command({
        name: 'lamp',
        description: 'Light the lamp',
        args: { n: arg.integer({ max: 5, optional: true }) },
        cooldowns: { user: '2 in 10m' },
        run({ args: { n = 1 } }) {
          if (!isOpen) return refuse('shed.closed', 'The shed is closed.');
          lit += n;
          return 'The lamp is lit.';
        },
      }),
      command({
        name: 'tell',
        description: 'Tell somebody',
        in: 'guild',
        args: { who: arg.member(), text: arg.tail() },
        requires: ({ caller }) => [caller.can('fine')],
        async run({ args, tell, post, reply }) {
          const said = await reply('Telling …');
          await tell(args.who, args.text);
          await post({ id: 'oddmere/shed', name: '#shed' }, 'Somebody was told.');
          await said.edit('Told.');
        },
      }),
      command({ name: 'ask', description: 'Ask', args: { what: arg.text() }, whenMissing: 'ask', run: ({ args }) => args.what }),
    ];
    return {
      layer: createCommandLayer({ ...given, commands, prefixes: ['!'], asking: askInChat() }),
      platform: standIn(world, given),
      events: { 'the shed closes': () => { isOpen = false; }, 'it rains': () => { throw new Error('no roof'); } },
      state: { lit: () => lit, all: () => ({ b: 1, a: [lit] }) },
    };
  },
});
`;
const files = { 'taxeon.config.mjs': config };
const tryout = (...lines: string[]) =>
  `tryout: In the shed\nbegins: 2026-05-09T13:00:00Z\nlines:\n${lines.map((line) => `  - ${line}\n`).join('')}`;
const lamp = (expected: string, text = '!lamp', place = 'oddmere/counter') =>
  `{ person: pim, place: ${place}, types: '${text}', expect: ${expected} }`;

/** What is not as expected, without the place of it. */
async function mismatches(...lines: string[]): Promise<readonly string[]> {
  const { status, out, err } = await folderOf({ ...files, 'shed.tryout.yaml': tryout(...lines) }).taxeon(
    'try',
    '--json',
  );
  expect(err).toBe('');
  const [one] = JSON.parse(out).tryouts;
  expect(status).toBe(one.asExpected ? 0 : 1);
  type Told = { readonly line: number; readonly what: string; readonly expected: string; readonly said: string };
  return one.mismatches.map(({ line, what, expected, said }: Told) => `${line} ${what}: ${expected} | ${said}`);
}

describe('a tryout says what it sees:', () => {
  const withReplies = (...replies: readonly string[]) =>
    `{ person: ines, place: oddmere/counter, types: '!tell pim The drill is back.', expect: { status: completed, replies: [${replies.join(', ')}] } }`;
  const right = [
    `{ exactly: Told., shows: Telling, to: everyone }`,
    `{ says: drill, to: pim, in: direct, goesAfter: never }`,
    `{ begins: Somebody, matches: 'was t.ld\\.$', in: oddmere/shed, held: false }`,
  ];
  const rows: [string, string[], string[]][] = [
    ['nothing differs', [lamp('{ status: completed, says: lit, seenBy: everyone }')], []],
    [
      'status and code',
      [lamp('{ status: refused, code: shed.closed }')],
      ['1 status: refused | completed', '1 code: shed.closed | none'],
    ],
    ['all replies', [withReplies(...right)], []],
    ['fewer replies', [withReplies(...right.slice(0, 2))], ['1 replies: 2 replies | 3 replies']],
    [
      'each of a reply',
      [
        withReplies(
          `{ exactly: Tell., shows: Tolling, to: ines, held: true }, { says: saw, to: ines, in: oddmere/shed, goesAfter: 5s }, { begins: Nobody, matches: '^x' }`,
        ),
      ],
      [
        '1 reply 1, exactly: “Tell.” | “Told.”',
        '1 reply 1, to: ines | everyone',
        '1 reply 1, shows: something with “Tolling” | “Telling …”',
        '1 reply 1, held: true | false',
        '1 reply 2, says: something with “saw” | “The drill is back.”',
        '1 reply 2, to: ines | pim',
        '1 reply 2, in: oddmere/shed | direct',
        '1 reply 2, goesAfter: 5s | never',
        '1 reply 3, begins: “Nobody” | “Somebody was told.”',
        '1 reply 3, matches: /^x/ | “Somebody was told.”',
        '1 reply 3, in: oddmere/counter | oddmere/shed',
      ],
    ],
    ['state', [lamp('{ status: completed, state: { lit: 1, all: { a: [1], b: 1 } } }')], []],
    [
      'other state',
      [lamp('{ status: completed, state: { lit: 2, moon: 1 } }')],
      ['1 state lit: 2 | 1', '1 state moon: 1 | not known to the configuration; there are lit, all'],
    ],
    ['events', ['{ happens: the shed closes }', lamp('{ status: refused, code: shed.closed }')], []],
    [
      'events that cannot be',
      ['{ happens: it rains }', '{ happens: it snows }'],
      [
        '1 what happens: that it does | an error: no roof',
        '2 what happens: something that the configuration knows | one of: the shed closes; it rains',
      ],
    ],
    [
      'a platform that fails for a while',
      [
        '{ fails: deliver, as: forbidden, times: 1 }',
        lamp('{ status: completed, seenBy: nobody }'),
        lamp('{ status: completed, seenBy: everyone }'),
      ],
      [],
    ],
    [
      'one that hangs until it works',
      [
        '{ fails: tell, as: hanging }',
        withReplies('{ exactly: Told. }', '{ begins: Somebody, in: oddmere/shed }'),
        '{ fails: tell, as: working }',
        withReplies('{ exactly: Told. }', '{ says: drill, in: direct }', '{ begins: Somebody, in: oddmere/shed }'),
      ],
      [],
    ],
    [
      'what no platform does',
      ['{ fails: delivr, as: gone }'],
      ['1 what fails: something that the platform does, such as deliver | delivr'],
    ],
    [
      'somebody who is not there',
      [lamp('{ status: completed }').replace('pim', 'wren')],
      ['1 the line: something that can be done here | There is no person "wren"; there are mallet, ines, pim'],
    ],
    [
      'another guild, another surface',
      [
        `{ person: pim, place: pellbrook/shed, invokes: lamp, options: { n: 2 }, expect: { status: completed, state: { lit: 2 } } }`,
      ],
      [],
    ],
    [
      'the console about a guild',
      [
        `{ place: pellbrook/shed, surface: console, types: lamp 3, expect: { status: completed, replies: [{ says: lit, in: console }] } }`,
      ],
      [],
    ],
    [
      'what is said while time passes',
      [
        `{ person: pim, place: oddmere/counter, types: '!ask', expect: { status: waiting, asks: what } }`,
        '{ wait: 2m, replies: [{ begins: There was no answer, in: oddmere/counter }], state: { lit: 0 } }',
        '{ wait: 1m, says: more }',
      ],
      ['3 the reply: something with “more” | nothing'],
    ],
  ];
  test.each(rows)('%s', async (_, lines, expected) => {
    expect(await mismatches(...lines)).toEqual(expected);
  });
});

describe('a file that does not read is told with its place:', () => {
  const wrong: [string, string, string[]][] = [
    ['a key', tryout(lamp('{ status: completed, sayz: lit }')), [':4:89  sayz: there is no such key; write says']],
    [
      'a key of a reply',
      tryout(lamp('{ status: completed, replies: [{ sais: lit }] }')),
      ['  sais: there is no such key; write says'],
    ],
    [
      'a key of a line',
      tryout('{ person: pim, place: x, types: y, expects: {}, expect: { status: completed } }'),
      ['  expects: there is no such key; write expect'],
    ],
    [
      'what is missing',
      tryout('{ person: pim, place: x, types: y }'),
      [':4:5  expect: is missing; say what is expected: { status: completed }'],
    ],
    ['a status', tryout(lamp('{ status: done }')), ['  status: give a status such as completed']],
    ['a duration', tryout('{ wait: a bit }'), [':4:7  wait: give a duration such as 2m']],
    [
      'a pattern',
      tryout(lamp("{ status: completed, replies: [{ matches: '(' }] }")),
      ['  matches: give a pattern that reads'],
    ],
    [
      'a line of no kind',
      tryout('{ wiat: 2m }'),
      ['  lines: a line is one of: scene; happens; fails; wait; place and expect'],
    ],
    ['no YAML', 'tryout: [', [':1:']],
    [
      'a circle',
      `tryout: x\nbegins: 2026-05-09T13:00:00Z\nlines:\n  - &a { person: pim, place: x, invokes: y, options: { n: *a }, expect: { status: completed } }\n`,
      [':4:59  is a part of itself; write it out'],
    ],
    [
      'anchors that explode',
      `a: &a [x, x, x, x, x, x, x, x, x]\nb: &b [*a, *a, *a, *a, *a, *a, *a, *a, *a]\nc: &c [*b, *b, *b, *b, *b, *b, *b, *b, *b]\nd: [*c, *c, *c, *c, *c, *c, *c, *c, *c]\n`,
      ['does not read: Excessive alias count'],
    ],
    ['a thousand pages', `# ${'page '.repeat(250_000)}\n`, ['is longer than 1 MB; part it']],
  ];
  test.each(wrong)('%s', async (_, text, expected) => {
    const { status, out } = await folderOf({ ...files, 'shed.tryout.yaml': text }).taxeon('try');
    expect(status).toBe(2);
    for (const one of expected) expect(out).toContain(one);
  });
});

test('differences stand in the conversation, in columns, and other scenes are summed up', async () => {
  const { status, out } = await folderOf({
    ...files,
    'a.tryout.yaml': tryout(
      '{ scene: First }',
      lamp('{ status: completed }'),
      '{ scene: Second }',
      lamp('{ status: refused, says: closed }'),
    ),
    'b.tryout.yaml': tryout(lamp('{ status: completed }')).replace('In the shed', 'All is well'),
  }).taxeon('try');
  expect(status).toBe(1);
  expect(out).toBe(`
  In the shed
  a.tryout.yaml  1 of 2 lines not as expected

  First: 1 line as expected

  Second
  oddmere #counter
  13:00  Pim      !lamp
      ✓  Mallet   The lamp is lit.
                             expected                            said
                  status     refused                             completed
                  the reply  something with “closed”             “The lamp is lit.”

  All is well
  b.tryout.yaml  1 line, as expected

  1 of 2 tryouts not as expected.

`);
  expect(out).not.toMatch(/[+%]|^\s*-/m);
});

test('--update writes what was said, and keeps comments and order', async () => {
  const text = `# Tried by hand before.
tryout: In the shed
begins: 2026-05-09T13:00:00Z
lines:
  # The lamp first.
  - person: pim
    place: oddmere/counter
    types: "!lamp" # as always
    expect: { says: dark, status: refused, replies: [] }
  - ${lamp('{ status: completed, state: { lit: 7 } }')}
`;
  const folder = folderOf({ ...files, 'shed.tryout.yaml': text });
  const { status, out } = await folder.taxeon('try', '--update');
  expect({ status, out }).toEqual({ status: 0, out: expect.stringContaining('4 values written into it') });
  const updated = readFileSync(join(folder.path, 'shed.tryout.yaml'), 'utf8');
  expect(updated).toBe(
    text
      .replace(
        '{ says: dark, status: refused, replies: [] }',
        '{ says: The lamp is lit., status: completed, replies: [ { exactly: The lamp is lit. } ] }',
      )
      .replace('lit: 7', 'lit: 2'),
  );
  expect((await folder.taxeon('try')).status).toBe(0);
});

test('--update leaves what nothing in the file would make right, and says so', async () => {
  const lines = [lamp("{ status: refused, replies: [{ matches: '^x' }] }"), '{ happens: it snows }'];
  const folder = folderOf({ ...files, 'shed.tryout.yaml': tryout(...lines) });
  const { status, out } = await folder.taxeon('try', '--update');
  expect({ status, out }).toEqual({ status: 1, out: expect.stringContaining('1 value written into it') });
  expect((await folder.taxeon('try')).out).toContain('2 of 2 lines not as expected');
});

test('--uncovered tells what no tryout touches', async () => {
  const lines = [
    lamp('{ status: completed }'),
    `{ person: pim, place: oddmere/counter, types: '!tell ines x', expect: { status: refused } }`,
  ];
  const { out } = await folderOf({ ...files, 'a.tryout.yaml': tryout(...lines) }).taxeon(
    'try',
    '--uncovered',
    '--json',
  );
  expect(JSON.parse(out).untried).toEqual({
    commands: ['ask'],
    arguments: [
      { command: 'lamp', argument: 'n' },
      { command: 'tell', argument: 'who' },
      { command: 'tell', argument: 'text' },
    ],
    requirements: [],
    codes: [
      { command: 'lamp', code: 'argument.invalid' },
      { command: 'lamp', code: 'cooldown.active' },
      { command: 'tell', code: 'argument.invalid' },
      { command: 'tell', code: 'argument.missing' },
    ],
  });
});

test('--format junit is what servers that build read', async () => {
  const { out } = await folderOf({
    ...files,
    'a.tryout.yaml': tryout(lamp('{ status: refused, says: "<&>" }')),
    'b.tryout.yaml': tryout(lamp('{ status: completed }')).replace('In the shed', '"A & B"'),
  }).taxeon('try', '--format', 'junit');
  expect(out).toBe(`<?xml version="1.0" encoding="UTF-8"?>
<testsuite name="tryouts" tests="2" failures="1">
  <testcase classname="a.tryout.yaml" name="In the shed">
    <failure message="line 1, status: expected refused, and it was completed">line 1, status: expected refused, and it was completed
line 1, the reply: expected something with “&lt;&amp;&gt;”, and it was “The lamp is lit.”</failure>
  </testcase>
  <testcase classname="b.tryout.yaml" name="A &amp; B"/>
</testsuite>
`);
});

test('--watch plays again when a file changes', async () => {
  const folder = folderOf({ ...files, 'a.tryout.yaml': tryout(lamp('{ status: refused }')) });
  const watching = folder.starts('try', '--watch');
  await until(() => /1 of 1 tryout not as expected[\s\S]*Waiting for a change/.test(watching.out()), 'it was played');
  folder.write('a.tryout.yaml', tryout(lamp('{ status: completed }')));
  await until(() => / 1 tryout, as expected[\s\S]*Waiting for a change/.test(watching.out()), 'it was played again');
  watching.child.kill('SIGTERM');
  expect((await watching.finished).status).toBe(0);
});

test('nothing to play is told', async () => {
  const { status, err } = await folderOf(files).taxeon('try');
  expect({ status, err }).toEqual({
    status: 2,
    err: expect.stringMatching(/^taxeon: There is no tryout here: a file whose name ends in \.tryout\.yaml\./),
  });
  expect((await folderOf(files).taxeon('try', 'gone.tryout.yaml')).err).toMatch(
    /^taxeon: There is no gone\.tryout\.yaml; /,
  );
});

test('the demo’s afternoon is a tryout that comes out as expected', async () => {
  const example = fileURLToPath(new URL('../../../examples/tool-library/', import.meta.url));
  const { status, out } = await folderOf({}).taxeon(
    'try',
    join(example, 'data'),
    '--config',
    join(example, 'dist/afternoon.config.js'),
  );
  expect({ status, out }).toEqual({ status: 0, out: expect.stringContaining('102 lines, as expected') });
});
