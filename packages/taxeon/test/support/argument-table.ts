/** The declarations on docs/arguments.md, which shows what each of them takes and refuses. */
import { type Arg, arg } from 'taxeon';
import * as z from 'zod';

export interface KindTable {
  readonly kind: string;
  /** As a developer writes it. */
  readonly declaration: string;
  readonly arg: Arg<unknown>;
}

export const kindTables: readonly KindTable[] = [
  {
    kind: 'text',
    declaration: 'arg.text({ max: 12 })',
    arg: arg.text({ max: 12 }),
  },
  {
    kind: 'tail',
    declaration: 'arg.tail({ max: 20 })',
    arg: arg.tail({ max: 20 }),
  },
  {
    kind: 'integer',
    declaration: 'arg.integer({ min: 1, max: 500 })',
    arg: arg.integer({ min: 1, max: 500 }),
  },
  {
    kind: 'integer with cap',
    declaration: 'arg.integer({ max: 500, cap: true })',
    arg: arg.integer({ max: 500, cap: true }),
  },
  {
    kind: 'number',
    declaration: 'arg.number({ min: 0.5, max: 12 })',
    arg: arg.number({ min: 0.5, max: 12 }),
  },
  {
    kind: 'number of percent',
    declaration: 'arg.number({ percent: true, max: 100 })',
    arg: arg.number({ percent: true, max: 100 }),
  },
  {
    kind: 'money',
    declaration: "arg.money({ currency: 'GBP', minor: ['p', 'pence', 'penny'], min: 1, max: 50_00 })",
    arg: arg.money({ currency: 'GBP', minor: ['p', 'pence', 'penny'], min: 1, max: 50_00 }),
  },
  {
    kind: 'boolean',
    declaration: 'arg.boolean()',
    arg: arg.boolean(),
  },
  {
    kind: 'choice',
    declaration: "arg.choice(['lathe', 'welder', 'chainsaw'])",
    arg: arg.choice(['lathe', 'welder', 'chainsaw']),
  },
  {
    kind: 'choice with values',
    declaration: 'arg.choice({ small: 10, large: 25 })',
    arg: arg.choice({ small: 10, large: 25 }),
  },
  {
    kind: 'duration',
    declaration: "arg.duration({ min: '1h', max: '12d' })",
    arg: arg.duration({ min: '1h', max: '12d' }),
  },
  {
    kind: 'datetime',
    declaration: "arg.datetime({ min: 'now', max: { fromNow: '60d' } })",
    arg: arg.datetime({ min: 'now', max: { fromNow: '60d' } }),
  },
  {
    kind: 'user',
    declaration: 'arg.user()',
    arg: arg.user(),
  },
  {
    kind: 'member',
    declaration: 'arg.member()',
    arg: arg.member(),
  },
  {
    kind: 'member, exactly',
    declaration: "arg.member({ match: 'exact' })",
    arg: arg.member({ match: 'exact' }),
  },
  {
    kind: 'member, by mention',
    declaration: "arg.member({ by: 'mention' })",
    arg: arg.member({ by: 'mention' }),
  },
  {
    kind: 'role',
    declaration: 'arg.role()',
    arg: arg.role(),
  },
  {
    kind: 'channel',
    declaration: 'arg.channel()',
    arg: arg.channel(),
  },
  {
    kind: 'emoji',
    declaration: 'arg.emoji()',
    arg: arg.emoji(),
  },
  {
    kind: 'url',
    declaration: 'arg.url()',
    arg: arg.url(),
  },
  {
    kind: 'pattern',
    declaration: "arg.pattern(/[A-Z]\\d{1,3}/, { expected: 'a shelf mark such as B12', example: 'B12' })",
    arg: arg.pattern(/[A-Z]\d{1,3}/, { expected: 'a shelf mark such as B12', example: 'B12' }),
  },
  {
    kind: 'list',
    declaration: 'arg.list(arg.integer({ max: 9 }), { max: 3 })',
    arg: arg.list(arg.integer({ max: 9 }), { max: 3 }),
  },
  {
    kind: 'schema',
    declaration: "arg.schema(z.string().length(4), { expected: 'a code of four characters', example: 'AB12' })",
    arg: arg.schema(z.string().length(4), { expected: 'a code of four characters', example: 'AB12' }),
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
  },
];
