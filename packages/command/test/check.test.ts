import { describe, expect, test } from 'vitest';
import { folderOf } from './support.js';

const config = (
  commands: string,
  more = '',
  world = '',
) => `import { arg, command, createCommandLayer, group, guildSettings } from 'taxeon';
import { icuLanguage } from '@taxeon/icu';
import { standIn } from '@taxeon/testing';
const run = () => 'done';
const one = (name, more = {}) => command({ name, description: 'x', run, ...more });
const world = {
  bot: { id: 'mallet', name: 'Mallet' },
  permissions: ['fine', 'ring', 'sing'],
  people: [{ id: 'ines', name: 'Ines' }],
  guilds: [{ id: 'oddmere', name: 'Oddmere', channels: ['counter'], roles: [{ name: 'steward', rank: 1, permissions: ['fine'] }], members: { mallet: [], ines: ['steward'] } }],
  ${world}
};
export default { open: (given) => ({ layer: createCommandLayer({ ...given, commands: [${commands}], prefixes: ['!'], ${more} }), platform: standIn(world, given) }) };
`;

interface Found {
  readonly warnings: readonly { readonly command: string; readonly warning: string }[];
  readonly logged: readonly string[];
}

async function checked(...given: Parameters<typeof config>): Promise<Found> {
  const { status, out, err } = await folderOf({ 'taxeon.config.mjs': config(...given) }).taxeon('check', '--json');
  expect({ status, err }).toEqual({ status: 0, err: '' });
  return JSON.parse(out);
}

describe('taxeon check looks for', () => {
  const rows: [string, Parameters<typeof config>, string[]][] = [
    [
      'names that are one letter apart, aliases too, in groups too',
      [
        "one('fine'), one('lend'), one('find'), one('other', { aliases: ['lned', 'oh'] }), one('ok'), one('oh2'), group({ name: 'shed', description: 'x', commands: [one('lamp'), one('lamps'), one('damp')] })",
      ],
      [
        'find: “find” is one letter from “fine”; who mistypes one runs the other',
        'other: “lned” is one letter from “lend”; who mistypes one runs the other',
        'shed lamps: “lamps” is one letter from “lamp”; who mistypes one runs the other',
        'shed damp: “damp” is one letter from “lamp”; who mistypes one runs the other',
      ],
    ],
    [
      'permissions that nobody has, and others that are given',
      [
        "one('a', { requires: ({ caller }) => [caller.can('fine')] }), one('b', { requires: ({ caller }) => [caller.can('ring')] }), one('c', { requires: ({ caller }) => [caller.can('sing')] })",
        "roles: { steward: ['sing'] }",
      ],
      ['b: asks for the permission ring, which no role in any guild gives; nobody can run it'],
    ],
    [
      'examples that do not read where the bot is',
      [
        "one('tell', { requires: ({ caller, bot }) => [caller.outranks('who'), bot.can('ring')], args: { who: arg.member(), n: arg.integer({ max: 5, optional: true }) }, examples: ['Ines 5', 'Wren'] })",
      ],
      ['tell: the example “Wren” does not read: “who” takes a person here, by mention or name; “Wren” is not that.'],
    ],
    [
      'words that a language lacks',
      ["one('a')", "languages: [icuLanguage('cy', { 'reply.usage': 'Defnydd: {written}' })]"],
      ['(layer): the language cy has no words for command.unknown, command.changed, '],
    ],
    ['nothing where nothing is', ["one('fine'), one('lamp')"], []],
  ];
  test.each(rows)('%s', async (_, given, expected) => {
    const { warnings } = await checked(...given);
    const told = warnings.map(({ command, warning }) => `${command}: ${warning}`);
    expect(told.map((one, index) => one.slice(0, expected[index]?.length))).toEqual(expected);
  });

  test('settings of guilds that name no command, and what the bot is not allowed', async () => {
    const settings =
      "settings: guildSettings({ log: given.log, guilds: { 'stand-in/oddmere': { off: ['fien'], roles: { steward: 'steward' } } } })";
    const { logged } = await checked("one('fine', { requires: ({ bot }) => [bot.can('sing')] })", settings);
    expect(logged).toEqual([
      expect.stringMatching(/guild.*fien/),
      'The bot is not allowed what its commands need: platform stand-in, guild oddmere, permission sing, commands fine',
    ]);
  });

  test('all of 500 commands, and names them under the command', async () => {
    const many = Array.from(
      { length: 500 },
      (_, n) => `one('command${n}', { aliases: ['alias${n}x'], examples: [''] })`,
    ).join();
    const { status, out } = await folderOf({ 'taxeon.config.mjs': config(`${many}, one('fine'), one('find')`) }).taxeon(
      'check',
    );
    expect(status).toBe(0);
    expect(out).toMatch(/\n {2}find\n {4}“find” is one letter from “fine”; who mistypes one runs the other\n/);
  });
});
