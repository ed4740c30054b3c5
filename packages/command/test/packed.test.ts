import { mkdirSync, mkdtempSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { start } from '../../taxeon/test/support/programs.js';
import { npm, packed } from './packing.js';

const folder = mkdtempSync(join(tmpdir(), 'oddmere-packed-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));

const run = (cwd: string, ...args: string[]) => {
  const env = { ...process.env, NO_COLOR: '1', FORCE_COLOR: undefined };
  return start(process.execPath, [join(cwd, 'node_modules/.bin/taxeon'), ...args], { cwd, env }).finished;
};

let tarballs: readonly string[] = [];
beforeAll(async () => {
  tarballs = await packed(folder);
}, 120_000);

const config = `import { command, createCommandLayer } from 'taxeon';
import { standIn } from 'taxeon/stand-in';
import { defineConfig } from 'taxeon/testing';
interface Words { readonly lit: string }
const words: Words = { lit: 'The lamp is lit.' };
const lamp = command({ name: 'lamp', description: 'Light the lamp', run: () => words.lit });
const world = {
  bot: { id: 'mallet', name: 'Mallet' },
  people: [{ id: 'ines', name: 'Ines' }],
  guilds: [{ id: 'oddmere', name: 'Oddmere', channels: ['counter'], members: { mallet: [], ines: [] } }],
};
export default defineConfig({
  open: (given) => ({ layer: createCommandLayer({ ...given, commands: [lamp], prefixes: ['!'] }), platform: standIn(world, given) }),
});
`;

function emptyProject(name: string): string {
  const project = join(folder, name);
  mkdirSync(project);
  writeFileSync(join(project, 'package.json'), JSON.stringify({ name, private: true, type: 'module' }));
  writeFileSync(join(project, 'taxeon.config.ts'), config);
  return project;
}

test('the library installs no native binary, no reader of command lines, no YAML, and says where its command is', async () => {
  const project = emptyProject('library');
  await npm(['install', '--prefer-offline', tarballs[0] as string], project);
  const installed = readdirSync(join(project, 'node_modules'), { recursive: true, encoding: 'utf8' });
  expect(installed.filter((file) => /\.node$|^(commander|yaml|picocolors|oxc-transform)$/.test(file))).toEqual([]);
  expect(await run(project, 'explain', '!lamp')).toEqual({
    status: 2,
    out: '',
    err: 'taxeon: The command is a package of its own; install it with: npm install --save-dev @taxeon/command\n',
  });
}, 120_000);

test('a part whose package is not there says what to install', async () => {
  const project = emptyProject('bare');
  await npm(['install', '--prefer-offline', tarballs[0] as string], project);
  const said = async (program: string) => {
    writeFileSync(join(project, 'bot.mjs'), `${program}.catch(({ message }) => console.log(message));`);
    return (await start(process.execPath, ['bot.mjs'], { cwd: project }).finished).out.trim();
  };
  const irc = `import { irc } from 'taxeon/irc';\nirc({ host: 'localhost', nick: 'Mallet', channels: [] }).serve({})`;
  expect(await said(irc)).toBe('taxeon/irc needs irc-framework; install it with: npm install irc-framework');
  const store = `import { fileStore } from 'taxeon/file-store';\n(async () => fileStore({ path: 'a.db' }))()`;
  expect(await said(store)).toBe('taxeon/file-store needs libsql; install it with: npm install libsql');
}, 120_000);

test('the command works beside it, also where it is called by the library’s name', async () => {
  const project = emptyProject('both');
  await npm(['install', '--prefer-offline', ...tarballs], project);
  const explained = await run(project, 'explain', '!lamp', '--as', 'ines');
  expect({ err: explained.err, runs: explained.out.includes('lamp would be run for Ines.') }).toEqual({
    err: '',
    runs: true,
  });
  const { out } = await start(process.execPath, ['node_modules/taxeon/bin/taxeon.js', '--version'], { cwd: project })
    .finished;
  expect(out).toBe('0.1.0\n');
  expect((await run(project, 'demo')).out).toContain('Each came out as the script expects.');
}, 120_000);
