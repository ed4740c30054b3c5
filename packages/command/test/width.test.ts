import { cpSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { stripVTControlCharacters } from 'node:util';
import { eastAsianWidth } from 'get-east-asian-width';
import { beforeAll, describe, expect, test } from 'vitest';
import { start, startInTerminal } from '../../../test/support/programs.js';
import { folderOf } from './support.js';

const bin = fileURLToPath(new URL('../bin/taxeon.js', import.meta.url));
const demo = (file: string) => new URL(`../dist/demo/${file}`, import.meta.url).href;
const files = {
  'taxeon.config.mjs': `export { default } from ${JSON.stringify(demo('afternoon.config.js'))};`,
  'registering.config.mjs': `export { default } from ${JSON.stringify(demo('taxeon.config.js'))};`,
  'wrong.tryout.yaml': `tryout: A wrong one
begins: 2026-05-09T13:00:00Z
lines:
  - { person: wren, place: oddmere, types: '!shelf', locale: ja, expect: { status: refused, code: cooldown.active, says: 'nothing that it would ever say' } }
`,
};

/** Where the demo has counted. */
const played = mkdtempSync(join(tmpdir(), 'oddmere-played-'));
beforeAll(async () => {
  await start(process.execPath, [bin, 'demo', '--store', 'afternoon.db'], { cwd: played }).finished;
  return () => rmSync(played, { recursive: true });
});

/** Of what a command writes into a terminal of so many columns. */
async function linesIn(columns: number, line: string): Promise<readonly string[]> {
  const folder = folderOf({ ...files, 'afternoon.db': '' });
  cpSync(join(played, 'afternoon.db'), join(folder.path, 'afternoon.db'));
  const { finished } = startInTerminal(`stty cols ${columns}; '${process.execPath}' '${bin}' ${line}`, {
    cwd: folder.path,
    env: { ODDMERE_TOKEN: 'demo', ODDMERE_REGISTRY: `${folder.path}/registered.json` },
  });
  return stripVTControlCharacters((await finished).out).split(/\r?\n/);
}

const width = (line: string) =>
  [...line].reduce(
    (sum, char) => sum + (/[\p{M}\p{Cf}]/u.test(char) ? 0 : eastAsianWidth(char.codePointAt(0) ?? 0)),
    0,
  );

describe.each([50, 80, 200])('in a terminal of %d columns', (columns) => {
  test.each([
    `explain "!certify odalys lathe 90d for the new lathe in the workshop, which is loud" --as ines`,
    'explain "!take" --as wren --complete',
    'access',
    'access --bot',
    'check',
    'usage --store afternoon.db',
    'limits --store afternoon.db',
    'register --config registering.config.mjs',
    'try wrong.tryout.yaml --uncovered',
    'demo',
  ])('%s fits', async (line) => {
    const lines = await linesIn(columns, line);
    expect(lines.length).toBeGreaterThan(3);
    expect(lines.filter((one) => width(one) > columns)).toEqual([]);
  });
});

test('a terminal that does not know its width is taken for 100 columns', async () => {
  const lines = await linesIn(0, 'check');
  expect(Math.max(...lines.map(width))).toBeGreaterThan(50);
});

test('what is written elsewhere is the same each time, whatever the terminal', async () => {
  const folder = folderOf(files);
  const [one, two] = await Promise.all([folder.taxeon('demo'), folder.with({ COLUMNS: '60' }).taxeon('demo')]);
  expect(one.out).toBe(two.out);
});
