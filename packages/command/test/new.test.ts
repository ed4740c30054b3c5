import { existsSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { basename, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { isMissing, start, until } from '../../../test/support/programs.js';
import { startIrcServer } from '../../irc/test/support/ngircd.js';
import { npm, packed } from './packing.js';
import { folderOf } from './support.js';

const folder = mkdtempSync(join(tmpdir(), 'oddmere-new-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));
const choices = ['stand-in', 'irc', 'http', 'own'].flatMap((platform) =>
  ['js', 'ts'].map((language) => ({ platform, language, path: join(folder, `${platform}-${language}`) })),
);
const told = new Map<string, string>();
const bin = fileURLToPath(new URL('../bin/taxeon.js', import.meta.url));
const env = { ...process.env, NO_COLOR: '1', FORCE_COLOR: undefined };

/** All are made, and installed at once from what is published. */
beforeAll(async () => {
  for (const { platform, language, path } of choices) {
    const words = ['new', path, '--platform', platform, '--language', language];
    const { out, err, status } = await start(process.execPath, [bin, ...words], { cwd: folder, env }).finished;
    expect({ status, err }).toEqual({ status: 0, err: '' });
    told.set(path, out);
  }
  const workspaces = choices.map(({ path }) => basename(path));
  writeFileSync(join(folder, 'package.json'), JSON.stringify({ private: true, workspaces }));
  await npm(['install', '--prefer-offline', '--workspaces', ...Object.values(await packed(folder))], folder);
}, 240_000);

const all = (text: string) => Array.from(choices, () => text);

describe('a new bot', () => {
  test('of any kind passes its test and its check, and its TypeScript is right', { timeout: 120_000 }, async () => {
    const tested = await npm(['test', '--workspaces'], folder);
    expect(tested.match(/1 tryout, as expected\./g)).toEqual(all('1 tryout, as expected.'));
    expect((await npm(['run', 'check', '--workspaces'], folder)).match(/The bot opens/g)).toEqual(all('The bot opens'));
    await npm(['run', 'types', '--workspaces', '--if-present'], folder);
  });

  test.each(choices)('for $platform in $language tells what each file is for, and runs', async ({ platform, path }) => {
    const files = readdirSync(path, { recursive: true, encoding: 'utf8' });
    for (const file of files.filter((name) => /^(src|tryouts)\/|^[^/]+\.\w+$/.test(name)))
      expect(told.get(path)).toContain(`  ${file} `);
    expect(told.get(path)).toMatch(/\n {2}Run cd .*npm install && npm test, and then npm start\.\n/);
    if (platform === 'irc' || platform === 'http') return;
    const bot = start('npm', ['start', '--silent'], { cwd: path, stdin: '!take drill\n!shelf\n' });
    const { out, status } = await bot.finished;
    expect(status).toBe(0);
    expect(out).toMatch(/Mallet: The drill is yours, (Wren|You)\.\n(.*\n)*Mallet: ladder, spade\n/);
  });

  test.skipIf(isMissing('ngircd'))('for IRC is in its channel, in both languages', { timeout: 60_000 }, async () => {
    const server = await startIrcServer();
    try {
      // What `npm start` runs, without npm around it, which keeps a signal to itself.
      for (const [language, file] of [
        ['js', 'src/main.js'],
        ['ts', 'dist/main.js'],
      ] as const) {
        const cwd = join(folder, `irc-${language}`);
        if (language === 'ts') await npm(['exec', 'tsc'], cwd);
        const nick = `Mallet${language}`;
        const env = { ...process.env, IRC_PORT: String(server.port), IRC_HOST: '127.0.0.1', IRC_NICK: nick };
        const bot = start(process.execPath, [file], { cwd, env });
        await until(() => bot.out().includes(`${nick} is in #oddmere on 127.0.0.1.`), 'it is in the channel', 30_000);
        expect((await bot.end()).status).toBe(0);
      }
    } finally {
      await server.stop();
    }
  });

  test('for a chat that posts answers at its address, in both languages', { timeout: 60_000 }, async () => {
    for (const [language, file] of [
      ['js', 'src/main.js'],
      ['ts', 'dist/main.js'],
    ] as const) {
      const cwd = join(folder, `http-${language}`);
      if (language === 'ts') await npm(['exec', 'tsc'], cwd);
      const without = await start(process.execPath, [file], { cwd, env: { ...process.env, SLASH_SECRET: undefined } })
        .finished;
      expect([without.status, without.err]).toEqual([1, expect.stringContaining('SLASH_SECRET=… npm start')]);
      const secret = 'the-secret-of-the-front-desk';
      const bot = start(process.execPath, [file], { cwd, env: { ...process.env, PORT: '0', SLASH_SECRET: secret } });
      await until(() => bot.out().includes('The bot answers at'), 'it listens', 30_000);
      const [address = ''] = /http:\S+/.exec(bot.out()) ?? [];
      const body = new URLSearchParams({ event: 'e1', person: 'wren', name: 'Wren', command: 'take', text: 'drill' });
      const response = await fetch(address, { method: 'POST', headers: { 'x-slash-secret': secret }, body });
      expect(await response.json()).toMatchObject({ text: 'The drill is yours, Wren.' });
      expect((await fetch(address, { method: 'POST', body })).status).toBe(401);
      expect((await bot.end()).status).toBe(0);
    }
  });

  test('is as it reads: JavaScript has no types, no file has a mark of the template, and all that is imported is named', () => {
    for (const { platform, language, path } of choices) {
      const { dependencies, devDependencies } = JSON.parse(readFileSync(join(path, 'package.json'), 'utf8'));
      const named = Object.keys({ ...dependencies, ...devDependencies });
      for (const name of ['bot', 'main', ...(platform === 'own' ? ['platform'] : [])]) {
        const text = readFileSync(join(path, 'src', `${name}.${language}`), 'utf8');
        expect(text).not.toMatch(/[⟨⟩]/);
        if (language === 'js') expect(text).not.toMatch(/interface|as const|: Surroundings|\btype /);
        const imported = [...text.matchAll(/from '((?:@[^/']+\/)?[^./'][^/']*)/g)].map(([, from]) => from);
        expect(named).toEqual(expect.arrayContaining(imported.filter((from) => !from?.startsWith('node:'))));
        if (name === 'bot') expect(imported).toContain('taxeon');
      }
    }
  });
});

test('what is not said is asked for, in a terminal', async () => {
  const path = join(folder, 'asked');
  const line = `'${process.execPath}' '${bin}' new '${path}'`;
  const typing = (stdin: string) => start('script', ['-qec', line, '/dev/null'], { stdin, env }).finished;
  const nothing = await typing('irc\n');
  expect([nothing.status, existsSync(path)]).toEqual([2, false]);
  expect(nothing.out).toContain('taxeon: Nothing was chosen, so nothing was made.');
  const { out, status } = await typing('moon\ns\nj\n');
  expect(status).toBe(0);
  expect(out).toMatch(
    /Which chat\?[\s\S]*stand-in +the simulated one[\s\S]*Type stand-in, irc, http, own\.[\s\S]*Which language\?/,
  );
  expect(readdirSync(join(path, 'src')).sort()).toEqual(['bot.js', 'main.js']);
});

describe('what cannot be made is told:', () => {
  test.each([
    [
      'nobody to ask',
      ['new', 'bot'],
      /^taxeon: Say --platform stand-in, irc, http, own and --language js or ts: nobody can be asked here\.$/m,
    ],
    [
      'another platform',
      ['new', 'bot', '--platform', 'moon'],
      /^taxeon: --platform is stand-in, irc, http or own, and not "moon"\.$/m,
    ],
    [
      'a folder with something in it',
      ['new', '.', '--platform', 'irc', '--language', 'js'],
      /^taxeon: There is something at \. already; name an empty folder/,
    ],
    ['a file', ['new', 'file', '--platform', 'irc', '--language', 'js'], /^taxeon: There is something at file already/],
    [
      'a folder that cannot be',
      ['new', 'file/bot', '--platform', 'irc', '--language', 'js'],
      /^taxeon: file\/bot cannot be written: /,
    ],
  ])('%s', async (_, args, expected) => {
    const { status, err } = await folderOf({ file: 'x' }).taxeon(...args);
    expect({ status, err }).toEqual({ status: 2, err: expect.stringMatching(expected) });
  });
});
