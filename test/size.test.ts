/** What reaches a browser: bundled and minified by two common bundlers, gzipped, in kB (1,000 bytes). */
import { mkdtemp, readFile, rm, symlink, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { gzipSync } from 'node:zlib';
import * as esbuild from 'esbuild';
import { rolldown } from 'rolldown';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';

const bot = (imports: string, pence: string) => `
${imports}
const fine = command({
  name: 'fine',
  description: 'Charge a member',
  args: { pence: ${pence} },
  cooldowns: { user: '5 in 1m' },
  run: ({ args }) => \`\${args.pence} pence.\`,
});
export const layer = createCommandLayer({ commands: [fine], prefixes: ['!'] });
`;

const induct = `
import { arg, command, createCommandLayer } from 'taxeon';
const induct = command({
  name: 'induct',
  aliases: ['certify'],
  description: 'Record a safety induction and give the badge for it',
  args: {
    who: arg.member({ description: 'Who was shown the machine' }),
    skill: arg.choice(['lathe', 'welder', 'chainsaw'], { description: 'Which machine' }),
    valid: arg.duration({ description: 'For how long', min: '30d', max: '365d', default: '180d' }),
    note: arg.tail({ description: 'Anything to remember', optional: true }),
  },
  requires: ({ caller, bot }) => [
    caller.can('certify'),
    caller.outranks('who'),
    bot.can('give-badges'),
    bot.outranks('who'),
  ],
  cooldowns: { user: '5 in 1m', guild: '40 in 1h' },
  run: ({ args }) => \`\${args.who.name} may use the \${args.skill}.\`,
});
export const layer = createCommandLayer({ commands: [induct], prefixes: ['!'] });
`;

const importAll = (from: string) => `import * as all from '${from}';\nexport const names = Object.keys(all);`;

interface Program {
  readonly what: string;
  readonly source: string;
  /** What is aimed at, in kB, where something is. */
  readonly goal?: number;
  /** The most that it may come to, with rolldown and with esbuild. Lower it when something is saved. */
  readonly most: readonly [number, number];
}

const programs: readonly Program[] = [
  { what: 'the command of the README', source: induct, goal: 34, most: [63.3, 80.8] },
  {
    what: 'one command, its kind from `arg`',
    source: bot(`import { arg, command, createCommandLayer } from 'taxeon';`, 'arg.integer()'),
    most: [56.3, 80.7],
  },
  {
    what: 'the same, its kind from `taxeon/arg`',
    source: bot(
      `import { command, createCommandLayer } from 'taxeon';\nimport { integer } from 'taxeon/arg';`,
      'integer()',
    ),
    goal: 24,
    most: [56.3, 58.4],
  },
  { what: 'everything that `taxeon` exports', source: importAll('taxeon'), goal: 46, most: [90.9, 94.2] },
  { what: 'everything that `taxeon/arg` exports', source: importAll('taxeon/arg'), most: [30.5, 31.5] },
  { what: 'everything that `@taxeon/icu` exports', source: importAll('@taxeon/icu'), most: [28.2, 29] },
  {
    what: 'the command of the README in a layer that asks',
    source: induct
      .replace("from 'taxeon';", "from 'taxeon';\nimport { askInChat } from 'taxeon/asking';")
      .replace("prefixes: ['!'] }", "prefixes: ['!'], asking: askInChat({ whenMissing: 'ask' }) }"),
    most: [71, 88.7],
  },
  {
    what: 'everything that `@taxeon/testing/tryouts` exports',
    source: importAll('@taxeon/testing/tryouts'),
    most: [19.1, 20.4],
  },
  { what: '`@taxeon/irc`, without its client', source: importAll('@taxeon/irc'), most: [13.1, 14.6] },
  {
    what: 'an endpoint with a shared secret, without a layer',
    source: `import { sharedSecret, slashEndpoint } from '@taxeon/http';\nexport const make = [sharedSecret, slashEndpoint];`,
    most: [15.3, 16.6],
  },
  { what: 'everything that `@taxeon/http` exports', source: importAll('@taxeon/http'), most: [24.4, 26] },
  { what: '`taxeon/console`', source: importAll('taxeon/console'), most: [3.8, 5.2] },
  { what: 'everything that `taxeon/queries` exports', source: importAll('taxeon/queries'), most: [46.5, 48] },
  {
    what: 'everything that `@taxeon/testing/trials` exports',
    source: importAll('@taxeon/testing/trials'),
    most: [66.4, 68.8],
  },
  { what: '`@taxeon/file-store`, without its database', source: importAll('@taxeon/file-store'), most: [7.1, 8.7] },
  { what: '`@taxeon/redis`, without its client', source: importAll('@taxeon/redis'), most: [12.3, 13.8] },
  { what: '`taxeon/telemetry`', source: importAll('taxeon/telemetry'), most: [2.3, 3.5] },
];

let folder: string;

beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'taxeon-size-'));
  await symlink(fileURLToPath(new URL('../node_modules', import.meta.url)), join(folder, 'node_modules'));
});

afterAll(() => rm(folder, { recursive: true }));

function kB(code: string): number {
  return gzipSync(code).length / 1000;
}

/** What only Node.js has. */
const external = [
  'irc-framework',
  'libsql',
  'node:crypto',
  'node:fs',
  'node:module',
  'node:path',
  'node:os',
  'node:readline',
  'node:url',
];

async function byRolldown(input: string): Promise<string> {
  const bundle = await rolldown({ input, platform: 'browser', logLevel: 'silent', external });
  const { output } = await bundle.generate({ format: 'es', minify: true });
  await bundle.close();
  return output.map((chunk) => ('code' in chunk ? chunk.code : '')).join('');
}

async function byEsbuild(input: string): Promise<string> {
  const options = { bundle: true, minify: true, format: 'esm', platform: 'browser', write: false, external } as const;
  const { outputFiles } = await esbuild.build({ ...options, entryPoints: [input] });
  return outputFiles.map(({ text }) => text).join('');
}

const page = new URL('../docs/size.md', import.meta.url);
const isWritten = process.env['SIZES'] === 'write';
/** A page may be off by so much, in kB: another release of Node.js packs otherwise. */
const TOLERANCE = 0.2;

async function sizesOf(source: string): Promise<readonly [number, number]> {
  const input = join(folder, 'bot.js');
  await writeFile(input, source);
  return [kB(await byRolldown(input)), kB(await byEsbuild(input))];
}

describe('the size in a browser', () => {
  const measured: (readonly [number, number])[] = [];

  test.each(programs)('of $what stays within its budget', async ({ source, most: [rolldownMost, esbuildMost] }) => {
    const sizes = await sizesOf(source);
    measured.push(sizes);
    expect(sizes[0]).toBeGreaterThan(1);
    expect(sizes[0]).toBeLessThan(rolldownMost);
    expect(sizes[1]).toBeLessThan(esbuildMost);
  });

  test('is what docs/size.md says', async () => {
    const rows = programs.map(
      ({ what, goal }, index) =>
        `| ${what} | ${measured[index]?.map((size) => size.toFixed(1)).join(' | ')} | ${goal === undefined ? '' : `≤ ${goal}`} |`,
    );
    const said = await readFile(page, 'utf8');
    const lines = said.split('\n');
    const first = lines.indexOf('|---|---|---|---|') + 1;
    if (isWritten) {
      const last = lines.indexOf('', first);
      await writeFile(page, [...lines.slice(0, first), ...rows, ...lines.slice(last)].join('\n'));
      return;
    }
    for (const [index, { what }] of programs.entries()) {
      const [, name, ...sizes] = (lines[first + index] ?? '').split('|').map((cell) => cell.trim());
      const [rolldownSays, esbuildSays] = sizes.map(Number);
      const [byRolldown = 0, byEsbuild = 0] = measured[index] ?? [];
      expect(name).toBe(what);
      expect(Math.abs((rolldownSays ?? 0) - byRolldown), `${what}: npm run sizes`).toBeLessThan(TOLERANCE);
      expect(Math.abs((esbuildSays ?? 0) - byEsbuild), `${what}: npm run sizes`).toBeLessThan(TOLERANCE);
    }
  });

  test('queries, languages and what only Node has are left out of a bot that does not use them', async () => {
    const input = join(folder, 'bot.js');
    await writeFile(input, programs[2]?.source ?? '');
    for (const code of [await byRolldown(input), await byEsbuild(input)]) {
      expect(code).toContain('There is no command');
      for (const absent of ['the handler would run', 'Nothing is decided here.', 'x-order', 'node:']) {
        expect([absent, code.includes(absent)]).toEqual([absent, false]);
      }
    }
  });
});
