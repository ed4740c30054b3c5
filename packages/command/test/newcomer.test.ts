import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, expect, test } from 'vitest';
import { blocksOf } from '../../taxeon/test/docs/blocks.js';
import { joinAs, startIrcServer } from '../../taxeon/test/support/ngircd.js';
import { isMissing, start, until } from '../../taxeon/test/support/programs.js';
import { npm, packed } from './packing.js';

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
    const [library = ''] = await packed(folder);
    for (const line of (install?.code ?? '').replaceAll(' && ', '\n').split('\n')) {
      const [program, ...args] = line.split(' ');
      expect(program).toBe('npm');
      await npm([...args.map((arg) => (arg === 'taxeon' ? library : arg)), '--prefer-offline'], folder);
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
