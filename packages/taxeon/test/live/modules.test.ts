import { spawn } from 'node:child_process';
import { mkdirSync, mkdtempSync, readFileSync, rmSync, symlinkSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { createInterface } from 'node:readline';
import { fileURLToPath } from 'node:url';
import { afterAll, afterEach, describe, expect, test } from 'vitest';
import { oddmereData } from '../support/oddmere.js';
import { script } from '../support/programs.js';

const library = fileURLToPath(new URL('../..', import.meta.url));
const taxeon = JSON.stringify(new URL('../../dist/index.js', import.meta.url).href);
const cleaning: (() => void)[] = [];
afterEach(() => {
  for (const clean of cleaning.splice(0)) clean();
});

const shared = mkdtempSync(join(tmpdir(), 'oddmere-world-'));
afterAll(() => rmSync(shared, { recursive: true }));
const world = join(shared, 'world.json');
writeFileSync(world, JSON.stringify(oddmereData().world));

type Files = Readonly<Record<string, string>>;
type Answer = Readonly<Record<string, unknown>> & {
  readonly problems?: readonly { readonly file: string; readonly line?: number; readonly problem: string }[];
  readonly says?: string;
  readonly error?: string;
};

/** A bot on a folder of these files, in a process of its own. */
function botOn(files: Files, { isLinked = false } = {}) {
  const real = mkdtempSync(join(tmpdir(), 'oddmere-modules-'));
  const folder = isLinked ? join(real, 'link') : real;
  if (isLinked) {
    mkdirSync(join(real, 'commands'));
    mkdirSync(join(real, 'node_modules'));
    symlinkSync(join(real, 'commands'), folder);
    symlinkSync(library, join(real, 'node_modules', 'taxeon'));
  }
  const write = (name: string, text: string) => {
    mkdirSync(dirname(join(folder, name)), { recursive: true });
    writeFileSync(join(folder, name), text);
  };
  for (const [name, text] of Object.entries(files)) write(name, text);
  const child = spawn(process.execPath, [script('module-runner.js'), folder, world], {
    stdio: ['pipe', 'pipe', 'inherit'],
  });
  cleaning.push(() => {
    child.kill('SIGKILL');
    rmSync(real, { recursive: true, force: true });
  });
  const lines = createInterface({ input: child.stdout })[Symbol.asyncIterator]();
  const tell = async (what: string, given: object = {}): Promise<Answer> => {
    child.stdin.write(`${JSON.stringify({ what, ...given })}\n`);
    const { value, done } = await lines.next();
    if (done === true) throw new Error(`The bot has ended at ${what}`);
    return JSON.parse(value);
  };
  const remove = (name: string) => rmSync(join(folder, name));
  const removeAll = () => rmSync(folder, { recursive: true });
  return { write, remove, removeAll, tell, says: async (text: string) => (await tell('say', { text })).says };
}

/** A command that says something, as JavaScript. */
const lamp = (name: string, says: string, more = '') =>
  `import { command } from ${taxeon};\n${more}\nexport default command({ name: '${name}', description: 'x', run: () => ${JSON.stringify(says)} });\n`;

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
      'types.d.ts': 'export {};',
      '.hidden/x.js': 'throw new Error("hidden")',
    });
    expect((await bot.tell('load'))['list']).toEqual([
      { id: 'late-returns/deep/close', file: 'late-returns/deep/close.mjs', section: 'Late', commands: ['close'] },
      { id: 'lending/borrow', file: 'lending/borrow.ts', section: 'Lending', commands: ['borrow'] },
      { id: 'several', file: 'several.js', commands: ['one', 'two'] },
    ]);
    expect([await bot.says('!borrow'), await bot.says('!close'), await bot.says('!two three')]).toEqual([
      'It is yours.',
      'Closed.',
      'Three.',
    ]);
    expect((await bot.tell('seen'))['seen']).toEqual(['ran']);
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
    const gone = botOn({});
    gone.removeAll();
    expect((await gone.tell('load')).error).toMatch(/^There is no folder .* to load modules from$/);
  });
});

/** A module that says when it is opened and closed. */
const told = (name: string, version: number) => `import { command } from ${taxeon};
let seen;
export default (services) => {
  seen = services.seen;
  return command({ name: '${name}', description: 'x', cooldowns: { user: '2 in 1h' }, run: () => '${name} ${version}' });
};
export const opened = ({ every, connected, signal }) => {
  seen.push('open ${name} ${version}');
  connected((platform) => seen.push('${name} ${version} on ' + platform.name));
  every('1h', () => seen.push('tick ${name} ${version}'));
  signal.addEventListener('abort', () => seen.push('abort ${name} ${version}'));
};
export const closing = () => seen.push('close ${name} ${version}');
`;

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
  cleaning.push(() => {
    child.kill('SIGKILL');
    rmSync(folder, { recursive: true, force: true });
  });
  const lines = createInterface({ input: child.stdout })[Symbol.asyncIterator]();
  const says = async (text: string) => {
    child.stdin.write(`${text}\n`);
    return (await lines.next()).value;
  };
  expect(await says('lamp')).toBe('The lamp is lit.');
  const [, , lampText = ''] = blocks[0] ?? [];
  writeFileSync(join(folder, 'commands', 'lamp.js'), lampText.replace('is lit', 'is bright'));
  let told = '';
  for (let tries = 0; tries < 50 && told !== 'The lamp is bright.'; tries++) {
    await new Promise((resolve) => setTimeout(resolve, 50));
    told = await says('lamp');
    if (told.startsWith('Modules were reloaded')) told = (await lines.next()).value;
  }
  expect(told).toBe('The lamp is bright.');
});

describe('a reload', () => {
  test('reads what has changed anew, with what imports it, and leaves the rest as it is', async () => {
    const bot = botOn({ 'borrow.js': told('borrow', 1), 'fine.js': told('fine', 1) });
    await bot.tell('load');
    expect((await bot.tell('seen'))['seen']).toEqual([
      'open borrow 1',
      'open fine 1',
      'borrow 1 on stand-in',
      'fine 1 on stand-in',
    ]);
    expect([await bot.says('!fine'), await bot.says('!borrow')]).toEqual(['fine 1', 'borrow 1']);
    bot.write('fine.js', told('fine', 2));
    expect(await bot.tell('reload')).toMatchObject({ changed: ['fine'], added: [], removed: [] });
    expect((await bot.tell('seen'))['seen']).toEqual([
      'abort fine 1',
      'close fine 1',
      'open fine 2',
      'fine 2 on stand-in',
    ]);
    // Cooldowns go by the command's id, so they go on.
    expect([await bot.says('!fine'), await bot.says('!fine'), await bot.says('!borrow')]).toEqual([
      'fine 2',
      expect.stringContaining('Not yet.'),
      'borrow 1',
    ]);
    await bot.tell('advance', { ms: 3_600_000 });
    expect((await bot.tell('seen'))['seen']).toEqual(['tick borrow 1', 'tick fine 2']);
    await bot.tell('close');
    await bot.tell('advance', { ms: 3_600_000 });
    expect((await bot.tell('seen'))['seen']).toEqual([
      'abort borrow 1',
      'close borrow 1',
      'abort fine 2',
      'close fine 2',
    ]);
  });

  test('follows files that are new, gone, or imported by modules', async () => {
    const bot = botOn({
      'one.js': lamp('one', 'x').replace('"x"', 'says').replace('\n\n', `\nimport { says } from './_words.js';\n`),
      'two.js': lamp('two', 'Two.'),
      '_words.js': `export const says = 'First.';`,
    });
    await bot.tell('load');
    expect(await bot.says('!one')).toBe('First.');
    bot.write('_words.js', `export const says = 'Second.';`);
    bot.write('lending/three.js', lamp('three', 'Three.'));
    bot.remove('two.js');
    expect(await bot.tell('reload')).toMatchObject({ changed: ['one'], added: ['lending/three'], removed: ['two'] });
    expect([await bot.says('!one'), await bot.says('!two'), await bot.says('!three')]).toEqual([
      'Second.',
      '',
      'Three.',
    ]);
    expect(await bot.tell('reload')).toMatchObject({ changed: [], added: [], removed: [] });
    expect(await bot.tell('reload', { id: 'one' })).toMatchObject({ changed: ['one'] });
    expect((await bot.tell('reload', { id: 'nowhere' })).error).toBe('There is no module nowhere');
  });

  test.each([
    ['does not read', 'export default (', 'does not read'],
    [
      'has a wrong declaration',
      lamp('one', 'x').replace("description: 'x'", "description: ''"),
      'description: is empty',
    ],
    ['has another’s name', lamp('two', 'x'), 'has the command "two"'],
    ['was written half', lamp('one', 'a long answer').slice(0, -40), 'does not read'],
  ])('of a file that %s keeps what runs, and says why', async (_, broken, expected) => {
    const bot = botOn({ 'one.js': lamp('one', 'First.'), 'two.js': lamp('two', 'Two.') });
    await bot.tell('load');
    bot.write('one.js', broken);
    const { problems = [], name } = await bot.tell('reload');
    expect({ name, text: problems[0]?.problem }).toEqual({
      name: 'ModulesError',
      text: expect.stringContaining(expected),
    });
    expect([await bot.says('!one'), await bot.says('!two')]).toEqual(['First.', 'Two.']);
    bot.write('one.js', lamp('one', 'Second.'));
    expect(await bot.tell('reload')).toMatchObject({ changed: ['one'] });
    expect(await bot.says('!one')).toBe('Second.');
  });

  test('is told in the chat, to the bot’s owners', async () => {
    const bot = botOn({ 'lending/one.js': lamp('one', 'First.'), 'two.js': lamp('two', 'Two.') });
    await bot.tell('load');
    expect(await bot.says('!modules list')).toBe('Modules\nlending/one: one\ntwo: two');
    expect(await bot.says('!modules reload')).toBe('Nothing has changed.');
    bot.write('lending/one.js', lamp('one', 'Second.').replace("description: 'x'", "description: 'Another'"));
    expect(await bot.says('!modules reload')).toBe('Reloaded: lending/one\nTo be registered: one');
    expect(await bot.says('!modules reload two')).toBe('Reloaded: two');
    expect(await bot.says('!modules reload tow')).toBe('There is no module “tow”.');
    bot.write('two.js', 'export default (');
    expect(await bot.says('!modules reload')).toMatch(
      /^Nothing was reloaded. A module is wrong:\ntwo.js:1: does not read: /,
    );
    expect([await bot.says('!one'), await bot.says('!two')]).toEqual(['Second.', 'Two.']);
    const { says } = await bot.tell('say', { text: '!modules list', person: 'tobias' });
    expect(says).toBe('That is only for the bot’s owners.');
  });

  test('a guild switches a module off by its id', async () => {
    const bot = botOn({ 'lending/one.js': lamp('one', 'First.'), 'two.js': lamp('two', 'Two.') });
    await bot.tell('load');
    expect(await bot.says('!switch lending/one off')).toBe('lending/one is off.');
    expect([await bot.says('!one'), await bot.says('!two')]).toEqual(['“one” is switched off here.', 'Two.']);
    bot.write('lending/one.js', lamp('one', 'Second.'));
    await bot.tell('reload');
    expect(await bot.says('!one')).toBe('“one” is switched off here.');
    expect(await bot.says('!switch lending/one on')).toBe('lending/one is on.');
    expect(await bot.says('!one')).toBe('Second.');
  });

  test('reaches CommonJS, what that requires, and folders behind a link', async () => {
    const cjs = (version: number) => `const { command } = require('taxeon');
const { lit } = require('./_words.cjs');
module.exports = command({ name: 'lamp', description: 'x', run: () => '${version} ' + lit });`;
    const bot = botOn({ 'lamp.cjs': cjs(1), '_words.cjs': `exports.lit = 'lit';` }, { isLinked: true });
    await bot.tell('load');
    expect(await bot.says('!lamp')).toBe('1 lit');
    bot.write('lamp.cjs', cjs(2));
    await bot.tell('reload');
    expect(await bot.says('!lamp')).toBe('2 lit');
    bot.write('_words.cjs', `exports.lit = 'bright';`);
    expect(await bot.tell('reload')).toMatchObject({ changed: ['lamp'] });
    expect(await bot.says('!lamp')).toBe('2 bright');
  });

  test('is not held up by a module that does not end opening, and none follows the layer’s close', async () => {
    const bot = botOn({
      'slow.js': `${lamp('slow', 'x')}export const opened = () => new Promise(() => {});`,
      'good.js': told('good', 1),
    });
    await bot.tell('load');
    expect((await bot.tell('logged'))['logged']).toMatchObject([
      { message: 'A module could not open', module: 'slow' },
    ]);
    await bot.tell('close');
    expect((await bot.tell('reload')).error).toBe('The layer is closed; nothing is reloaded');
  });

  test('leaves an open question open', async () => {
    const asks = (says: string) => `import { arg, command } from ${taxeon};
export default command({ name: 'note', description: 'x', whenMissing: 'ask', args: { text: arg.text() }, run: ({ args }) => '${says} ' + args.text });`;
    const bot = botOn({ 'note.js': asks('First:') });
    await bot.tell('load');
    expect(await bot.says('!note')).toContain('I still need “text”');
    bot.write('note.js', asks('Second:'));
    await bot.tell('reload');
    expect(await bot.says('oiled')).toBe('Second: oiled');
  });

  test('what a module throws is logged with its name, and stops no other', async () => {
    const bot = botOn({
      'bad.js': `${lamp('bad', 'Bad.')}export const opened = ({ every }) => { every('1m', () => { throw new Error('no tick'); }); throw new Error('no shelf'); };
export const closing = () => { throw new Error('no end'); };`,
      'good.js': told('good', 1),
      'wrong.js': `${lamp('wrong', 'x')}export const opened = ({ every }) => every('soon', () => {});`,
    });
    await bot.tell('load');
    await bot.tell('advance', { ms: 60_000 });
    await bot.tell('close');
    const { logged } = (await bot.tell('logged')) as { readonly logged: readonly Record<string, unknown>[] };
    expect(logged.map(({ message, module, error }) => `${message}, ${module}: ${error}`).sort()).toEqual([
      'A module could not close, bad: no end',
      'A module could not do what it does again and again, bad: no tick',
      'A module could not open, bad: no shelf',
      `A module could not open, wrong: every takes a length of time such as '1d', and not "soon"`,
    ]);
    expect((await bot.tell('seen'))['seen']).toContain('close good 1');
  });

  test('comes by itself where the folder is watched, and tells each mistake once', async () => {
    const bot = botOn({ 'one.js': lamp('one', 'First.') });
    await bot.tell('load');
    await bot.tell('watch');
    const until = async (text: string) => {
      for (let tries = 0; tries < 100; tries++) {
        if ((await bot.says('!one')) === text) return;
        await new Promise((resolve) => setTimeout(resolve, 30));
      }
      throw new Error(`it never says ${text}`);
    };
    bot.write('one.js', lamp('one', 'Second.'));
    await until('Second.');
    for (const more of ['', ' ', '  ']) {
      bot.write('one.js', `export default (${more}`);
      await new Promise((resolve) => setTimeout(resolve, 200));
    }
    expect(await bot.says('!one')).toBe('Second.');
    bot.write('one.js', lamp('one', 'Third.'));
    await until('Third.');
    await bot.tell('unwatch');
    const { logged } = (await bot.tell('logged')) as { logged: { message: string }[] };
    expect(logged.map(({ message }) => message)).toEqual([
      'Modules were reloaded',
      'Modules were not reloaded; the old ones run on',
      'Modules were reloaded',
    ]);
  });

  test('under 1,000 calls a second, fifty times, loses none, and none meets a mixture', async () => {
    const both = `import { command } from ${taxeon};
import { version } from './_version.js';
import { again } from './_again.js';
export default command({ name: 'both', description: 'x', run: () => version + ' ' + again });`;
    const bot = botOn({
      'both.js': both,
      '_version.js': 'export const version = 0;',
      '_again.js': `export { version as again } from './_version.js';`,
      ...Object.fromEntries(
        Array.from({ length: 20 }, (_, index) => [`other-${index}.js`, lamp(`other${index}`, 'x')]),
      ),
    });
    await bot.tell('load');
    await bot.tell('load_begin', { perSecond: 1000 });
    for (let version = 1; version <= 50; version++) {
      bot.write('_version.js', `export const version = ${version};`);
      expect(await bot.tell('reload')).toMatchObject({ changed: ['both'] });
    }
    const { calls, lost, replies } = (await bot.tell('load_end')) as { calls: number; lost: number; replies: object };
    expect(lost).toBe(0);
    expect(calls).toBeGreaterThan(300);
    expect(Object.keys(replies).filter((reply) => reply.split(' ')[0] !== reply.split(' ')[1])).toEqual([]);
    expect(Object.values(replies).reduce((sum: number, count) => sum + Number(count), 0)).toBe(calls);
    expect(Object.keys(replies).length).toBeGreaterThan(20);
  });
});
