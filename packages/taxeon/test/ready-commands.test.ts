import { japanese, polish } from '@taxeon/icu';
import { arg, command, createCommandLayer, group, guildSettings, helpCommand, settingsCommands } from 'taxeon';
import { complete } from 'taxeon/queries';
import { manifestOf } from 'taxeon/registration';
import { describe, expect, test } from 'vitest';
import { codeOf, oddmere, type Scene, sceneOf, silentLog } from '../../../test/support/oddmere.js';

const described = { description: 'x', run: () => 'The lamp is lit.' };

async function managed(): Promise<Scene> {
  const settings = guildSettings({ log: silentLog });
  const managing = settingsCommands(settings, { requires: ({ caller }) => [caller.can('manage')] });
  const lamp = command({ ...described, name: 'lamp', requires: ({ bot }) => [bot.can('administer')] });
  const when = command({
    ...described,
    name: 'when',
    args: { at: arg.datetime() },
    run: ({ args, words }) => words.datetime(args.at, 'UTC'),
  });
  return oddmere(({ clock }) =>
    createCommandLayer({
      commands: (layer) => [lamp, when, ...managing, helpCommand(layer)],
      prefixes: ['!'],
      settings,
      clock,
      languages: [polish(), japanese()],
      log: silentLog,
    }),
  );
}

const said = async (scene: Scene, text: string, locale?: string) => {
  const input = scene.platform.typed({
    person: 'odalys',
    place: 'oddmere/counter',
    text,
    ...(locale === undefined ? {} : { locale }),
  });
  const { posts } = await scene.platform.send(input);
  const { heading, body = '', details = [] } = posts[0]?.notice ?? {};
  return [...(heading === undefined ? [] : [heading]), body, ...details].join('\n');
};

describe('ready commands speak the reader’s language:', () => {
  test.each([
    ['!grant lamp borrower', 'pl', 'Rola borrower: polecenie lamp jest tu dozwolone.'],
    ['!grant lamp wren', 'ja', 'Wrenはここでlampを使えます。'],
    ['!grant lamp #counter', undefined, 'The channel #\u2060counter may use lamp here.'],
    ['!switch lamp off', 'pl', 'Polecenie lamp jest wyłączone.'],
    ['!deny nothing wren', 'ja', 'そのようなコマンドはありません。'],
    ['!prefix ? %', 'pl', 'Polecenia zaczynają się tu od: ? lub %.'],
  ])('%s', async (text, locale, expected) => {
    expect(await said(await managed(), text, locale)).toBe(expected);
  });

  test('settings and help, too, with descriptions of commands and arguments', async () => {
    const scene = await managed();
    await said(scene, '!switch lamp off');
    await said(scene, '!grant when borrower');
    expect(await said(scene, '!settings', 'pl')).toBe(
      'Ustawienia: Oddmere Tool Library\nWyłączone: lamp.\nRola borrower: polecenie when jest tu dozwolone.',
    );
    expect(await said(scene, '!help', 'pl')).toContain('!grant: Pozwól komuś używać tu polecenia');
    expect(await said(scene, '!help switch', 'ja')).toContain('<on>: 使えるかどうか');
    expect(await said(scene, '!help help', 'pl')).toContain('Co można tu zrobić i jak');
  });

  test('and are registered with descriptions in all of the layer’s languages', async () => {
    const help = manifestOf((await managed()).layer).commands.find(({ name }) => name === 'help');
    expect(help).toMatchObject({
      descriptions: { ja: 'ここでできることと、その方法', pl: 'Co można tu zrobić i jak' },
      arguments: { properties: { what: { 'x-descriptions': { pl: 'Które polecenie lub która grupa' } } } },
    });
  });
});

describe('the chat sets', () => {
  test('the language, and takes it back', async () => {
    const scene = await managed();
    expect(await said(scene, '!language PL')).toBe('The language is pl here.');
    expect(await said(scene, '!lamp x')).toContain('lamp');
    expect(await said(scene, '!settings')).toContain('Ustawienia');
    expect(await said(scene, '!language default')).toBe('Język tutaj: własny każdej osoby albo bota.');
    expect(await said(scene, '!settings')).toContain('Nothing is decided here.');
    const { outcome, posts } = await scene.types('odalys', '!language cy');
    expect([codeOf(outcome), posts[0]?.notice.body]).toEqual([
      'settings.unknown-language',
      'I do not know the language “cy”. There are en, pl and ja.',
    ]);
  });

  test('the time zone in which times are read, and takes it back', async () => {
    const scene = await managed();
    expect(await said(scene, '!when 2026-05-09 18:00')).toContain('18:00');
    expect(await said(scene, '!time-zone Asia/Tokyo')).toBe('The time zone is Asia/Tokyo here.');
    expect(await said(scene, '!when 2026-05-09 18:00')).toContain('09:00');
    expect(await said(scene, '!time-zone default')).toBe('The time zone is the bot’s here.');
    expect(await said(scene, '!when 2026-05-09 18:00')).toContain('18:00');
    expect(codeOf((await scene.types('odalys', '!time-zone Oddmere/Counter')).outcome)).toBe(
      'settings.unknown-time-zone',
    );
    const typed = scene.platform.typed({ person: 'odalys', place: 'oddmere/counter', text: '!time-zone toky' });
    expect((await complete(scene.layer, typed, 15, scene.platform)).map(({ text }) => text)).toEqual(['Asia/Tokyo']);
  });
});

describe('help', () => {
  test('says of a command what the bot itself lacks for it here', async () => {
    const scene = await managed();
    expect(await said(scene, '!help lamp')).toContain('I need the permission administer here before I can do that.');
    expect(await said(scene, '!help when')).not.toContain('I need');
    expect(await said(scene, '!help lamp', 'pl')).toContain('administer');
  });

  const names = async (text: string, person = 'ines') => {
    const overdue = ['list', 'remind'].map((name) => command({ ...described, name }));
    const fine = command({ ...described, name: 'fine', requires: ({ caller }) => [caller.can('fine')] });
    const scene = await oddmere(({ clock }) =>
      createCommandLayer({
        commands: (layer) => [
          fine,
          group({ name: 'overdue', description: 'x', commands: overdue }),
          helpCommand(layer),
        ],
        prefixes: ['!'],
        clock,
      }),
    );
    const typed = scene.platform.typed({ person, place: 'oddmere/counter', text });
    return (await complete(scene.layer, typed, text.length, scene.platform)).map((one) => one.text);
  };
  test.each([
    ['!help ov', ['overdue']],
    ['!help overdue ', ['overdue list', 'overdue remind']],
    ['!help overdue r', ['overdue remind']],
    ['!help fi', ['fine']],
    ['!help zz', []],
  ])('is completed behind its name: %s', async (text, expected) => {
    expect(await names(text)).toEqual(expected);
  });

  test('offers nobody what they may not run', async () => {
    expect(await names('!help fi', 'pim')).toEqual([]);
  });
});

describe('completion looks only at beginnings on wish,', () => {
  const kind = arg.choice(['garden', 'hand garden'], { optional: true });
  const commands = ['shelf', 'bookshelf'].map((name) => command({ ...described, name, args: { kind } }));
  test.each([
    ['!shelf', ['shelf', 'bookshelf'], ['shelf']],
    ['!shelf gar', ['garden', 'hand garden'], ['garden']],
  ])('%s', async (text, anywhere, beginning) => {
    const { layer, platform } = await sceneOf(commands);
    const typed = platform.typed({ person: 'ines', place: 'oddmere/counter', text });
    const found = async (matching?: 'beginning') => {
      const all = await complete(layer, typed, text.length, platform, matching === undefined ? {} : { matching });
      return all.filter((one) => one.kind !== 'flag').map((one) => one.text);
    };
    expect([await found(), await found('beginning')]).toEqual([anywhere, beginning]);
  });

  test('and a mistyped option is told', async () => {
    const { layer, platform } = await sceneOf(commands);
    const typed = platform.typed({ person: 'ines', place: 'oddmere/counter', text: '!s' });
    await expect(complete(layer, typed, 2, platform, { matching: 'begining' } as never)).rejects.toThrow(
      'complete, matching',
    );
  });
});

describe('the console', () => {
  test('is left out where `surfaces` does not name it', async () => {
    const lamp = command({ ...described, name: 'lamp', surfaces: ['text', 'slash'] });
    const scene = await sceneOf([lamp, command({ ...described, name: 'shed' })]);
    expect(codeOf((await scene.console('lamp')).outcome)).toBe('command.unavailable');
    expect(codeOf((await scene.types('ines', '!lamp')).outcome)).toBe('completed');
    expect(codeOf((await scene.console('shed')).outcome)).toBe('completed');
  });

  test.each(['', '   ', '\t'])('hears nothing in an empty line', async (text) => {
    const scene = await sceneOf([command({ ...described, name: 'lamp' })]);
    const { outcome, posts } = await scene.console(text);
    expect([outcome, posts]).toEqual([{ status: 'ignored', because: 'chat' }, []]);
  });
});
