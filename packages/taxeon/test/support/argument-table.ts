/** For each kind of argument what is taken and what is refused, and in which words. docs/arguments.md shows the same. */
import { type Arg, arg } from 'taxeon';
import * as z from 'zod';

export interface KindTable {
  readonly kind: string;
  /** As a developer writes it. */
  readonly declaration: string;
  readonly arg: Arg<unknown>;
  /** What is typed, and what the handler reads or the caller is told. */
  readonly rows: readonly (readonly [typed: string, result: string])[];
}

export const kindTables: readonly KindTable[] = [
  {
    kind: 'text',
    declaration: 'arg.text({ max: 12 })',
    arg: arg.text({ max: 12 }),
    rows: [
      ['drill', 'reads: "drill"'],
      [
        '"hedge trimmer"',
        'says: “value” takes a word or a quoted text of at most 12 characters; “hedge trimmer” is too long.',
      ],
      ['""', 'reads: ""'],
      ["don't", 'reads: "don\'t"'],
      [
        '"a very long name indeed"',
        'says: “value” takes a word or a quoted text of at most 12 characters; “a very long name indeed” is too long.',
      ],
    ],
  },
  {
    kind: 'tail',
    declaration: 'arg.tail({ max: 20 })',
    arg: arg.tail({ max: 20 }),
    rows: [
      ['for the fence', 'reads: "for the fence"'],
      ['"as typed"', 'reads: "\\"as typed\\""'],
      ['', 'says: “value” is missing: some text of at most 20 characters.'],
      [
        'much more than twenty characters',
        'says: “value” takes some text of at most 20 characters; “much more than twenty characters” is too long.',
      ],
    ],
  },
  {
    kind: 'integer',
    declaration: 'arg.integer({ min: 1, max: 500 })',
    arg: arg.integer({ min: 1, max: 500 }),
    rows: [
      ['50', 'reads: 50'],
      ['+50', 'reads: 50'],
      ['007', 'reads: 7'],
      ['0', 'says: “value” takes a whole number from 1 to 500; “0” is too little.'],
      ['-5', 'says: “value” takes a whole number from 1 to 500; “-5” is too little.'],
      ['501', 'says: “value” takes a whole number from 1 to 500; “501” is too much.'],
      ['10abc', 'says: “value” takes a whole number from 1 to 500; “10abc” is not that.'],
      ['1e3', 'says: “value” takes a whole number from 1 to 500; “1e3” is not that.'],
      ['0x10', 'says: “value” takes a whole number from 1 to 500; “0x10” is not that.'],
      ['1.5', 'says: “value” takes a whole number from 1 to 500; “1.5” is not that.'],
      ['many', 'says: “value” takes a whole number from 1 to 500; “many” is not that.'],
      ['9007199254740993', 'says: “value” takes a whole number from 1 to 500; “9007199254740993” is not that.'],
      ['Infinity', 'says: “value” takes a whole number from 1 to 500; “Infinity” is not that.'],
      ['１２', 'says: “value” takes a whole number from 1 to 500; “１２” is not that.'],
      ['"50"', 'reads: 50'],
    ],
  },
  {
    kind: 'integer with cap',
    declaration: 'arg.integer({ max: 500, cap: true })',
    arg: arg.integer({ max: 500, cap: true }),
    rows: [
      ['400', 'reads: 400'],
      ['9000', 'reads: 500 (“value” is lowered to 500, the most there may be.)'],
      ['many', 'says: “value” takes a whole number of at most 500; “many” is not that.'],
    ],
  },
  {
    kind: 'number',
    declaration: 'arg.number({ min: 0.5, max: 12 })',
    arg: arg.number({ min: 0.5, max: 12 }),
    rows: [
      ['1.5', 'reads: 1.5'],
      ['.5', 'reads: 0.5'],
      ['12', 'reads: 12'],
      ['+3', 'reads: 3'],
      ['-0', 'says: “value” takes a number from 0.5 to 12; “-0” is too little.'],
      ['0.4', 'says: “value” takes a number from 0.5 to 12; “0.4” is too little.'],
      ['12.01', 'says: “value” takes a number from 0.5 to 12; “12.01” is too much.'],
      ['1e1', 'says: “value” takes a number from 0.5 to 12; “1e1” is not that.'],
      ['1,5', 'says: “value” takes a number from 0.5 to 12; “1,5” is not that.'],
      ['1.', 'says: “value” takes a number from 0.5 to 12; “1.” is not that.'],
      ['NaN', 'says: “value” takes a number from 0.5 to 12; “NaN” is not that.'],
      ['0.1234567890123456', 'says: “value” takes a number from 0.5 to 12; “0.1234567890123456” is not that.'],
    ],
  },
  {
    kind: 'boolean',
    declaration: 'arg.boolean()',
    arg: arg.boolean(),
    rows: [
      ['yes', 'reads: true'],
      ['NO', 'reads: false'],
      ['on', 'reads: true'],
      ['off', 'reads: false'],
      ['y', 'reads: true'],
      ['false', 'reads: false'],
      ['1', 'says: “value” takes yes or no; “1” is not that.'],
      ['maybe', 'says: “value” takes yes or no; “maybe” is not that.'],
    ],
  },
  {
    kind: 'choice',
    declaration: "arg.choice(['lathe', 'welder', 'chainsaw'])",
    arg: arg.choice(['lathe', 'welder', 'chainsaw']),
    rows: [
      ['lathe', 'reads: "lathe"'],
      ['WELDER', 'reads: "welder"'],
      ['"chainsaw"', 'reads: "chainsaw"'],
      ['latte', 'says: “value” takes one of lathe, welder or chainsaw; “latte” is not that. Did you mean lathe?'],
      ['wedler', 'says: “value” takes one of lathe, welder or chainsaw; “wedler” is not that. Did you mean welder?'],
      ['saw', 'says: “value” takes one of lathe, welder or chainsaw; “saw” is not that.'],
    ],
  },
  {
    kind: 'choice with values',
    declaration: 'arg.choice({ small: 10, large: 25 })',
    arg: arg.choice({ small: 10, large: 25 }),
    rows: [
      ['small', 'reads: 10'],
      ['Large', 'reads: 25'],
      ['10', 'says: “value” takes one of small or large; “10” is not that.'],
      ['smal', 'says: “value” takes one of small or large; “smal” is not that. Did you mean small?'],
    ],
  },
  {
    kind: 'duration',
    declaration: "arg.duration({ min: '1h', max: '14d' })",
    arg: arg.duration({ min: '1h', max: '14d' }),
    rows: [
      ['3d', 'reads: 259200000'],
      ['90m', 'reads: 5400000'],
      ['1h30m', 'reads: 5400000'],
      ['2 days', 'reads: 172800000'],
      ['1.5h', 'reads: 5400000'],
      ['PT2H', 'reads: 7200000'],
      ['P1DT12H', 'reads: 129600000'],
      ['1w', 'reads: 604800000'],
      ['20d', 'says: “value” takes a length of time from 1 hour to 14 days; “20d” is too long.'],
      ['5m', 'says: “value” takes a length of time from 1 hour to 14 days; “5m” is too short.'],
      ['3', 'says: “value” takes a length of time from 1 hour to 14 days; “3” is not that.'],
      ['1d1d', 'says: “value” takes a length of time from 1 hour to 14 days; “1d1d” is not that.'],
      ['1h2d', 'says: “value” takes a length of time from 1 hour to 14 days; “1h2d” is not that.'],
      [
        '1 month',
        'says: “value” takes a length of time from 1 hour to 14 days; “1” is not that.\nI do not know what to do with “month”.',
      ],
      ['-1h', 'says: “value” takes a length of time from 1 hour to 14 days; “-1h” is not that.'],
      [
        '3 moons',
        'says: “value” takes a length of time from 1 hour to 14 days; “3” is not that.\nI do not know what to do with “moons”.',
      ],
    ],
  },
  {
    kind: 'datetime',
    declaration: "arg.datetime({ min: 'now', max: { fromNow: '60d' } })",
    arg: arg.datetime({ min: 'now', max: { fromNow: '60d' } }),
    rows: [
      ['tomorrow', 'reads: 2026-05-09T23:00:00.000Z'],
      ['tomorrow 17:00', 'reads: 2026-05-10T16:00:00.000Z'],
      ['2026-05-10', 'reads: 2026-05-09T23:00:00.000Z'],
      ['2026-05-10 14:30', 'reads: 2026-05-10T13:30:00.000Z'],
      ['2026-05-10T14:30Z', 'reads: 2026-05-10T14:30:00.000Z'],
      ['monday at 9:00', 'reads: 2026-05-11T08:00:00.000Z'],
      ['in 2 hours', 'reads: 2026-05-09T15:00:00.000Z'],
      ['17:00', 'reads: 2026-05-09T16:00:00.000Z'],
      ['now', 'reads: 2026-05-09T13:00:00.000Z'],
      [
        'yesterday',
        'says: “value” takes a date and time such as 2026-05-09 14:30 or tomorrow 17:00, in the future and at most 60 days from now; “yesterday” is not that.',
      ],
      [
        '2026-05-01',
        'says: “value” takes a date and time such as 2026-05-09 14:30 or tomorrow 17:00, in the future and at most 60 days from now; “2026-05-01” is too early.',
      ],
      [
        '2027-01-01',
        'says: “value” takes a date and time such as 2026-05-09 14:30 or tomorrow 17:00, in the future and at most 60 days from now; “2027-01-01” is too late.',
      ],
      ['2026-02-30', 'says: “value” takes a date that exists; “2026-02-30” is not that.'],
      ['2026-05-10 25:00', 'says: “value” takes a time from 0:00 to 23:59; “2026-05-10 25:00” is not that.'],
      [
        '10/05/2026',
        'says: “value” takes a date and time such as 2026-05-09 14:30 or tomorrow 17:00, in the future and at most 60 days from now; “10/05/2026” is not that.',
      ],
    ],
  },
  {
    kind: 'user',
    declaration: 'arg.user()',
    arg: arg.user(),
    rows: [
      ['wren', 'reads: Wren'],
      ['@wren', 'reads: Wren'],
      ['Wren', 'reads: Wren'],
      ['Wr', 'says: “value” takes a person, by mention or name; “Wr” is not that.'],
      ['nobody', 'says: “value” takes a person, by mention or name; “nobody” is not that.'],
    ],
  },
  {
    kind: 'member',
    declaration: 'arg.member()',
    arg: arg.member(),
    rows: [
      ['wren', 'reads: Wren'],
      ['@wren', 'reads: Wren'],
      ['Wren', 'reads: Wren'],
      ['Wr', 'reads: Wren'],
      ['@pim', 'says: “value”: I know “@⁠pim”, but they are not here.'],
      ['zed', 'says: “value” takes a person here, by mention or name; “zed” is not that.'],
      ['pim', 'says: “value”: I know “pim”, but they are not here.'],
      ['""', 'says: “value” takes a person here, by mention or name; “” is not that.'],
    ],
  },
  {
    kind: 'member, exactly',
    declaration: "arg.member({ match: 'exact' })",
    arg: arg.member({ match: 'exact' }),
    rows: [
      ['wren', 'reads: Wren'],
      ['Wr', 'says: “value” takes a person here, by mention or name; “Wr” is not that.'],
    ],
  },
  {
    kind: 'member, by mention',
    declaration: "arg.member({ by: 'mention' })",
    arg: arg.member({ by: 'mention' }),
    rows: [
      ['@wren', 'reads: Wren'],
      ['wren', 'says: “value” takes a person here, by mention; “wren” is not that.'],
      ['@zed', 'says: “value” takes a person here, by mention; “@⁠zed” is not that.'],
    ],
  },
  {
    kind: 'role',
    declaration: 'arg.role()',
    arg: arg.role(),
    rows: [
      ['fixer', 'reads: fixer'],
      ['&fixer', 'reads: fixer'],
      ['Vis', 'reads: visitor'],
      ['&nothing', 'says: “value” takes a role here, by mention or name; “&⁠nothing” is not that.'],
      ['steward', 'says: “value” takes a role here, by mention or name; “steward” is not that.'],
    ],
  },
  {
    kind: 'channel',
    declaration: 'arg.channel()',
    arg: arg.channel(),
    rows: [
      ['bench', 'reads: #bench'],
      ['#bench', 'reads: #bench'],
      ['be', 'reads: #bench'],
      ['counter', 'says: “value” takes a channel here, by mention or name; “counter” is not that.'],
    ],
  },
  {
    kind: 'emoji',
    declaration: 'arg.emoji()',
    arg: arg.emoji(),
    rows: [
      ['🔨', 'reads: "🔨"'],
      ['👩‍🔧', 'reads: "👩‍🔧"'],
      ['🇬🇧', 'reads: "🇬🇧"'],
      ['🔨🔨', 'says: “value” takes one emoji; “🔨🔨” is not that.'],
      ['hammer', 'says: “value” takes one emoji; “hammer” is not that.'],
      ['7', 'says: “value” takes one emoji; “7” is not that.'],
    ],
  },
  {
    kind: 'url',
    declaration: 'arg.url()',
    arg: arg.url(),
    rows: [
      ['https://tools.example/drill', 'reads: https://tools.example/drill'],
      ['<https://tools.example>', 'reads: https://tools.example/'],
      ['HTTP://tools.example', 'reads: http://tools.example/'],
      [
        'ftp://tools.example',
        'says: “value” takes an address that begins with https:// or http://; “ftp:\u2060//tools.\u2060example” is not that.',
      ],
      [
        'tools.example',
        'says: “value” takes an address that begins with https:// or http://; “tools.\u2060example” is not that.',
      ],
      [
        'javascript:alert(1)',
        'says: “value” takes an address that begins with https:// or http://; “javascript:alert(1)” is not that.',
      ],
      [
        'https://',
        'says: “value” takes an address that begins with https:// or http://; “https:\u2060//” is not that.',
      ],
    ],
  },
  {
    kind: 'pattern',
    declaration: "arg.pattern(/[A-Z]\\d{1,3}/, { expected: 'a shelf mark such as B12', example: 'B12' })",
    arg: arg.pattern(/[A-Z]\d{1,3}/, { expected: 'a shelf mark such as B12', example: 'B12' }),
    rows: [
      ['B12', 'reads: "B12"'],
      ['b12', 'says: “value” takes a shelf mark such as B12; “b12” is not that.'],
      ['B1234', 'says: “value” takes a shelf mark such as B12; “B1234” is not that.'],
      ['xB12', 'says: “value” takes a shelf mark such as B12; “xB12” is not that.'],
    ],
  },
  {
    kind: 'list',
    declaration: 'arg.list(arg.integer({ max: 9 }), { max: 3 })',
    arg: arg.list(arg.integer({ max: 9 }), { max: 3 }),
    rows: [
      ['1', 'reads: [1]'],
      ['1 2 3', 'reads: [1,2,3]'],
      ['1, 2', 'reads: [1,2]'],
      ['1,2,3', 'reads: [1,2,3]'],
      ['1 2 3 4', 'says: “value” takes up to 3 values, each a whole number of at most 9; “1, 2, 3, 4” is too many.'],
      ['1 x', 'says: I do not know what to do with “x”.'],
      ['12 1', 'says: “value” takes a whole number of at most 9; “12” is too much.'],
    ],
  },
  {
    kind: 'schema',
    declaration: "arg.schema(z.string().length(4), { expected: 'a code of four characters', example: 'AB12' })",
    arg: arg.schema(z.string().length(4), { expected: 'a code of four characters', example: 'AB12' }),
    rows: [
      ['AB12', 'reads: "AB12"'],
      ['AB123', 'says: “value” takes a code of four characters; “AB123” is not that.'],
    ],
  },
  {
    kind: 'custom',
    declaration:
      "arg.custom({\n  name: 'even number',\n  expected: 'an even number',\n  example: '2',\n  read: (text) => (Number(text) % 2 === 0 ? Number(text) : undefined),\n})",
    arg: arg.custom({
      name: 'even number',
      expected: 'an even number',
      example: '2',
      read: (text) => (Number(text) % 2 === 0 ? Number(text) : undefined),
    }),
    rows: [
      ['4', 'reads: 4'],
      ['5', 'says: “value” takes an even number; “5” is not that.'],
      ['x', 'says: “value” takes an even number; “x” is not that.'],
    ],
  },
];
