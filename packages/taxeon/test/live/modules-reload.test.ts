import { describe, expect, test } from 'vitest';
import { botOn, lamp, taxeon } from '../../../../test/support/modules.js';

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

  test('what is to be done daily is, by the clocks of a zone, also where they are changed', async () => {
    const bot = botOn({
      'list.js': `${lamp('list', 'x')}export const opened = ({ daily, clock, services }) => {
  const note = (what) => () => services.seen.push(what + ' ' + new Date(clock.now()).toISOString());
  daily('8:00', note('list'), { timeZone: 'Europe/London' });
  daily('1:30', note('night'), { timeZone: 'Europe/London' });
  daily('13:00', note('noon'));
};`,
      'wrong.js': `${lamp('wrong', 'x')}export const opened = ({ daily }) => daily('25:00', () => {});`,
      'zone.js': `${lamp('zone', 'x')}export const opened = ({ daily }) => daily('8:00', () => {}, { timezone: 'UTC' });`,
    });
    await bot.tell('load');
    await bot.tell('advance', { ms: Date.parse('2026-10-24T12:00:00Z') - Date.parse('2026-05-09T13:00:00Z') });
    const { seen } = (await bot.tell('seen')) as { readonly seen: readonly string[] };
    expect(seen.slice(0, 3)).toEqual([
      'night 2026-05-10T00:30:00.000Z',
      'list 2026-05-10T07:00:00.000Z',
      'noon 2026-05-10T13:00:00.000Z',
    ]);
    await bot.tell('advance', { ms: 48 * 3_600_000 });
    // Half past one is shown twice on the 25th, and means the first of them.
    expect((await bot.tell('seen'))['seen']).toEqual([
      'noon 2026-10-24T13:00:00.000Z',
      'night 2026-10-25T00:30:00.000Z',
      'list 2026-10-25T08:00:00.000Z',
      'noon 2026-10-25T13:00:00.000Z',
      'night 2026-10-26T01:30:00.000Z',
      'list 2026-10-26T08:00:00.000Z',
    ]);
    await bot.tell('advance', { ms: Date.parse('2027-03-27T12:00:00Z') - Date.parse('2026-10-26T12:00:00Z') });
    await bot.tell('seen');
    await bot.tell('advance', { ms: 24 * 3_600_000 });
    // And is skipped on the 28th.
    expect((await bot.tell('seen'))['seen']).toEqual([
      'noon 2027-03-27T13:00:00.000Z',
      'night 2027-03-28T01:30:00.000Z',
      'list 2027-03-28T07:00:00.000Z',
    ]);
    const { logged } = (await bot.tell('logged')) as { readonly logged: readonly Record<string, unknown>[] };
    expect(logged.map(({ module, error }) => `${module}: ${error}`).sort()).toEqual([
      `wrong: daily takes a time such as '8:30', and not "25:00"`,
      'zone: daily, timezone: there is no such field; write timeZone',
    ]);
  });

  test('what is to be done daily is not frozen by a clock that was ahead', async () => {
    const bot = botOn({
      'list.js': `${lamp('list', 'x')}export const opened = ({ daily, clock, services }) =>
  daily('8:00', () => services.seen.push(new Date(clock.now()).toISOString()));`,
    });
    await bot.tell('load');
    await bot.tell('set_back', { ms: 30 * 86_400_000 });
    await bot.tell('advance', { ms: 3 * 86_400_000 });
    expect((await bot.tell('seen'))['seen']).toEqual([
      '2026-04-10T08:00:00.000Z',
      '2026-04-11T08:00:00.000Z',
      '2026-04-12T08:00:00.000Z',
    ]);
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
    await bot.tell('close');
    bot.write('one.js', 'export default (');
    await new Promise((resolve) => setTimeout(resolve, 200));
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
