/** Names and ids from outside, in every place where they are told: words, logs, traces, tables. */
import fc from 'fast-check';
import {
  arg,
  command,
  createCommandLayer,
  guildSettings,
  logCalls,
  type Member,
  type Outcome,
  plainText,
  settingsCommands,
} from 'taxeon';
import type { Input, Platform } from 'taxeon/platform';
import { accessTableOf, explain } from 'taxeon/queries';
import { describe, expect, test } from 'vitest';

const described = { description: 'Something' };

const evil = [
  '\n\n[ERROR] Odalys has left',
  '\u001b[31mred\u001b[0m',
  '\u202Eyrros\u202C',
  '\u2066isolated\u2069',
  ...[...'@#&!+'].map((sign) => `${sign}all <${sign}123> [${sign}123]`),
  'https://tools.example/free',
  'tools.example',
  '```\ncode\n```',
  '\u0000\u0007\u0085\u2028\u2029',
  '\uD800half',
  'Z\u0301\u0301\u0301\u0301\u0301\u0301\u0301\u0301algo',
  'x'.repeat(5000),
  '\u200B\u2060\uFEFF',
  '=1+1',
];
const name = fc.oneof(
  fc.constantFrom(...evil),
  fc.string({ unit: 'binary', maxLength: 60 }),
  fc.tuple(fc.constantFrom(...evil), fc.string({ maxLength: 10 })).map((both) => both.join('')),
);
const id = name.filter((one) => one !== '' && one.length <= 512);

/** What no sentence, line or cell may hold, whoever chose the names in it. */
const forbidden = /[\p{Cc}\p{Cs}]|[\u061C\u200E\u200F\u202A-\u202E\u2066-\u2069\u2028\u2029\u200B\uFEFF]|\p{M}{5}/u;
const pings = /@(?!\u2060)|<(?!\u2060)|:\/\/|\.(?=\p{L})/u;

interface Names {
  readonly who: string;
  readonly whoId: string;
  readonly other: string;
  readonly otherId: string;
  readonly guild: string;
  readonly guildId: string;
  readonly channel: string;
  readonly role: string;
  readonly roleId: string;
}

const names: fc.Arbitrary<Names> = fc.record({
  who: name,
  whoId: id,
  other: name,
  otherId: id,
  guild: name,
  guildId: id,
  channel: name,
  role: name,
  roleId: id,
});

function scene({ who, whoId, other, otherId, guild, guildId, channel, role, roleId }: Names) {
  const member = (ownId: string, own: string, more: Partial<Member> = {}): Member => ({
    kind: 'member',
    id: ownId,
    name: own,
    roles: [{ id: roleId, name: role }],
    permissions: new Set(['manage']),
    rank: 1,
    ownsGuild: false,
    ...more,
  });
  const caller = member(whoId, who);
  const all = [member(otherId, other), member(`${otherId.slice(0, 500)}2`, `${other}2`)];
  const place = { kind: 'guild', guild: { id: guildId, name: guild }, channel: { id: 'c', name: channel } } as const;
  const said: string[] = [];
  const platform: Platform = {
    name: 'evil',
    capabilities: { privateReplies: 'slash', eventIds: false },
    directory: {
      bot: () => undefined,
      self: () => member('mallet', 'Mallet', { rank: 9 }),
      mentioned: () => undefined,
      member: (_guild, wanted) => (wanted === 'other' ? all[0] : undefined),
      membersNamed: (_guild, wanted) =>
        wanted === 'both' ? all.map((one) => ({ ...one, name: `both${one.name}` })) : [],
      user: () => undefined,
      roles: () => [{ id: roleId, name: role, rank: 1, permissions: new Set() }],
      channels: () => [{ id: 'c', name: channel }],
    },
    guilds: () => [place.guild],
    deliver: ({ notice }) => void said.push(plainText(notice)),
    serve: async () => ({ close: async () => undefined }),
  };
  const lines: string[] = [];
  const note = (fields: Readonly<Record<string, unknown>>, message: string) => {
    lines.push(message);
    const texts = (value: unknown): void => {
      if (typeof value === 'string') lines.push(value);
      else if (Array.isArray(value)) value.forEach(texts);
    };
    Object.values(fields).forEach(texts);
  };
  const log = { error: note, warn: note, info: note };
  const settings = guildSettings({ log });
  const who_ = { who: arg.member() };
  const attributions: string[] = [];
  const layer = createCommandLayer({
    prefixes: ['!'],
    damping: 'off',
    log,
    settings,
    commands: [
      command({
        ...described,
        name: 'outrank',
        args: who_,
        requires: ({ caller: one }) => [one.outranks('who')],
        run: () => '',
      }),
      command({
        ...described,
        name: 'bots',
        args: who_,
        requires: ({ target }) => [target('who').isBot()],
        run: () => '',
      }),
      command({ ...described, name: 'touch', args: { ...who_, note: arg.tail({ optional: true }) }, run: () => '' }),
      command({
        ...described,
        name: 'attribute',
        run: ({ attribution, mention, caller: one }) => {
          attributions.push(attribution());
          return one.kind === 'member' ? mention(one) : '';
        },
      }),
      command({
        ...described,
        name: 'fails',
        run: () => {
          throw new Error('no');
        },
      }),
      ...settingsCommands(settings, { requires: ({ caller: one }) => [one.can('manage')] }),
    ],
  });
  logCalls(layer, { log });
  const input = (text: string): Input => ({ surface: 'text', text, caller, place, at: 0 });
  return { layer, platform, said, lines, input, place, caller, attributions };
}

const calls = [
  '!outrank other',
  '!bots other',
  '!touch both',
  '!touch nobody',
  '!attribute',
  '!fails',
  '!settings',
  '!deny touch c',
  '!settings',
];

describe('hostile names', () => {
  test('break no sentence, no line of the log, no trace and no table', async () => {
    await fc.assert(
      fc.asyncProperty(names, fc.array(name, { maxLength: 3 }), async (given, typed) => {
        const { layer, platform, said, lines, input, place, caller, attributions } = scene(given);
        await layer.connected(platform);
        const outcomes: Outcome[] = [];
        for (const text of [...calls, ...typed.map((one) => `!touch ${one}`), ...typed.map((one) => `!${one}`)]) {
          outcomes.push(await layer.handle(input(text), platform, { trace: true }));
        }
        for (const one of [given.other, ...typed]) {
          const slash = { ...input(''), surface: 'slash', path: [one], options: { [one]: one } } as const;
          outcomes.push(await layer.handle(slash, platform, { trace: true }));
          outcomes.push(await layer.handle({ ...slash, path: ['touch'] }, platform, { trace: true }));
        }
        for (const one of said.flatMap((text) => text.split('\n'))) {
          expect(one).not.toMatch(forbidden);
          if (!/^(Usage|Example): /.test(one)) expect(one).not.toMatch(pings);
          expect(one.length).toBeLessThan(400);
        }
        for (const one of [...lines, ...attributions]) expect(one).not.toMatch(forbidden);
        for (const one of attributions) expect(one.length).toBeLessThanOrEqual(100);
        for (const outcome of outcomes) {
          if (!('trace' in outcome)) continue;
          for (const { reason } of outcome.trace?.stages ?? []) expect(reason).not.toMatch(forbidden);
        }
        for (const { reason } of (await explain(layer, input('!outrank other'), platform)).stages) {
          expect(reason).not.toMatch(forbidden);
        }
        const table = await accessTableOf(layer, place, platform, caller);
        for (const one of [table.guild, ...table.columns]) expect(one).not.toMatch(forbidden);
      }),
      { numRuns: 200 },
    );
  });

  test('push no id out of an attribution', async () => {
    const { layer, platform, input, attributions } = scene({ ...plain, who: 'Wren '.repeat(50), whoId: 'wren' });
    await layer.handle(input('!attribute'), platform);
    expect(attributions).toEqual(['attribute, for Wren Wren Wren Wren… (wren)']);
  });

  const kept: [string, string][] = [
    ['an emoji of several parts', '👩‍🔧 Ines'],
    ['an underline and a star', 'ines_of_*oddmere*'],
    ['a joiner inside a word', 'می‌خواهم'],
    ['letters with accents', 'Zoë Åström'],
  ];
  test.each(kept)('that are not hostile stay as they are: %s', async (_, other) => {
    const { layer, platform, said, input } = scene({ ...plain, other });
    await layer.handle(input('!bots other'), platform);
    expect(said).toEqual([`${other} is no bot, so that cannot be done to them.`]);
  });

  test('of nothing that is seen give way to the id', async () => {
    const { layer, platform, said, input } = scene({ ...plain, other: '\u200D\u200B', otherId: 'odalys' });
    await layer.handle(input('!bots other'), platform);
    expect(said).toEqual(['odalys is no bot, so that cannot be done to them.']);
  });
});

const plain: Names = {
  who: 'Wren',
  whoId: 'wren',
  other: 'Odalys',
  otherId: 'odalys',
  guild: 'Oddmere',
  guildId: 'oddmere',
  channel: 'counter',
  role: 'steward',
  roleId: 'steward',
};
