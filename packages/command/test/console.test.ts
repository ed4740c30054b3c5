import { fileURLToPath } from 'node:url';
import { describe, expect, test } from 'vitest';
import { startInTerminal, until } from '../../../test/support/programs.js';
import { folderOf } from './support.js';

const demo = {
  'taxeon.config.mjs': `export { default } from ${JSON.stringify(new URL('../dist/demo/taxeon.config.js', import.meta.url).href)};`,
};
const virtual = ['--clock', 'virtual', '--begins', '2026-05-09T13:00:00Z'];

/** What comes back for lines that are piped in. */
async function conversed(lines: readonly string[], args: readonly string[] = virtual, files = demo) {
  const folder = folderOf(files);
  const { status, out, err } = await folder.types(`${lines.join('\n')}\n`, 'console', ...args);
  expect(err).toBe('');
  return { folder, status, out };
}

describe('the console', () => {
  test('says what is piped in as whom and where one likes, on any surface, and waits', async () => {
    const { status, out } = await conversed([
      ...['!shelf hand', '--as TOBIAS', '!take drill', '!take ladder', '!take spade', '--wait 10m', '!take spade'],
      ...[
        '--surface slash',
        'back',
        'return',
        'tool=drill',
        '--surface console',
        'shelf power',
        '--in direct',
        'shelf power',
      ],
    ]);
    expect(status).toBe(0);
    const said = out.split('\n').map((line) => line.trim());
    for (const expected of [
      '13:00  Ines     !shelf hand',
      '✓  Mallet   On the shelf, hand',
      'Tobias in oddmere, by text, at 2026-05-09 13:00 UTC',
      '✗  Mallet   Not yet. This works again in 10 minutes. (goes after 20 seconds)',
      '… 10 minutes later',
      '✓  Mallet   The spade is yours, Tobias. Please bring it back by Tuesday 12 May.',
      '(Mallet shows a form: tool)',
      '13:10  Tobias   (fills in the form: tool = drill)',
      "the bot's own console, about Oddmere Tool Library #counter",
      "the bot's own console",
    ])
      expect(said).toContain(expected);
  });

  test('tells once that a command lacks its prefix', async () => {
    const { out } = await conversed(['good morning', 'shelf hand', 'shelf power', '--surface console', 'shelf hand']);
    expect(out.match(/chat here; commands begin with .*/g)).toEqual(['chat here; commands begin with !)']);
    expect(out.indexOf('shelf hand')).toBeLessThan(out.indexOf('commands begin with'));
  });

  test('answers the bot’s questions, and tells what it says while time passes', async () => {
    const { out } = await conversed(['--as wren', '!return', 'never mind', '!return', '--wait 2m']);
    expect(out).toContain('…  Mallet   I still need “tool”');
    expect(out).toContain('✗  Mallet   All right, nothing was done.');
    expect(out).toMatch(
      /… 2 minutes later\n.*There was no answer, so nothing was done\. \(in Oddmere Tool Library #counter\)/,
    );
  });

  test('says everything once and in its place, however slow the machine is', async () => {
    const slow = {
      'taxeon.config.mjs': `import { command, createCommandLayer } from 'taxeon';
import { defineConfig, standIn } from '@taxeon/testing';
const lamp = command({ name: 'lamp', description: 'Light it', run() {
  for (const until = Date.now() + 400; Date.now() < until; );
  return 'The lamp is lit.';
} });
const world = {
  bot: { id: 'mallet', name: 'Mallet' },
  people: [{ id: 'wren', name: 'Wren' }],
  guilds: [{ id: 'oddmere', name: 'Oddmere', channels: ['counter'], members: { mallet: [], wren: [] } }],
};
export default defineConfig({
  open: (given) => ({ layer: createCommandLayer({ ...given, commands: [lamp], prefixes: ['!'] }), platform: standIn(world, given) }),
});`,
    };
    const { out } = await conversed(['!lamp', '!lamp'], virtual, slow);
    expect(out.match(/!lamp|The lamp is lit\./g)).toEqual(['!lamp', 'The lamp is lit.', '!lamp', 'The lamp is lit.']);
  });

  test('shows the stages of each line on wish', async () => {
    const { out } = await conversed(['--as pim', '--trace on', '!borrow drill', '--trace off', '!borrow drill']);
    expect(out.match(/stopped {2}permission\.caller/g)).toHaveLength(1);
    // As it was before the line used anything up.
    const { out: cooled } = await conversed(['--as wren', '!take drill', '--trace on', '!take ladder']);
    expect(cooled).toContain('runs: borrow would be run for Wren.');
  });

  test('writes what was said as a tryout that comes out as expected', async () => {
    const lines = [
      '--as tobias',
      '!take drill',
      '!take drill',
      '--wait 10m',
      '--surface slash',
      'return',
      'tool=drill',
      '--surface console',
      '--in direct',
      'shelf power',
    ];
    const { folder, out } = await conversed([...lines, '--tryout said.tryout.yaml', '--tryout said.tryout.yaml']);
    expect(out).toContain('6 lines are written into said.tryout.yaml');
    expect(out).toContain('said.tryout.yaml cannot be written: EEXIST');
    const { status, out: played } = await folder.taxeon('try');
    expect({ status, played }).toEqual({ status: 0, played: expect.stringContaining('6 lines, as expected') });
  });

  test.each([
    [
      '--wiat 3m',
      'There is no --wiat; there are --as, --in, --surface, --wait, --trace, --tryout, --who, --help, --end.',
    ],
    ['--wait', 'Say more behind --wait: moves a virtual clock on: --wait 9m.'],
    ['--wait soon', '"soon" is no duration; write one such as 9m.'],
    ['--as moon', 'There is no person "moon"; there are mallet, ines, tobias, wren, odalys, pim, kiosk.'],
    ['--in moon', 'There is no guild "moon"; there are oddmere, pellbrook, workbench'],
    ['--surface moon', 'There is no surface "moon"; there are text, slash, console.'],
    ['--trace maybe', 'Write --trace on, or --trace off.'],
  ])('tells that %s is wrong, and goes on', async (line, expected) => {
    const { status, out } = await conversed([line, '!shelf hand']);
    expect(status).toBe(0);
    expect(out).toContain(`  ${expected}\n`);
    expect(out).toContain('On the shelf, hand');
  });

  test.each([
    [['--as', 'moon'], 'There is no person "moon"'],
    [['--begins', '2026-05-09T13:00:00Z'], '--begins goes with --clock virtual'],
    [['--clock', 'virtual', '--begins', 'soon'], '"soon" is no moment'],
  ])('does not begin with %j', async (args, expected) => {
    const { status, err } = await folderOf(demo).types('', 'console', ...args);
    expect({ status, err }).toEqual({ status: 2, err: expect.stringContaining(`taxeon: ${expected}`) });
  });

  test('only a virtual clock is moved', async () => {
    expect((await conversed(['--wait 9m'], [])).out).toContain(
      'Only a virtual clock can be moved: begin with --clock virtual.',
    );
  });

  test('completes on Tab and goes back in its history, in a real terminal', { timeout: 30_000 }, async () => {
    const { path } = folderOf(demo);
    const bin = fileURLToPath(new URL('../bin/taxeon.js', import.meta.url));
    const line = `'${process.execPath}' '${bin}' console --as wren ${virtual.join(' ')}`;
    const { child, out, finished } = startInTerminal(line, { cwd: path });
    const keys = (typed: string) => child.stdin?.write(typed);
    const count = (text: string) => out().split(text).length - 1;
    await until(() => count('wren> ') > 0, 'it asks');
    // Names, then values of an argument.
    keys('!sh\t');
    await until(() => out().includes('!shelf '), 'the name is completed');
    keys('ha\t');
    await until(() => out().includes('!shelf hand'), 'the value is completed');
    keys('\r');
    await until(() => count('On the shelf, hand') === 1, 'it is said');
    expect(count('Wren     !shelf')).toBe(0);
    keys('\u001b[A\r');
    await until(() => count('On the shelf, hand') === 2, 'it is said again');
    keys('--su\t');
    await until(() => out().includes('--surface '), 'a word of the console is completed');
    keys('slash\r');
    await until(() => out().includes('by slash'), 'the surface is another');
    keys('borrow tool=lad\t');
    await until(() => out().includes('tool=ladder'), 'an option is completed');
    keys('\r--end\r');
    expect((await finished).status).toBe(0);
    expect(out()).toContain('The ladder is yours, Wren.');
  });
});
