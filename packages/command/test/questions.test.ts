import { expect, test } from 'vitest';
import { folderOf } from './support.js';

/** A shed that is reserved by talking. */
const files = {
  'taxeon.config.mjs': `import { arg, command, createCommandLayer } from 'taxeon';
import { askInChat } from 'taxeon/asking';
import { defineConfig, standIn } from '@taxeon/testing';

const world = {
  bot: { id: 'mallet', name: 'Mallet' },
  people: [{ id: 'ines', name: 'Ines' }, { id: 'pim', name: 'Pim' }],
  guilds: [{ id: 'oddmere', name: 'Oddmere', channels: ['counter'], members: { mallet: [], ines: [], pim: [] } }],
};
const reserve = command({
  name: 'reserve',
  description: 'Reserve the shed',
  args: { what: arg.text() },
  whenMissing: 'ask',
  async run(call) {
    const days = await call.ask(arg.integer({ max: 9 }), 'For how many days?');
    await call.confirm('Reserve the ' + call.args.what + ' for ' + days + ' days?');
    return 'Reserved.';
  },
});

export default defineConfig({
  open: (given) => ({
    layer: createCommandLayer({ ...given, commands: [reserve], prefixes: ['!'], asking: askInChat() }),
    platform: standIn(world, given),
  }),
});
`,
};
const tryout = `tryout: The shed is reserved
begins: 2026-05-09T13:00:00Z
lines:
  - { person: ines, place: oddmere, types: '!reserve', expect: { status: waiting, asks: what } }
  - { person: ines, place: oddmere, types: 'shed', expect: { status: waiting, asks: For how many days } }
  - { person: pim, place: oddmere, types: '3', expect: { status: ignored, replies: [] } }
  - { person: ines, place: oddmere, types: 'many', expect: { status: waiting, says: '“many” is not that', asks: For how many days } }
  - { person: ines, place: oddmere, types: '3', expect: { status: waiting, replies: [{ begins: 'Reserve the shed for 3 days?' }] } }
  - { person: ines, place: oddmere, types: 'yes', expect: { status: completed, replies: [{ exactly: Reserved. }] } }
  - { person: ines, place: oddmere, invokes: reserve, options: { what: shed }, expect: { status: waiting, asks: For how many } }
  - { person: ines, place: oddmere, fills: { answer: '2' }, expect: { status: waiting, asks: Reserve the shed for 2 } }
  - { person: ines, place: oddmere, fills: { confirm: no }, expect: { status: refused, code: answer.stopped } }
  - { person: ines, place: oddmere, types: '!reserve shed', expect: { status: waiting } }
  - { wait: 2m, says: There was no answer }
`;

test('a tryout answers what a handler asks', async () => {
  const folder = folderOf({ ...files, 'shed.tryout.yaml': tryout.replace('confirm: no', "confirm: 'no'") });
  const { out, err, status } = await folder.taxeon('try', '--all');
  expect(out).toContain('11 lines, as expected');
  expect({ err, status }).toEqual({ err: '', status: 0 });
});

test.each([['virtual'], ['real']])('so does the console, by a %s clock, and writes it as a tryout', async (clock) => {
  const folder = folderOf(files);
  const lines = ['--in oddmere', '!reserve shed', '3', 'yes', '--tryout said.tryout.yaml'];
  const { out, err, status } = await folder.types(`${lines.join('\n')}\n`, 'console', '--clock', clock);
  expect({ err, status }).toEqual({ err: '', status: 0 });
  const said = out.split('\n').map((line) => line.trim());
  expect(said).toContain('…  Mallet   For how many days?');
  expect(said).toContain('…  Mallet   Reserve the shed for 3 days?');
  expect(said).toContain('✓  Mallet   Reserved.');
  expect((await folder.taxeon('try')).out).toContain('3 lines, as expected');
});

test('a console that ends while a handler asks ends at once', async () => {
  const { out, status } = await folderOf(files).types('!reserve shed\n', 'console', '--clock', 'virtual');
  expect(status).toBe(0);
  expect(out).toContain('For how many days?');
});
