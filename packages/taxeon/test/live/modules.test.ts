import { spawn } from 'node:child_process';
import { mkdirSync, mkdtempSync, readFileSync, rmSync, symlinkSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { createInterface } from 'node:readline';
import { describe, expect, onTestFinished, test } from 'vitest';
import { botOn, type Files, lamp, library, taxeon } from '../../../../test/support/modules.js';

describe('modules of a folder', () => {
  test('are found at any depth, in JavaScript and TypeScript, with their folder as the section', async () => {
    const bot = botOn({
      'lending/borrow.ts': `import { command } from ${taxeon};
import { lit } from './_words.js';
interface Services { readonly seen: string[] }
export default ({ seen }: Services) => command({ name: 'borrow', description: 'x', run: () => { seen.push('ran'); return lit as string; } });`,
      'lending/_words.ts': `export const lit: string = 'It is yours.';`,
      'late-returns/deep/close.mjs': `${lamp('close', 'Closed.')}export const section = 'Late';`,
      'several.js': `import { command, group } from ${taxeon};
export const one = command({ name: 'one', description: 'x', run: () => 'One.' });
export const two = group({ name: 'two', description: 'x', commands: [command({ name: 'three', description: 'x', run: () => 'Three.' })] });`,
      'lending/borrow.test.ts': 'throw new Error("a test is no module")',
      'whole.js': `import { command } from ${taxeon};
export default ({ seen }) => {
  const counted = command({ name: 'count', description: 'x', run: () => String(seen.length) });
  return { section: 'Numbers', commands: counted, opened: () => seen.push('opened'), closing() {} };
};`,
      'listed.js': `import { command } from ${taxeon};
export const commands = () => [command({ name: 'four', description: 'x', run: () => 'Four.' })];`,
      'types.d.ts': 'export {};',
      '.hidden/x.js': 'throw new Error("hidden")',
    });
    expect((await bot.tell('load'))['list']).toEqual([
      { id: 'late-returns/deep/close', file: 'late-returns/deep/close.mjs', section: 'Late', commands: ['close'] },
      { id: 'lending/borrow', file: 'lending/borrow.ts', section: 'Lending', commands: ['borrow'] },
      { id: 'listed', file: 'listed.js', commands: ['four'] },
      { id: 'several', file: 'several.js', commands: ['one', 'two'] },
      { id: 'whole', file: 'whole.js', section: 'Numbers', commands: ['count'] },
    ]);
    expect([await bot.says('!borrow'), await bot.says('!close'), await bot.says('!two three')]).toEqual([
      'It is yours.',
      'Closed.',
      'Three.',
    ]);
    expect([await bot.says('!four'), await bot.says('!count')]).toEqual(['Four.', '2']);
    expect((await bot.tell('seen'))['seen']).toEqual(['opened', 'ran']);
  });

  const bad: readonly (readonly [string, string, string | undefined, RegExp, number?])[] = [
    ['syntax.js', 'export default (', undefined, /does not read: /, 1],
    ['syntax.ts', 'const a: string = 1;\n\nexport default {{', undefined, /does not read: /, 3],
    ['none.js', 'export const a = 1;', undefined, /exports no command/],
    ['wrong.js', 'export default { name: "x" };', undefined, /exports an object, which is no command/],
    ['number.js', 'export default [7];', undefined, /exports 7, which is no command/],
    ['throws.js', '\n\nthrow new Error("no shelf");', undefined, /fails while it is read: no shelf/, 3],
    [
      'function.js',
      'export default () => { throw new Error("no services"); };',
      undefined,
      /its default export throws: no services/,
      1,
    ],
    [
      'missing.js',
      "import './nowhere.js';\nexport default [];",
      undefined,
      /fails while it is read: Cannot find module/,
    ],
    ['near.js', `${lamp('near', 'x')}export function opend() {}`, undefined, /exports "opend"; write opened/],
    [
      'beside.js',
      'export default () => ({ commands: [], opened() {}, timer: 7 });',
      undefined,
      /gives "timer", which modules do not have; there are commands, section, opened, closing/,
    ],
    ['hook.js', `${lamp('hook', 'x')}export const opened = 7;`, undefined, /exports opened that is 7; give a function/],
    ['section.js', `${lamp('section', 'x')}export const section = '';`, undefined, /exports a section that is ""/],
    ['twice.js', lamp('same', 'x'), lamp('SAME', 'y'), /has the command "SAME", which twice.js has too/],
    [
      'circle.js',
      lamp('circle', 'x', "import './circle-other.js';"),
      lamp('other', 'y', "import './circle.js';"),
      /imports itself in a circle: circle/,
    ],
  ];
  const filesOf = ([name, text, other]: (typeof bad)[number]): Files =>
    other === undefined ? { [name]: text } : { [name]: text, [name.replace('.', '-other.')]: other };

  test.each(bad)('%s alone is told', async (...given) => {
    const one = given as unknown as (typeof bad)[number];
    const { problems = [], error, name } = await botOn(filesOf(one)).tell('load');
    const [, , , expected, line] = one;
    expect({ name, problems, error }).toMatchObject({
      name: 'ModulesError',
      problems: [{ problem: expect.stringMatching(expected) }],
    });
    if (line !== undefined) expect(problems[0]?.line).toBe(line);
    expect(error).not.toContain('file://');
  });

  test('all together are told at once', async () => {
    const files = Object.assign({ 'right.js': lamp('right', 'x') }, ...bad.map(filesOf)) as Files;
    const { problems = [] } = await botOn(files).tell('load');
    expect(new Set(problems.map(({ file }) => file.replace('-other', ''))).size).toBe(bad.length);
    expect(problems.map(({ file }) => file)).not.toContain('right.js');
  });

  test('none in an empty folder, and a folder that is not there is told', async () => {
    const bot = botOn({});
    expect((await bot.tell('load'))['list']).toEqual([]);
    expect((await botOn({}).tell('load', { service: 1 })).error).toBe(
      'loadModules, service: there is no such field; write services',
    );
    const gone = botOn({});
    gone.removeAll();
    expect((await gone.tell('load')).error).toMatch(/^There is no folder .* to load modules from$/);
  });
});

test('the bot at the end of docs/modules.md runs, and lights the lamp anew', async () => {
  const docs = readFileSync(new URL('../../../../docs/modules.md', import.meta.url), 'utf8');
  const folder = mkdtempSync(join(tmpdir(), 'oddmere-docs-'));
  mkdirSync(join(folder, 'commands'));
  mkdirSync(join(folder, 'node_modules'));
  symlinkSync(library, join(folder, 'node_modules', 'taxeon'));
  writeFileSync(join(folder, 'package.json'), '{ "type": "module" }');
  const blocks = [...docs.matchAll(/^```js\n\/\/ (\S+)\n([\s\S]*?)^```$/gm)];
  expect(blocks.map(([, name]) => name)).toEqual(['commands/lamp.js', 'bot.js']);
  for (const [, name = '', text = ''] of blocks) writeFileSync(join(folder, name), text);
  const child = spawn(process.execPath, ['bot.js'], { cwd: folder, stdio: ['pipe', 'pipe', 'inherit'] });
  onTestFinished(() => {
    child.kill('SIGKILL');
    rmSync(folder, { recursive: true, force: true });
  });
  const lines = createInterface({ input: child.stdout })[Symbol.asyncIterator]();
  const says = async (text: string) => {
    child.stdin.write(`${text}\n`);
    return (await lines.next()).value;
  };
  expect(await says('lamp')).toBe('  The lamp is lit.');
  const [, , lampText = ''] = blocks[0] ?? [];
  writeFileSync(join(folder, 'commands', 'lamp.js'), lampText.replace('is lit', 'is bright'));
  let told = '';
  for (let tries = 0; tries < 50 && told !== '  The lamp is bright.'; tries++) {
    await new Promise((resolve) => setTimeout(resolve, 50));
    told = await says('lamp');
    if (told.startsWith('  Modules were reloaded')) told = (await lines.next()).value;
  }
  expect(told).toBe('  The lamp is bright.');
});
