import { existsSync, mkdirSync, mkdtempSync, readdirSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { start } from '../../../test/support/programs.js';
import { install, packed } from './packing.js';

const folder = mkdtempSync(join(tmpdir(), 'oddmere-packed-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));

const run = (cwd: string, ...args: string[]) => {
  const env = { ...process.env, NO_COLOR: '1', FORCE_COLOR: undefined };
  return start(process.execPath, [join(cwd, 'node_modules/.bin/taxeon'), ...args], { cwd, env }).finished;
};

let tarballs: Readonly<Record<string, string>> = {};
beforeAll(async () => {
  tarballs = await packed(folder);
}, 120_000);

const config = `import { command, createCommandLayer } from 'taxeon';
import { defineConfig, standIn } from '@taxeon/testing';
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

test('the library adds one folder, and no program', async () => {
  const project = emptyProject('library');
  await install(tarballs, ['taxeon'], project);
  const installed = readdirSync(join(project, 'node_modules')).filter((name) => !name.startsWith('.'));
  expect(installed).toEqual(['taxeon']);
  expect(existsSync(join(project, 'node_modules/.bin'))).toBe(false);
  const files = readdirSync(join(project, 'node_modules/taxeon'), { recursive: true, encoding: 'utf8' });
  const bytes = files.map((file) => statSync(join(project, 'node_modules/taxeon', file))).filter((one) => one.isFile());
  expect(bytes.reduce((sum, { size }) => sum + size, 0)).toBeLessThan(1_600_000);
}, 120_000);

test.each([
  ['before', ['@taxeon/command', 'taxeon']],
  ['behind', ['taxeon', '@taxeon/command']],
])(
  'the command works on the library, installed %s it',
  async (when, order) => {
    const project = emptyProject(when);
    for (const one of order) await install(tarballs, [one], project);
    const explained = await run(project, 'explain', '!lamp', '--as', 'ines');
    expect({ err: explained.err, runs: explained.out.includes('lamp would be run for Ines.') }).toEqual({
      err: '',
      runs: true,
    });
    expect((await run(project, '--version')).out).toBe('0.1.0\n');
    if (when === 'behind') expect((await run(project, 'demo')).out).toContain('Each came out as the script expects.');
    const looked = await run(project, 'limits', '--store', 'taxeon.config.ts');
    expect([looked.status, looked.err]).toEqual([2, expect.stringContaining('npm install @taxeon/file-store')]);
  },
  120_000,
);
