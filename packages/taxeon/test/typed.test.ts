import { cpuUsage } from 'node:process';
import { standIn, virtualClock } from '@taxeon/testing';
import fc from 'fast-check';
import { type Arg, arg, command, createCommandLayer, misread, type Outcome } from 'taxeon';
import { helpOf } from 'taxeon/queries';
import { describe, expect, test } from 'vitest';
import * as z from 'zod';
import { codeOf, oddmere, oddmereData, silentLog, startOfAfternoon } from '../../../test/support/oddmere.js';

const described = { description: 'Try a kind', in: 'guild', run: () => 'done' } as const;

/** A kind of two words that asks somebody, and says in its own words what is wrong. */
const shelf = (options = {}) =>
  arg.custom(
    {
      name: 'shelf',
      expected: 'a row and a number, as in row 5',
      example: 'row 5',
      tokens: 2,
      shape: (text) => /^row/i.test(text),
      goesOn: (word, typed) => /^row$/i.test(typed) && /^\d/.test(word),
      read: async (text) => {
        if (!/^row/i.test(text)) return undefined;
        return /^row \d+$/i.test(text) ? text.toLowerCase() : misread('a row with a whole number');
      },
    },
    options,
  );

/** Kinds, each with words that people might use for one of its values. */
const kinds: Readonly<Record<string, readonly [make: (options: object) => Arg<unknown>, words: string]>> = {
  integer: [(options) => arg.integer(options), '5 -5 007 5. 5, 10abc 1e3 five +5'],
  number: [(options) => arg.number(options), '1.5 -3 .5 2, 1.000 234,5 1e3 x'],
  boolean: [(options) => arg.boolean(options), 'yes no YES on off! maybe'],
  choice: [(options) => arg.choice(['lathe', 'welder', 'chainsaw'], options), 'lathe Welder chainsaw! saw wedler'],
  duration: [
    (options) => arg.duration(options),
    '1 2 3d 2h 30m 1h30m 1h30 day days hour and an a half , 1d, minutes please 1:30 h months for three 90 30',
  ],
  datetime: [
    (options) => arg.datetime(options),
    'friday fri tomorrow today next at 5 5pm pm 17:00 noon midnight in 2 days hours 25 dec 25th of december 2026 2026-05-10 2026-05-10T14:30Z +02:00 UTC 31/12 05/06 tonight, now please 25:00 05.06 25.12.2026 17.30 1.5 CET Europe/Warsaw 17:00,',
  ],
  member: [(options) => arg.member(options), 'wren @wren @Wren Tobias, tob pim nobody @'],
  mention: [(options) => arg.member({ by: 'mention', ...options }), 'wren @wren @Wren @tobias: @nobody'],
  user: [(options) => arg.user(options), 'wren @wren pim, nobody'],
  role: [(options) => arg.role(options), 'steward &steward stew borrower. &'],
  channel: [(options) => arg.channel(options), 'counter #counter #co co! # bench'],
  emoji: [(options) => arg.emoji(options), '🔨 👩‍🔧 🔨. 🔨🔨 hammer'],
  url: [
    (options) => arg.url(options),
    'https://tools.example/drill https://tools.example/drill. ftp://tools.example tools',
  ],
  percent: [(options) => arg.number({ percent: true, ...options }), '50 % 50% 12,5 percent 5 007 %. x'],
  money: [
    (options) => arg.money({ currency: 'GBP', minor: ['p'], ...options }),
    '3.50 £ £3 5 007 p 50p GBP 1,000 pounds x -',
  ],
  pattern: [(options) => arg.pattern(/[A-Z]\d+/, { expected: 'a mark', example: 'B1', ...options }), 'B12 B12. b12 C3'],
  schema: [(options) => arg.schema(z.string().length(4), options), 'AB12 AB12, abc'],
  custom: [shelf, 'row 5 6 shelf Row please'],
};

function sceneOf(value: Arg<unknown>, flag: Arg<unknown>) {
  const clock = virtualClock(startOfAfternoon);
  const platform = standIn(oddmereData().world, { clock });
  const note = arg.tail({ optional: true });
  const commands = [
    command({ ...described, name: 'one', args: { value } }),
    command({ ...described, name: 'noted', args: { value, note } }),
    command({ ...described, name: 'flagged', args: { value: flag } }),
    command({ ...described, name: 'listed', args: { value: arg.list(value) } }),
  ];
  const layer = createCommandLayer({ commands, prefixes: ['!'], clock, timeZone: 'Europe/London', log: silentLog });
  return {
    layer,
    platform,
    types: (text: string) => layer.handle(platform.typed({ person: 'ines', place: 'oddmere', text }), platform),
    invokes: (name: string, options: Record<string, unknown>) =>
      layer.handle(platform.invoked({ person: 'ines', place: 'oddmere', path: [name], options }), platform),
  };
}

const unseen = fc.constantFrom('', '', '', '\u200b', '\u2060', '\u00ad', '\ufeff', '\x02', '\x0304');

/** Words of a kind in any order, here and there with something in them that nobody sees. */
const spelling = (words: string) =>
  fc
    .array(fc.tuple(fc.constantFrom(...words.split(' ')), unseen, unseen), { minLength: 1, maxLength: 5 })
    .map((parts) => parts.map(([word, before, behind]) => `${before}${word}${behind}`).join(' '));

function valueIn(outcome: Outcome): string {
  if (outcome.status !== 'completed') return `${outcome.status} ${codeOf(outcome)}`;
  const value = outcome.args?.['value'];
  const only = Array.isArray(value) && value.length === 1 ? value[0] : value;
  return `reads ${JSON.stringify(only instanceof URL ? only.href : only)}`;
}

describe.each(Object.entries(kinds))('%s', (name, [make, words]) => {
  const isSwitch = name === 'boolean';
  const scene = sceneOf(make({}), make({ flag: true, optional: true }));

  test('is the same value at its place, as a flag, in a list and as an option, or an error', async () => {
    await fc.assert(
      fc.asyncProperty(spelling(words), async (text) => {
        const [place, flag, list, option, listOption] = await Promise.all([
          scene.types(`!one ${text}`),
          scene.types(`!flagged --value ${text}`),
          scene.types(`!listed ${text}`),
          scene.invokes('one', { value: text }),
          scene.invokes('listed', { value: text }),
        ]);
        // Of a list, digits in groups of three are values of their own.
        const isGrouped = (name === 'integer' || name === 'number') && /\d[^ ]* [^ ]*\d{3}/.test(text);
        // A rule about typing does not hold for what was picked from a list.
        if (name === 'mention' && !valueIn(place).startsWith('reads')) return;
        expect([text, valueIn(place), isSwitch ? valueIn(option) : valueIn(flag)]).toEqual(
          valueIn(option).startsWith('reads')
            ? [text, valueIn(option), valueIn(option)]
            : [text, expect.not.stringMatching(/^reads/), expect.not.stringMatching(/^reads/)],
        );
        expect([text, valueIn(list)]).toEqual([text, valueIn(listOption)]);
        // A list takes at commas what else is one value.
        if (valueIn(place).startsWith('reads') && !text.includes(',') && !isGrouped)
          expect(valueIn(list)).toBe(valueIn(place));
      }),
      { numRuns: 200, examples: [['5 007 007 007 007']] },
    );
  });

  test('is never a shorter value than one that reads', async () => {
    await fc.assert(
      fc.asyncProperty(spelling(words), async (text) => {
        const outcome = await scene.types(`!noted ${text}`);
        if (outcome.status !== 'completed') return;
        const note = (outcome.args as { note?: string }).note ?? '';
        const taken = text
          .slice(0, text.length - note.length)
          .split(' ')
          .filter((word) => word !== '').length;
        const all = text.split(' ');
        for (let count = taken + 1; count <= all.length; count++) {
          const longer = all.slice(0, count).join(' ');
          expect([longer, (await scene.invokes('one', { value: longer })).status]).toEqual([longer, 'invalid']);
        }
      }),
      { numRuns: 400 },
    );
  });
});

test('minutes without a unit go on an hour in a list, too', async () => {
  const { types, invokes } = sceneOf(arg.duration(), arg.duration({ flag: true, optional: true }));
  const all = [await types('!one 2h 30'), await types('!listed 2h 30'), await invokes('listed', { value: '2h 30' })];
  expect(all.map(valueIn)).toEqual(Array.from({ length: 3 }, () => 'reads 9000000'));
});

describe('text, slash and console agree on values, status, code and the first problem', () => {
  const tools = [
    { name: 'hedge trimmer', also: ['clippers'] },
    { name: 'drill' },
    { name: 'drill press' },
    { name: 'Café table' },
    { name: 'saw 2' },
    { name: 'ladder', size: '3 m' },
    { name: 'ladder', size: '5 m' },
  ];
  const ofThings = {
    name: ({ name }: (typeof tools)[number]) => name,
    also: ({ also = [] }: (typeof tools)[number]) => also,
    describe: ({ size = '' }: (typeof tools)[number]) => size,
  };
  const names =
    'hedge trimmer|HEDGE TRIMMER|hedge|hed|trimmer|hedge trimer|drill|dril|drill press|drill  press|press|saw 2|saw|cafe table|Café|@drill|drill,|ladder|ladder (3 m)|ladder (4 m)|clippers|the drill|anvil|12|"|';
  /** Values of these kinds, each with what people type for them. The console is in no guild. */
  const valued: Readonly<Record<string, readonly [Arg<unknown>, string]>> = {
    'a fixed choice': [arg.choice(['hedge trimmer', 'drill', 'drill press', 'saw 2', 'Café table']), names],
    'a choice with values': [arg.choice({ 'hedge trimmer': 1, drill: 2, 'drill press': 3, saw: 4 }), names],
    'a choice of things': [arg.choice(tools, ofThings), names],
    'a live choice': [arg.choice(() => tools, ofThings), names],
    'a live choice by promise': [arg.choice(async () => tools, ofThings), names],
    'a choice mapped later': [
      arg
        .choice(() => tools, ofThings)
        .map(async (tool) => (tool.name === 'drill' ? misread('a tool that is here') : tool)),
      names,
    ],
    'a list of choices': [arg.list(arg.choice(() => tools, ofThings)), `${names}|drill, saw|drill and saw 2|drill saw`],
    'each once': [
      arg.list(arg.integer({ max: 9 }), { unique: true, max: 3 }),
      '1|1,2|1 2|1,1|1,2,3,4|1, x|10|1 and 2|,',
    ],
    'an integer': [arg.integer({ min: 1, max: 9 }), '3|0|10|x|3.|+3|3,|three|1e0| 3'],
    'a length': [arg.duration({ max: '12d' }), '3d|2h30m|3|1h2d|20d|x|3d,|2 days|an hour|2 and a half days|0s'],
    'a moment': [
      arg.datetime(),
      '17:00|5pm|noon|25:00|friday|friday at 9|tomorrow|12/05|in 2 days|friday 17|12:00-13:00',
    ],
    money: [arg.money({ currency: 'GBP', minor: ['p'] }), '3.50|£3|5p|5|1,000|3.505|x|£ 3|$3'],
    'a mark': [arg.pattern(/[A-Z]\d+/, { expected: 'a mark', example: 'B1' }), 'B12|b12|B12.|B 12'],
    'a validator': [arg.schema(z.string().length(4)), 'AB12|abc|AB1 '],
    'a boolean': [arg.boolean(), 'yes|no|on|maybe|yes!|Yes, please'],
    'an address': [arg.url(), 'https://tools.example/drill|ftp://tools.example|tools'],
    'an emoji': [arg.emoji(), '🔨|👩‍🔧|hammer|🔨🔨'],
    'a shelf': [shelf(), 'row 5|row|shelf|row five'],
    'a text': [arg.text({ max: 8 }), 'drill|hedge trimmer|a b|don’t|x'],
  };
  const inGuild: Readonly<Record<string, readonly [Arg<unknown>, string]>> = {
    'a member': [arg.member(), 'wren|@wren|Wren,|tob|pim|nobody|@|i|wrne'],
    'a user': [arg.user(), 'wren|@wren|pim|nobody|wrne'],
    'a role': [arg.role(), 'steward|&steward|stew|borrower.|stewrad|x'],
    'a channel': [arg.channel(), 'counter|#counter|co|co!|bench|conuter'],
    'a list of members': [
      arg.list(arg.member(), { max: 2 }),
      'wren|wren, tobias|wren tobias|wren and tobias|wren,x|a,b,c',
    ],
  };
  const described = { description: 'Lend', run: () => 'done' };
  const pool = { ...valued, ...inGuild };
  const entries = Object.entries(pool);
  const single = entries.filter(([name]) => !/list|each/.test(name));
  /** Each behind another, so that what is wrong with one does not hide the other. */
  const otherOf = (index: number) => single[(index + 7) % single.length] as (typeof entries)[number];
  const commands = entries.map(([name, [value]], index) => {
    const [otherName, [other]] = otherOf(index);
    const isHere = name in inGuild || otherName in inGuild;
    const surfaces = isHere ? (['text', 'slash'] as const) : (['text', 'slash', 'console'] as const);
    return command({ ...described, name: `try${index}`, surfaces, args: { other, value } });
  });
  const at = { person: 'ines', place: 'oddmere' };
  const quoted = (text: string) => `"${text.replaceAll(/["\\]/g, '\\$&')}"`;

  const toldOf = (outcome: Outcome) => {
    const [problem] = outcome.status === 'invalid' ? outcome.problems : [];
    const args = outcome.status === 'completed' ? outcome.args : undefined;
    return { status: outcome.status, args, code: codeOf(outcome), problem: problem?.parameters };
  };

  const typedOf = ([, [, texts]]: (typeof entries)[number]) =>
    fc.constantFrom(...texts.split('|').filter((text) => text.trim() !== ''));

  test.each(entries.map((entry, index) => [entry[0], entry, index] as const))('%s', async (name, entry, index) => {
    const clock = virtualClock(startOfAfternoon);
    const platform = standIn(oddmereData().world, { clock });
    const layer = createCommandLayer({ commands, prefixes: ['!'], clock, timeZone: 'Europe/London', log: silentLog });
    const isList = !single.some(([one]) => one === name);
    let agreed = 0;
    await fc.assert(
      fc.asyncProperty(typedOf(entry), typedOf(otherOf(index)), async (value, other) => {
        const line = `try${index} ${quoted(other)} ${isList ? value : quoted(value)}`;
        const options = { value, other };
        const text = toldOf(await layer.handle(platform.typed({ ...at, text: `!${line}` }), platform));
        const input = platform.invoked({ ...at, path: [`try${index}`], options });
        expect([line, toldOf(await layer.handle(input, platform))]).toEqual([line, text]);
        const console = toldOf(await layer.handle(platform.typed({ place: 'console', text: line }), platform));
        if (console.code !== 'command.unavailable') expect([line, console]).toEqual([line, text]);
        agreed++;
      }),
      { numRuns: Math.ceil(6000 / entries.length) },
    );
    expect(agreed).toBeGreaterThanOrEqual(6000 / entries.length);
  });
});

describe('a hundred thousand characters of any kind are read at once', () => {
  const signs = [
    ...'a5-–—.,:;!?"\'“«`\\/#@&<>(){}[]=+*_|~^%$€😀é字क',
    '\u0301',
    '\u0316\u0301',
    '\u200b',
    '\u2060',
    '\u200d',
    '\x02',
    '\x03',
    '\ufeff',
    '\ud83d',
    '\u{e0061}',
    '🏴\u{e0067}',
    ' ',
    " '",
    ' "',
    ' --',
    ' -a',
    ' a',
    ' 5',
    ', ',
    '1h',
    '1 h ',
    '1d,',
    'in ',
    'at 5 ',
    'friday ',
    ' 👍',
    '\n',
  ];

  test.each(Object.entries(kinds))('as %s', { timeout: 120_000 }, async (_, [make]) => {
    const scene = sceneOf(make({}), make({ flag: true, optional: true }));
    const slow: string[] = [];
    for (const sign of signs) {
      const text = sign.repeat(100_000 / sign.length);
      const ways = [
        () => scene.types(`!one ${text}`),
        () => scene.types(`!listed ${text}`),
        () => scene.types(`!flagged --value ${text}`),
        () => scene.types(`!${text}`),
        () => scene.invokes('one', { value: text }),
      ];
      for (const [index, way] of ways.entries()) {
        if (!(await isQuick(way))) slow.push(`${JSON.stringify(sign)} ${index}`);
      }
    }
    expect(slow).toEqual([]);
  });
});

/**
 * Within 20 ms of the processor's own time, in one of a few tries: a machine may be busy with other tests, and what takes
 * long by itself always does.
 */
async function isQuick(way: () => Promise<unknown>): Promise<boolean> {
  for (let tries = 0; tries < 20; tries++) {
    const before = cpuUsage();
    await way();
    const { user, system } = cpuUsage(before);
    if (user + system < 20_000) return true;
  }
  return false;
}

describe('what is said is true', () => {
  const sentences: [line: string, body: string][] = [
    ['!sum 2 x', 'I do not know what to do with “x”: “shelves” takes a whole number.'],
    ['!sum x', 'I do not know what to do with “x”: “shelves” takes a whole number.'],
    ['!hold drill 3', '“keep” takes a length of time; “3” lacks a unit, as in 3h. As plain text, it is written "3".'],
    [
      '!take hedge trimmer',
      'I do not know what to do with “trimmer”: “keep” takes a length of time. As plain text, it is written "hedge trimmer".',
    ],
    ['!sum --loud --loud', '“--loud” stands twice; once is enough.'],
    ['!sum --luod', 'There is no “--luod” in this command. Did you mean --loud?'],
    ['!sum -l -l', '“--loud” stands twice; once is enough.'],
    ['!meet @Tobias', 'done'],
    ['!meet "my_tool"', '“who” takes a person here, by mention or name; “my_tool” is not that.'],
    ['!meet 👩‍🔧', '“who” takes a person here, by mention or name; “👩‍🔧” is not that.'],
    ['!meet @', '“who” takes a person here, by mention or name; “@\u2060” is not that.'],
  ];
  test.each(sentences)('%s', async (text, body) => {
    const commands = [
      command({
        ...described,
        name: 'sum',
        args: { shelves: arg.list(arg.integer(), { optional: true }), loud: arg.boolean({ flag: { short: 'l' } }) },
      }),
      command({
        ...described,
        name: 'hold',
        args: { tool: arg.text(), keep: arg.duration({ optional: true }), by: arg.text({ optional: true }) },
      }),
      command({ ...described, name: 'take', args: { tool: arg.text(), keep: arg.duration({ optional: true }) } }),
      command({ ...described, name: 'meet', args: { who: arg.member() } }),
    ];
    const platform = standIn(oddmereData().world);
    const layer = createCommandLayer({ commands, prefixes: ['!'], log: silentLog });
    const outcome = await layer.handle(platform.typed({ person: 'ines', place: 'oddmere', text }), platform);
    expect('reply' in outcome ? outcome.reply?.notice.body : undefined).toBe(body);
  });

  test('each example in help and in replies reads where it is shown, or is left out', async () => {
    const { layer, platform } = await oddmere();
    const read: string[] = [];
    for (const place of ['oddmere', 'pellbrook']) {
      for (const person of ['ines', 'tobias', 'wren', 'odalys', 'pim']) {
        if (place === 'pellbrook' && !['ines', 'wren'].includes(person)) continue;
        const typed = (text: string) => platform.typed({ person, place, text });
        const prefix = place === 'oddmere' ? '!' : '?';
        const index = await helpOf(layer, typed(`${prefix}help`), undefined, platform);
        const lines = index.kind === 'index' ? index.sections.flatMap((section) => section.lines) : [];
        for (const { name } of lines) {
          const help = await helpOf(layer, typed(`${prefix}help`), name, platform);
          const wrong = await layer.handle(typed(`${prefix}${name} --- " `), platform);
          const details = 'reply' in wrong ? (wrong.reply?.notice.details ?? []) : [];
          const inReply = details.filter((line) => line.startsWith('Example: ')).map((line) => line.slice(9));
          for (const line of [...(help.kind === 'command' ? help.examples : []), ...inReply]) {
            expect([line, (await layer.handle(typed(line), platform)).status]).not.toEqual([line, 'invalid']);
            read.push(line);
          }
        }
      }
    }
    expect(read.length).toBeGreaterThan(20);
  });
});

describe('a pattern', () => {
  const patternOf = (expression: RegExp, example: string) => arg.pattern(expression, { expected: 'a mark', example });
  const dangerous: [string, RegExp, string][] = [
    ['a repetition within a repetition', /(a+)+b/, 'ab'],
    ['a repetition within a counted one', /(?:a+){2,30}b/, 'aab'],
    ['alternatives within a repetition', /(?:a|a)*b/, 'ab'],
    ['what may be left out, within a repetition', /(?:ab?)+c/, 'abc'],
    ['many repetitions in a row', /\d*\d*\d*\d*x/, '1x'],
    ['a reference back', /(a)\1/, 'aa'],
    ['a named reference back', /(?<mark>a)\k<mark>/, 'aa'],
    ['a repetition within a named group', /(?<mark>[a-z]+)*x/, 'ax'],
    ['a repetition within a look ahead', /(?=(a*)*b)ab/, 'ab'],
  ];
  test.each(dangerous)('that could run for ever is refused: %s', (_, expression, example) => {
    const mark = command({ ...described, name: 'mark', args: { value: patternOf(expression, example) } });
    expect(() => createCommandLayer({ commands: [mark], prefixes: ['!'] })).toThrow(
      'which a text can make run for ever',
    );
  });

  const harmless: [RegExp, string][] = [
    [/[A-Z]\d{1,3}/, 'B12'],
    [/(?:\d{1,3}\.){3}\d{1,3}/, '10.0.0.1'],
    [/[A-Z]+-\d+-\d+/, 'AB-1-2'],
    [/(?:drill|saw)-\d+/, 'saw-3'],
    [/[(+*]\d+\)?/, '(12)'],
    [/(?:[A-Z]\d,)+/, 'A1,B2,'],
    [/\(\d+\)/, '(12)'],
  ];
  test.each(harmless)('that cannot is taken: %s', (expression, example) => {
    expect(patternOf(expression, example).problems).toEqual([]);
  });

  test('takes no second line, whatever its flags say', async () => {
    const { types } = sceneOf(
      patternOf(/^[A-Z]\d+$/m, 'B12'),
      arg.pattern(/[A-Z]\d+/m, { expected: 'a mark', example: 'B12', flag: true, optional: true }),
    );
    expect((await types('!one B12')).status).toBe('completed');
    expect((await types('!one "B12\ndrop"')).status).toBe('invalid');
    expect((await types('!flagged --value="drop\nB12"')).status).toBe('invalid');
  });
});

test('where a platform cannot say whether a name goes on, its failure is nobody else’s', async () => {
  const clock = virtualClock(startOfAfternoon);
  const simulated = standIn(oddmereData().world, { clock });
  let asked = 0;
  const directory = {
    ...simulated.directory,
    membersNamed: () => {
      asked++;
      return Promise.reject(new Error('not now'));
    },
  };
  const platform = { ...simulated, directory };
  const commands = [
    command({ ...described, name: 'praise', args: { who: arg.member(), words: arg.tail({ optional: true }) } }),
  ];
  const layer = createCommandLayer({ commands, prefixes: ['!'], clock, log: silentLog });
  const unhandled: unknown[] = [];
  const note = (error: unknown) => void unhandled.push(error);
  process.on('unhandledRejection', note);
  for (let time = 0; time < 3; time++) {
    const input = simulated.typed({ person: 'ines', place: 'oddmere', text: '!praise wren lovely work' });
    expect((await layer.handle(input, platform)).status).toBe('completed');
  }
  await new Promise((resolve) => setTimeout(resolve, 5));
  process.off('unhandledRejection', note);
  expect([asked, unhandled]).toEqual([3, []]);
});
