import { mkdtempSync, readFileSync, rmSync, symlinkSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, expect, test } from 'vitest';
import { blocksOf, root } from '../../../test/docs/blocks.js';
import { isMissing, start, until } from '../../../test/support/programs.js';
import { joinAs, startIrcServer } from '../../irc/test/support/ngircd.js';
import { npm, packed } from './packing.js';
import { folderOf } from './support.js';

const folder = mkdtempSync(join(tmpdir(), 'oddmere-newcomer-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));

/** The steps of README.md as they stand there, with the library that would be published. */
const blocks = blocksOf('README.md');
const [install] = blocks.filter(({ language, code }) => language === 'sh' && code.includes('npm install taxeon'));
const files = blocks.flatMap(({ language, code }) => {
  const [, name] = /^js (.+)$/.exec(language) ?? [];
  return name === undefined ? [] : [[name, code] as const];
});

test.skipIf(isMissing('ngircd'))(
  'from an empty folder, README.md leads to a bot that answers, and to a test that passes',
  { timeout: 240_000 },
  async () => {
    const since = performance.now();
    const tarballs = await packed(folder);
    for (const line of (install?.code ?? '').replaceAll(' && ', '\n').split('\n')) {
      const [program, ...args] = line.split(' ');
      expect(program).toBe('npm');
      await npm([...args.map((arg) => tarballs[arg] ?? arg), '--prefer-offline'], folder);
    }
    expect(files.map(([name]) => name)).toEqual(['bot.js', 'main.js', 'bot.test.js']);
    for (const [name, code] of files) writeFileSync(join(folder, name), code);

    const tested = await start('npx', ['vitest', 'run'], { cwd: folder }).finished;
    expect({ status: tested.status, out: tested.out }).toEqual({ status: 0, out: expect.stringContaining('3 passed') });

    const server = await startIrcServer();
    const main = readFileSync(join(folder, 'main.js'), 'utf8');
    writeFileSync(
      join(folder, 'main.js'),
      main.replace("host: 'localhost'", `host: 'localhost', port: ${server.port}`),
    );
    const bot = start(process.execPath, ['main.js'], { cwd: folder });
    const pim = await joinAs('Pim', server.port, '#oddmere');
    try {
      await until(() => pim.all().length > 0 || pim.told().some((line) => line.includes('Mallet')), 'the bot is there');
      pim.type('!take drill 5 days');
      expect(await pim.heard('Mallet')).toBe('Pim: The drill is yours for 5 days, Pim.');
      console.log(`from an empty folder to the first answer: ${Math.round((performance.now() - since) / 1000)} s`);
    } finally {
      await pim.leave();
      await bot.end();
      await server.stop();
    }
  },
);

const blockOf = (page: string, holds: string) => {
  const found = blocksOf(page).find(({ code }) => code.includes(holds));
  if (found === undefined) throw new Error(`${page} has no block with ${holds}`);
  return found.code;
};

test('the configuration of docs/first-bot.md opens a bot', async () => {
  const files = {
    'package.json': '{ "type": "module" }',
    'taxeon.config.js': blockOf('docs/first-bot.md', 'defineConfig('),
  };
  const { out, err } = await folderOf(files).taxeon('explain', '!lamp', '--as', 'ines');
  expect({ err, runs: out.includes('lamp would be run for Ines.') }).toEqual({ err: '', runs: true });
});

test('the test of docs/testing.md passes on a bot such as it speaks of', { timeout: 60_000 }, async () => {
  const { path } = folderOf({
    'package.json': '{ "type": "module" }',
    'shelf.test.ts': blockOf('docs/testing.md', 'the third tool in a minute is refused'),
    'world.ts': `export const world = {
      bot: { id: 'mallet', name: 'Mallet' },
      people: [{ id: 'wren', name: 'Wren' }],
      guilds: [{ id: 'oddmere', name: 'Oddmere', channels: ['counter'], members: { mallet: [], wren: [] } }],
    };`,
    'bot.ts': `import { arg, type Clock, command, createCommandLayer } from 'taxeon';
    const borrow = command({
      name: 'borrow', description: 'Borrow a tool', args: { tool: arg.text() }, cooldowns: { user: '2 in 1m' },
      run: ({ args }) => \`The \${args.tool} is yours.\`,
    });
    export const openBot = (given: { clock: Clock }) => createCommandLayer({ ...given, commands: [borrow], prefixes: ['!'] });`,
  });
  symlinkSync(join(root, 'node_modules/vitest'), join(path, 'node_modules/vitest'));
  const { status, out } = await start(process.execPath, [join(root, 'node_modules/vitest/vitest.mjs'), 'run'], {
    cwd: path,
  }).finished;
  expect({ status, out }).toEqual({ status: 0, out: expect.stringContaining('1 passed') });
});
