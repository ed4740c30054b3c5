import { readFileSync } from 'node:fs';
import { type IcuMessages, icuLanguage, japaneseMessages, LanguageError, polish, polishMessages } from '@taxeon/icu';
import fc from 'fast-check';
import MarkdownIt from 'markdown-it';
import { arg, command, english, guildSettings, helpCommand, messages, misread, refuse } from 'taxeon';
import { languageOf, textParameters } from 'taxeon/language';
import { echoText, htmlMarkup, markdownMarkup, plainMarkup } from 'taxeon/platform';
import { describe, expect, test } from 'vitest';
import * as z from 'zod';
import { codeMarkdown, codes, codeTable, languages, said } from '../../../test/support/code-table.js';
import { everyKind } from '../../../test/support/kinds.js';
import { codeOf, sceneOf } from '../../../test/support/oddmere.js';
import { everyRequirement } from '../../../test/support/requirements.js';
import { ircLines } from '../../irc/src/text.js';
import { standInText } from '../../testing/src/stand-in/posts.js';

const described = { description: 'Something' };

test('docs/replies.md lists every code as it is', async () => {
  const file = new URL('../../../docs/replies.md', import.meta.url);
  const [written] = readFileSync(file, 'utf8').split('<!-- made from the code from here on -->\n');
  await expect(`${written}<!-- made from the code from here on -->\n\n${codeMarkdown()}`).toMatchFileSnapshot(
    file.pathname,
  );
});

describe('every language', () => {
  const others = languages.slice(1);

  test.each(others.map((language) => [language.locale, language] as const))('%s has all messages', (_, language) => {
    for (const code of codes) {
      // A reason of the bot's own is all that this one says.
      if (code !== 'requirement.failed') expect(said(language, code)).not.toBe(said(languages[0] as never, code));
      expect(said(language, code)).not.toMatch(/[{}]|undefined/);
    }
  });

  test.each([
    ['pl', polishMessages],
    ['ja', japaneseMessages],
  ] as const)('%s has messages that read, with the parameters that there are', (locale, messages) => {
    expect(icuLanguage(locale, messages).missing).toEqual([]);
  });

  describe.each(others.map((language) => [language.locale, language] as const))('%s has words', (_, { words }) => {
    test('for what each kind takes, with the parameters that it has', () => {
      for (const [kind, { kind: own }] of everyKind) {
        for (const expected of [own.expected, own.expectedAlone ?? own.expected]) {
          if (typeof expected === 'string') continue;
          const names = Object.keys(expected.parameters).sort();
          expect([kind, textParameters[`expected.${expected.key}` as never]]).toEqual([
            kind,
            expect.arrayContaining(names),
          ]);
          expect([kind, words.expected(expected)]).not.toEqual([kind, expected.english]);
        }
      }
    });

    test('for what each requirement needs, in help and where it refuses', async () => {
      for (const [name, requirement] of await everyRequirement()) {
        const act = command({
          ...described,
          name: 'act',
          args: { who: arg.member() },
          requires: () => [requirement],
          run: () => 'ran',
        });
        const scene = await sceneOf((layer) => [act, helpCommand(layer)], { languages: others });
        const say = async (text: string, locale: string) => {
          const input = scene.platform.typed({ person: 'pim', place: 'oddmere', text, locale });
          const { body, details = [] } = (await scene.platform.send(input)).posts[0]?.notice ?? { body: '' };
          return [body, ...details];
        };
        for (const text of ['!act wren', '!act mallet', '!act pim', '!help act']) {
          const [ours, theirs] = [await say(text, 'en'), await say(text, words.locale)];
          const at = ours.findIndex((line) => line.startsWith('Needs: '));
          if (ours[0] === 'ran') continue;
          const said = (lines: readonly string[]) => lines[Math.max(0, at)]?.replace(/^[^:：]*[:：]\s*/, '');
          expect([name, text, said(theirs)]).not.toEqual([name, text, said(ours)]);
        }
      }
    });
  });

  const plurals: [number, string][] = [
    [1, 'To już jest w toku. Proszę poczekać, aż się skończy.'],
    [3, 'W toku są już 3 takie zadania. Proszę poczekać.'],
    [5, 'W toku jest już 5 takich zadań. Proszę poczekać.'],
  ];
  test.each(plurals)('Polish counts %i in its own way', (most, text) => {
    expect(said(polish(), 'running.full', { counts: 'guild', most })).toBe(text);
  });

  test('what an argument takes is said in it, for every kind', async () => {
    const kinds = command({
      ...described,
      name: 'kinds',
      args: {
        n: arg.integer({ min: 1, max: 5 }),
        length: arg.duration({ min: '1h', max: '12d' }),
        when: arg.datetime({ min: 'now', max: { fromNow: '60d' } }),
        many: arg.list(arg.choice(['lathe', 'welder']), { max: 3 }),
      },
      run: () => 'ran',
    });
    const scene = await sceneOf([kinds], { languages: others });
    const say = async (locale: string) =>
      (await scene.platform.send(scene.platform.typed({ person: 'wren', place: 'oddmere', text: '!kinds', locale })))
        .posts[0]?.notice;
    expect(await say('pl')).toMatchObject({
      body: [
        'Brakuje „n”. Oczekiwano: liczba całkowita od 1 do 5.',
        'Brakuje „length”. Oczekiwano: czas trwania (najmniej: 1 godzina, najwięcej: 12 dni).',
        'Brakuje „when”. Oczekiwano: data i godzina, na przykład 2026-05-10 17:00, w przyszłości, najpóźniej po upływie: 60 dni.',
        'Brakuje „many”. Oczekiwano: najwyżej 3 wartości, każda to jedno z: lathe lub welder.',
      ].join('\n'),
    });
    expect((await say('ja'))?.body).toContain('「n」がありません。1から5までの整数を入力してください。');
  });

  test.each([
    ['has no texts', {}],
    ['gives what is no text', { text: () => 7 as never }],
    ['gives nothing but space', { text: () => ' ' }],
  ])('a language of one’s own that %s is said in English', async (_, own) => {
    const hedge = { locale: 'x-hedge', words: { ...english.words, locale: 'x-hedge', ...own } };
    const act = command({ ...described, name: 'act', args: { n: arg.integer() }, run: () => 'ran' });
    const scene = await sceneOf([act], { languages: [hedge] });
    const typed = scene.platform.typed({ person: 'wren', place: 'oddmere', text: '!act x', locale: 'x-hedge' });
    expect((await scene.platform.send(typed)).posts[0]?.notice).toMatchObject({
      body: '“n” takes a whole number; “x” is not that.',
      details: ['Usage: !act <n>', 'Example: !act 10'],
    });
  });

  test('what the developer’s own kinds take is said in the languages in which they say it', async () => {
    const own = { en: 'an even number', pl: 'liczba parzysta' };
    const odd = { en: 'no odd number', pl: 'nic nieparzystego' };
    const even = arg.custom({
      name: 'even',
      expected: own,
      example: '2',
      read: (text) => (text === '2' ? 2 : misread()),
    });
    const strict = arg.custom({ name: 'strict', expected: 'two', example: '2', read: () => misread(odd) });
    const mark = arg.pattern(/[A-Z]\d/, { expected: own, example: 'B1' });
    const code = arg.schema(z.string().length(4), { expected: own, example: 'AB12' });
    for (const [value, expected] of [
      [even, own],
      [strict, odd],
      [mark, own],
      [code, own],
    ] as const) {
      const act = command({ ...described, name: 'act', args: { value }, run: () => 'ran' });
      const scene = await sceneOf([act], { languages: others });
      const say = async (locale: string) => {
        const typed = scene.platform.typed({ person: 'wren', place: 'oddmere', text: '!act x', locale });
        return (await scene.platform.send(typed)).posts[0]?.notice.body;
      };
      expect(await say('pl-PL')).toContain(`przyjmuje: ${expected.pl};`);
      expect(await say('en-GB')).toContain(`takes ${expected.en};`);
      // Of a language that is not there, the first one is told.
      expect(await say('ja')).toContain(expected.en);
    }
    const inPoland = icuLanguage('pl-PL', polishMessages);
    const act = command({ ...described, name: 'act', args: { value: even }, run: () => 'ran' });
    const scene = await sceneOf([act], { languages: [inPoland] });
    const typed = scene.platform.typed({ person: 'wren', place: 'oddmere', text: '!act x', locale: 'pl-PL' });
    expect((await scene.platform.send(typed)).posts[0]?.notice.body).toContain('liczba parzysta');
  });

  test.each([
    ['en', 'That cannot be done as things are.'],
    ['pl', 'Nie da się teraz tego zrobić.'],
    ['ja', '今の状況では行えません。'],
  ])('a condition that gives no reason refuses in %s all the same', async (locale, body) => {
    const act = command({
      ...described,
      name: 'act',
      requires: ({ condition }) => [condition('open', () => false)],
      run: () => 'ran',
    });
    const scene = await sceneOf([act], { languages: others });
    const typed = scene.platform.typed({ person: 'wren', place: 'oddmere', text: '!act', locale });
    const { outcome, posts } = await scene.platform.send(typed);
    expect([codeOf(outcome), posts[0]?.notice.body]).toEqual(['requirement.failed', body]);
  });

  test.each([
    ['no locale', { 'not a tag': 'liczba' }],
    ['no text', { pl: ' ' }],
    ['nothing', {}],
    ['a number', 7],
  ])('and is a problem where it is %s', async (_, expected) => {
    const wrong = { name: 'even', example: '2', expected, read: () => 2 } as never;
    const act = command({ ...described, name: 'act', args: { value: arg.custom(wrong) }, run: () => 'ran' });
    await expect(sceneOf([act])).rejects.toThrow('value: has a kind without `expected`');
  });

  const choices: [string, string | undefined, string | undefined, string | undefined, string][] = [
    ['the caller’s', 'pl-PL', 'ja', undefined, 'Nie ma'],
    ['the guild’s, where the caller’s is not there', 'tlh', 'ja', undefined, '「'],
    ['the guild’s, where the caller has none', undefined, 'pl', undefined, 'Nie ma'],
    ['the layer’s', undefined, undefined, 'ja', '「'],
    ['English, where nothing that was asked for exists', 'no-such-locale-at-all', 'nl', undefined, 'There is no'],
    ['English, for what is no locale', '../../etc', undefined, undefined, 'There is no'],
  ];
  test.each(choices)('is chosen: %s', async (_, caller, guild, own, beginning) => {
    const scene = await sceneOf([command({ ...described, name: 'shelf', run: () => 'ran' })], {
      languages: others,
      ...(guild === undefined
        ? {}
        : { settings: guildSettings({ guilds: { 'stand-in/oddmere': { locale: guild } } }) }),
      ...(own === undefined ? {} : { locale: own }),
    });
    const doing = {
      person: 'wren',
      place: 'oddmere',
      text: '!shlef',
      ...(caller === undefined ? {} : { locale: caller }),
    };
    const { posts } = await scene.platform.send(scene.platform.typed(doing));
    expect(posts[0]?.notice.body.startsWith(beginning)).toBe(true);
  });
});

describe('a message file that is wrong is told whole', () => {
  const wrong: [string, Record<string, string>, string][] = [
    ['a key that there is not', { 'comand.unknown': 'x' }, 'there is no message "comand.unknown"'],
    ['a parameter that there is not', { 'command.unknown': '{nmae}' }, 'command.unknown has no parameter {nmae}'],
    ['a key that every object has', { constructor: 'x' } as never, 'there is no message "constructor"'],
    ['an empty text', { 'command.unknown': ' ' }, 'command.unknown is no text that says something'],
    ['one inside a choice', { 'running.full': '{most, plural, other {{x}}}' }, 'running.full has no parameter {x}'],
    ['what does not read', { 'running.full': '{most, plural, one {x}' }, 'running.full does not read'],
  ];
  test.each(wrong)('%s', (_, file, problem) => {
    expect(() => icuLanguage('pl', { ...file, 'reply.done': '{also}' } as Partial<IcuMessages>)).toThrow(LanguageError);
    try {
      icuLanguage('pl', { ...file, 'reply.done': '{also}' } as Partial<IcuMessages>);
    } catch (error) {
      expect((error as LanguageError).problems.join('\n')).toContain(problem);
      expect((error as LanguageError).problems).toHaveLength(2);
    }
  });

  test('a tag that is none', () => {
    expect(() => icuLanguage('not a tag', polishMessages)).toThrow('is no language tag');
  });

  test('a language for everybody that is not there', async () => {
    await expect(sceneOf([], { locale: 'nl' })).rejects.toThrow('locale: there is no language "nl"');
  });

  test('what is missing is named, and said in English', () => {
    const begun = icuLanguage('pl', { 'reply.done': 'Gotowe.' });
    expect(begun.missing).toHaveLength(Object.keys(textParameters).length - 1);
    expect(said(begun, 'running.full')).toBe(said(languages[0] as never, 'running.full'));
  });
});

describe('words of a bot’s own', () => {
  const own = messages(
    { 'library.closed': { opens: 'datetime', why: 'text' }, 'library.open': {} },
    {
      en: { 'library.closed': 'Closed ({why}) until {opens}.', 'library.open': 'Open.' },
      pl: { 'library.closed': ({ opens }) => `Zamknięte do: ${opens}.`, 'library.open': 'Otwarte.' },
    },
  );
  const opens = Date.UTC(2026, 4, 11, 9);
  const closed = command({
    ...described,
    name: 'closed',
    run: () => own.refuse('library.closed', { opens, why: '@all *tea*' }),
  });
  const open = command({ ...described, name: 'open', run: () => own.say('library.open') });

  test('are said in the caller’s language, with what people typed neutralised', async () => {
    const scene = await sceneOf([closed, open], { languages: languages.slice(1) });
    const say = (text: string, locale: string) =>
      scene.platform.send(scene.platform.typed({ person: 'wren', place: 'oddmere', text, locale }));
    const { outcome, posts } = await say('!closed', 'en');
    expect(outcome).toMatchObject({ status: 'refused', by: 'handler', code: 'library.closed', parameters: { opens } });
    expect(posts[0]?.notice.body).toBe('Closed (@\u2060all *tea*) until Monday, 11 May 2026 at 09:00.');
    expect((await say('!closed', 'pl')).posts[0]?.notice.body).toBe('Zamknięte do: poniedziałek, 11 maja 2026 09:00.');
    expect((await say('!open', 'pl-PL')).posts[0]?.notice.body).toBe('Otwarte.');
    expect((await say('!open', 'ja')).posts[0]?.notice.body).toBe('Open.');
  });

  test('are checked when they are declared', () => {
    const texts = { en: { 'a.b': 'Until {unitl}.' }, pl: {} } as never;
    expect(() => messages({ 'a.b': { until: 'text' } }, texts)).toThrow(
      'The messages are wrong: en, a.b: there is no parameter {unitl}; pl has no text for a.b',
    );
  });

  test('take the place of a code’s: a command’s before the layer’s', async () => {
    const act = (name: string, text?: string) =>
      command({
        ...described,
        name,
        requires: ({ caller }) => [caller.can('fine')],
        ...(text === undefined ? {} : { messages: { 'permission.caller': text } }),
        run: () => 'ran',
      });
    const scene = await sceneOf([act('plain'), act('own', 'Stewards only.')], {
      messages: {
        'permission.caller': ({ missing }, { locale }) => `${locale}: ${missing.map(({ name }) => name).join()}`,
      },
    });
    expect((await scene.types('wren', '!plain')).posts[0]?.notice.body).toBe('en: fine');
    expect((await scene.types('wren', '!own')).posts[0]?.notice.body).toBe('Stewards only.');
  });

  test('that throw are logged, and the caller is answered all the same', async () => {
    const logged: unknown[] = [];
    const scene = await sceneOf([command({ ...described, name: 'shelf', run: () => refuse('a.b', 'no') })], {
      messages: {
        'argument.extra': () => {
          throw new Error('no words');
        },
      },
      log: { error: (fields) => void logged.push(fields['error']), warn: () => undefined },
      reference: () => 'h4az8mnf',
    });
    const { outcome, posts } = await scene.types('wren', '!shelf more');
    expect(codeOf(outcome)).toBe('argument.extra');
    expect(posts[0]?.notice.body).toContain('h4az8mnf');
    expect(logged).toEqual([new Error('no words')]);
  });
});

describe('no hostile text passes a message unneutralised', () => {
  const sharp = fc.constantFrom(
    ...[
      '@all',
      '@wren',
      '[p:1]',
      '<script>',
      '&amp;',
      '`',
      '```\n',
      '*',
      '**',
      '__',
      '~~',
      '||',
      '[a](http://x.example)',
    ],
    ...[
      '# ',
      '> ',
      '- ',
      '1. ',
      '\n',
      '\r',
      '\0',
      '\x01',
      '\x02',
      '\x03',
      '\x1b[31m',
      '\u202e',
      '\u2066',
      '\u200b',
      '\ud800',
    ],
    ...['http://x.example', '<b onclick=x>', '|', '\\', '![x](y)', '&#60;', '{name}', '$&', "'", '"'],
  );
  const hostile = fc
    .array(fc.oneof(sharp, fc.string({ unit: 'grapheme', maxLength: 6 })), { maxLength: 8 })
    .map((all) => all.join(''));
  const markdown = new MarkdownIt({ html: true, linkify: false }).enable(['strikethrough', 'table']);
  const harmless = new Set(['paragraph_open', 'paragraph_close', 'inline', 'text', 'text_special', 'softbreak']);

  /** What each code's message repeats of what somebody typed, as the layer gives it to the message. */
  function withTyped(code: (typeof codes)[number], typed: string): unknown {
    const read = echoText(typed);
    const parameters: Record<string, unknown> = { ...codeTable[code].example };
    for (const name of ['read', 'name', 'who']) if (name in parameters) parameters[name] = read;
    return parameters;
  }

  test('in Markdown', () => {
    fc.assert(
      fc.property(fc.constantFrom(...languages), fc.constantFrom(...codes), hostile, (language, code, typed) => {
        const text = said(language, code, withTyped(code, typed));
        for (const token of markdown.parse(markdownMarkup(text), {})) {
          expect(harmless).toContain(token.type);
          for (const child of token.children ?? []) expect(harmless).toContain(child.type);
        }
        expect(text).not.toMatch(/@(everyone|wren)/);
      }),
      { numRuns: 2000 },
    );
  });

  test('in HTML, the stand-in’s signs, IRC’s codes, and plain text', () => {
    fc.assert(
      fc.property(fc.constantFrom(...languages), fc.constantFrom(...codes), hostile, (language, code, typed) => {
        const text = said(language, code, withTyped(code, typed));
        expect(htmlMarkup(text)).not.toMatch(/[<>"'`]|&(?!#\d+;)/);
        expect(standInText({ body: text })).not.toMatch(/[@&](?!\u2060)[\p{L}\p{N}_-]/u);
        expect(ircLines({ body: text }).join('\n')).not.toMatch(
          /[\0-\x08\x0b-\x1f\x7f-\x9f\u202a-\u202e\u2066-\u2069]/,
        );
      }),
      { numRuns: 2000 },
    );
  });

  test('and whatever a handler repeats of its own accord is escaped as a whole', () => {
    fc.assert(
      fc.property(hostile, (typed) => {
        for (const token of markdown.parse(markdownMarkup(typed), {})) {
          expect(harmless).toContain(token.type);
          for (const child of token.children ?? []) expect(harmless).toContain(child.type);
        }
        expect(htmlMarkup(typed)).not.toMatch(/[<>"'`]|&(?!#\d+;)/);
        expect(standInText({ body: typed }, ['wren'])).not.toMatch(/@(?!wren|\u2060)[\p{L}\p{N}_-]/u);
        expect(plainMarkup(typed)).not.toMatch(/[\0\x01\x02\x03\x1b\u202e\u2066]/);
      }),
      { numRuns: 2000 },
    );
  });
});

const writes = () => 'x';
test.each<[what: string, locale: unknown, write: unknown, told: string]>([
  ['locale', undefined, writes, 'undefined is no language tag'],
  ['language tag', 'not a tag', writes, '"not a tag" is no language tag'],
  ['function', 'pl', undefined, 'a function that writes a text by its key'],
])('a language of texts that are kept elsewhere is not made without a %s', (_, locale, write, told) => {
  expect(() => languageOf(locale as string, write as () => string)).toThrow(told);
});
