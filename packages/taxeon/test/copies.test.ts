/** Two installed copies of the library in one program: what one makes, the other knows. */
import { cp, mkdtemp, readFile, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath, pathToFileURL } from 'node:url';
import { standIn } from '@taxeon/testing';
import type * as Taxeon from 'taxeon';
import type * as OfPlatforms from 'taxeon/platform';
import type * as Queries from 'taxeon/queries';
import type * as Registration from 'taxeon/registration';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { codeOf, oddmereData, silentLog } from '../../../test/support/oddmere.js';

type Copy = typeof Taxeon & typeof OfPlatforms & typeof Queries & typeof Registration;

let folder: string;
let copies: readonly [Copy, Copy];
let load: (name: string, version?: string) => Promise<Copy>;

async function setVersion(file: string, version: string): Promise<void> {
  const text = await readFile(file, 'utf8');
  expect(text).toContain('const version = "0.1.0";');
  await writeFile(file, text.replace('const version = "0.1.0";', `const version = "${version}";`));
}

beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'taxeon-copies-'));
  const built = fileURLToPath(new URL('../dist', import.meta.url));
  load = async (name, version) => {
    await cp(built, join(folder, name), { recursive: true });
    if (version !== undefined) await setVersion(join(folder, name, 'shared/core.js'), version);
    const entries = ['index', 'platform', 'queries/index', 'registration/index'];
    const all = await Promise.all(
      entries.map((entry) => import(pathToFileURL(join(folder, name, `${entry}.js`)).href)),
    );
    return Object.assign({}, ...all) as Copy;
  };
  copies = [await load('one'), await load('other')];
});

afterAll(() => rm(folder, { recursive: true }));

/** A layer of one copy that serves commands of the other. */
function scene() {
  const [one, other] = copies;
  const { arg, command, refuse, Misread, Capped, PlatformError, group, misread } = other;
  const described = { description: 'Something' };
  const mark = arg.custom({
    name: 'shelf mark',
    expected: 'a shelf mark',
    example: 'B12',
    read: (text) => (text === 'top' ? new Capped('B9', 'B9') : /^B\d+$/.test(text) ? text : misread('a mark with a B')),
    isValue: (value) => value !== 'B0',
  });
  const commands = [
    command({ ...described, name: 'shelf', args: { mark }, run: ({ args }) => `Shelf ${args.mark}.` }),
    command({
      ...described,
      name: 'sizes',
      args: { n: arg.list(arg.integer({ max: 9, cap: true })), at: arg.datetime({ optional: true, flag: true }) },
      run: ({ args }) => args.n.join(' '),
    }),
    command({ ...described, name: 'decline', run: () => refuse('tool.out', 'The saw is out.') }),
    command({
      ...described,
      name: 'throw',
      run() {
        throw refuse('tool.out', 'The saw is out.');
      },
    }),
    command({
      ...described,
      name: 'unreachable',
      run() {
        throw new PlatformError('platform.failed', 'gone');
      },
    }),
    command({
      ...described,
      name: 'act',
      in: 'guild',
      args: { who: arg.member() },
      requires: ({ caller }) => [caller.outranks('who')],
      together: (_, blame) => blame('who', 'Not today.'),
      run: () => 'done',
    }),
    group({ ...described, name: 'yard', commands: [command({ ...described, name: 'look', run: () => 'Tidy.' })] }),
  ];
  expect(Misread).not.toBe(one.Misread);
  const layer = one.createCommandLayer({ commands, prefixes: ['!'], log: silentLog, damping: 'off' });
  const platform = standIn(oddmereData().world);
  return {
    layer,
    platform,
    types: (text: string) => layer.handle(platform.typed({ person: 'ines', place: 'oddmere/counter', text }), platform),
  };
}

describe('a layer of one copy', () => {
  test.each([
    ['!shelf B12', 'completed'],
    ['!shelf B', 'argument.invalid'],
    ['!shelf B0', 'callback.failed'],
    ['!shelf top', 'completed'],
    ['!sizes 1 2', 'completed'],
    ['!sizes two', 'argument.invalid'],
    ['!sizes 1 --at 25:61', 'argument.invalid'],
    ['!decline', 'tool.out'],
    ['!throw', 'tool.out'],
    ['!unreachable', 'platform.failed'],
    ['!act wren', 'requirement.failed'],
    ['!act odalys', 'permission.rank'],
    ['!yard look', 'completed'],
  ])('does with a command of the other what that would: %s', async (text, expected) => {
    expect(codeOf(await scene().types(text))).toBe(expected);
  });

  test('answers the queries of the other', async () => {
    const { layer, platform } = scene();
    const [, other] = copies;
    const input = platform.typed({ person: 'ines', place: 'oddmere/counter', text: '!sizes 12' });
    const said = await other.explain(layer, input, platform);
    expect([said.status, said.args]).toEqual(['runs', { n: [9], at: undefined }]);
    expect(other.manifestOf(layer).commands.map(({ name }) => name)).toContain('yard');
  });

  test.each(['0.2.0', '1.0.0'])('tells queries of version %s both versions', async (version) => {
    const { layer } = scene();
    const other = await load(version, version);
    const theirs = `The layer was made by taxeon 0.1.0, and this function is of taxeon ${version}; install one of the two for both`;
    expect(() => other.manifestOf(layer)).toThrow(theirs);
  });

  test('gets along with queries of a version that is compatible', async () => {
    const { layer } = scene();
    const other = await load('0.1.9', '0.1.9');
    expect(other.manifestOf(layer).commands).not.toEqual([]);
  });
});
