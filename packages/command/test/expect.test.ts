import { mkdirSync } from 'node:fs';
import { join } from 'node:path';
import { describe, expect, test } from 'vitest';
import { type Folder, folderOf } from './support.js';

const demo = {
  'taxeon.config.mjs': `export { default } from ${JSON.stringify(new URL('../dist/demo/taxeon.config.js', import.meta.url).href)};`,
};

const outcome = async (folder: Folder, ...args: readonly string[]) => {
  const { status, err } = await folder.taxeon(...args);
  return { status, err };
};

describe('taxeon explain', () => {
  const rows: [string[], string, number, string][] = [
    [['!shelf', '--as', 'wren'], 'runs', 0, ''],
    [['!borrow spade', '--as', 'pim'], 'permission.caller', 0, ''],
    [['!borrow spade', '--as', 'pim'], 'refused', 0, ''],
    [['!borrow spade', '--as', 'pim'], 'runs', 1, 'taxeon: The line is refused, permission.caller; expected runs.\n'],
    [['!shelf', '--as', 'wren', '--json'], 'refused', 1, 'taxeon: The line is runs; expected refused.\n'],
  ];
  test.each(rows)('%j --expect %s ends with %i', async (args, expected, status, err) => {
    expect(await outcome(folderOf(demo), 'explain', ...args, '--expect', expected)).toEqual({ status, err });
  });

  test('--at says when: dates are read from there', async () => {
    const folder = folderOf(demo);
    const line = ['explain', '!reserve drill "tomorrow 9:00" "tomorrow 12:00"', '--as', 'wren', '--json'];
    const { out } = await folder.taxeon(...line, '--at', '2026-05-09T13:00:00Z');
    expect(JSON.parse(out).args).toMatchObject({ from: '2026-05-10T09:00:00.000Z', to: '2026-05-10T12:00:00.000Z' });
    expect(await outcome(folder, ...line, '--at', 'soon')).toEqual({
      status: 2,
      err: 'taxeon: "soon" is no moment; write one such as 2026-05-09T13:00:00Z.\n',
    });
  });
});

describe('taxeon access --expect', () => {
  test('compares with a table that was kept, cell by cell', async () => {
    const folder = folderOf(demo);
    const { out } = await folder.taxeon('access', '--json');
    folder.write('access.json', out);
    expect(await outcome(folder, 'access', '--expect', 'access.json')).toEqual({ status: 0, err: '' });
    const table = JSON.parse(out);
    const [first, ...rest] = table.rows;
    folder.write('access.json', JSON.stringify({ ...table, rows: [{ ...first, command: 'lend' }, ...rest] }));
    const { status, err } = await outcome(folder, 'access', '--expect', 'access.json');
    expect(status).toBe(1);
    expect(err).toContain('taxeon: lend for everyone is not there any more; expected refused\n');
    expect(err).toContain('taxeon: borrow for steward is allowed; nothing was expected\n');
    folder.write(
      'access.json',
      JSON.stringify({ ...table, rows: [{ ...first, cells: first.cells.map(() => ({ verdict: 'off' })) }, ...rest] }),
    );
    expect((await outcome(folder, 'access', '--expect', 'access.json')).err).toContain(
      'taxeon: borrow for steward is allowed; expected off\n',
    );
  });

  test.each([
    ['gone.json', undefined, /^taxeon: gone\.json does not read: .*`taxeon access --json` writes one\.$/m],
    ['list.json', '[]', /^taxeon: list\.json is no table of access/],
    ['half.json', '{"columns": ["everyone"], "rows": [{}]}', /^taxeon: half\.json is no table of access/],
  ])('tells that %s is none', async (name, text, expected) => {
    const folder = folderOf(text === undefined ? demo : { ...demo, [name]: text });
    expect(await outcome(folder, 'access', '--expect', name)).toEqual({
      status: 2,
      err: expect.stringMatching(expected),
    });
  });
});

test('taxeon register --expect same ends with 1 until it is', async () => {
  const folder = folderOf(demo);
  mkdirSync(join(folder.path, 'kept'));
  const env = { ODDMERE_TOKEN: 'demo', ODDMERE_REGISTRY: join(folder.path, 'kept', 'registered.json') };
  const before = await folder.with(env).taxeon('register', '--expect', 'same');
  expect(before.status).toBe(1);
  expect(before.err).toContain('taxeon: everywhere: fine is lacking; expected the same as declared\n');
  const { out } = await folder.with(env).taxeon('register', '--now', '--json');
  expect(JSON.parse(out)).toMatchObject({ scopes: expect.any(Array), registered: { outcome: 'carried-out' } });
  expect(await outcome(folder.with(env), 'register', '--expect', 'same')).toEqual({ status: 0, err: '' });
});

test('--json prints one object everywhere, and whom and what it is about by id and name', async () => {
  const folder = folderOf({
    ...demo,
    'a.tryout.yaml': 'tryout: A\nbegins: 2026-05-09T13:00:00Z\nlines: [{ scene: Nothing }]',
  });
  await folder.taxeon('demo', '--store', 'a.db');
  const keys = async (...args: readonly string[]) => {
    const { out, err } = await folder.with({ ODDMERE_TOKEN: 'demo' }).taxeon(...args, '--json');
    expect(err).toBe('');
    return JSON.parse(out);
  };
  const guild = { id: 'oddmere', name: 'Oddmere Tool Library' };
  const about = { guild, channel: { id: 'oddmere/counter', name: '#counter' }, person: { id: 'wren', name: 'Wren' } };
  const { person: _, ...place } = about;
  expect((await keys('explain', '!shelf', '--as', 'wren')).about).toEqual(about);
  expect((await keys('explain', '!sh', '--as', 'wren', '--complete')).about).toEqual(about);
  expect((await keys('access', '--as', 'wren')).about).toEqual(about);
  expect((await keys('reference')).about).toEqual(place);
  expect(Object.keys(await keys('access', '--bot'))).toEqual(['needs']);
  expect(Object.keys(await keys('check'))).toEqual(['problems', 'warnings', 'logged']);
  expect(Object.keys(await keys('try'))).toEqual(['tryouts']);
  expect(Object.keys(await keys('limits', '--store', 'a.db'))).toEqual(['limits']);
  expect(Object.keys(await keys('usage', '--store', 'a.db'))).toEqual(['usage']);
  expect(Object.keys(await keys('register'))).toEqual(['scopes', 'problems', 'warnings']);
});

describe('options that do not go together are refused:', () => {
  test.each([
    ['explain !shelf --as wren --complete --expect runs', /^taxeon: --complete and --expect do not go together\.$/m],
    ['explain shelf --surface console --as wren', /--as does not go with --surface console/],
    ['access --bot --in oddmere', /--bot and --in do not go together/],
    ['access --json --format csv', /--json and --format do not go together/],
    ['try --json --all', /--all and --json do not go together/],
    ['try --watch --format junit', /--watch and --format do not go together/],
    ['try --uncovered --format junit', /--format and --uncovered do not go together/],
    ['register --manifest --json', /do not go together/],
    ['register --manifest --now', /do not go together/],
    ['register --manifest --scope everywhere', /do not go together/],
    ['register --remove-left-over', /--remove-left-over goes with --now/],
  ])('%s', async (line, expected) => {
    expect(await outcome(folderOf(demo), ...line.split(' '))).toEqual({
      status: 2,
      err: expect.stringMatching(expected),
    });
  });
});
