/** What reaches a browser: bundled and minified by two common bundlers, gzipped, in kB (1,000 bytes). */
import { mkdir, mkdtemp, rm, symlink, writeFile } from 'node:fs/promises';
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

/** The most that each may come to, with rolldown and with esbuild. Lower it when something is saved. */
const programs: readonly [what: string, source: string, most: readonly [number, number]][] = [
  ['the command of the README', induct, [49.2, 55.8]],
  [
    'one command, its kind from `arg`',
    bot(`import { arg, command, createCommandLayer } from 'taxeon';`, 'arg.integer()'),
    [47.6, 55.6],
  ],
  [
    'the same, its kind from `taxeon/arg`',
    bot(`import { command, createCommandLayer } from 'taxeon';\nimport { integer } from 'taxeon/arg';`, 'integer()'),
    [47.6, 49.3],
  ],
  ['everything that `taxeon` exports', `export * from 'taxeon';`, [72.4, 75.1]],
];

let folder: string;

beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'taxeon-size-'));
  await mkdir(join(folder, 'node_modules'));
  await symlink(fileURLToPath(new URL('..', import.meta.url)), join(folder, 'node_modules', 'taxeon'));
});

afterAll(() => rm(folder, { recursive: true }));

function kB(code: string): number {
  return gzipSync(code).length / 1000;
}

async function byRolldown(input: string): Promise<string> {
  const bundle = await rolldown({ input, platform: 'browser', logLevel: 'silent' });
  const { output } = await bundle.generate({ format: 'es', minify: true });
  await bundle.close();
  return output.map((chunk) => ('code' in chunk ? chunk.code : '')).join('');
}

async function byEsbuild(input: string): Promise<string> {
  const options = { bundle: true, minify: true, format: 'esm', platform: 'browser', write: false } as const;
  const { outputFiles } = await esbuild.build({ ...options, entryPoints: [input] });
  return outputFiles.map(({ text }) => text).join('');
}

describe('the size in a browser', () => {
  test.each(programs)('of %s stays within its budget', async (_, source, [rolldownMost, esbuildMost]) => {
    const input = join(folder, 'bot.js');
    await writeFile(input, source);
    const sizes = [kB(await byRolldown(input)), kB(await byEsbuild(input))] as const;
    expect(sizes[0]).toBeGreaterThan(10);
    expect(sizes[0]).toBeLessThan(rolldownMost);
    expect(sizes[1]).toBeLessThan(esbuildMost);
  });

  test('queries, languages and what only Node has are left out of a bot that does not use them', async () => {
    const input = join(folder, 'bot.js');
    await writeFile(input, programs[2]?.[1] ?? '');
    for (const code of [await byRolldown(input), await byEsbuild(input)]) {
      expect(code).toContain('There is no command');
      for (const absent of ['the handler would run', 'Nothing is decided here.', 'x-order', 'node:']) {
        expect([absent, code.includes(absent)]).toEqual([absent, false]);
      }
    }
  });
});
