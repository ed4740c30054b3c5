import { runUntil, standIn, virtualClock, type World } from '@taxeon/testing';
import fc from 'fast-check';
import {
  type AccessRule,
  type Arg,
  arg,
  type Command,
  command,
  createCommandLayer,
  type GuildSettings,
  group,
  guildSettings,
  type LayerOptions,
  type Member,
  memoryStore,
  type Requirement,
  type RequirementBuilder,
  type RoleSubject,
  SettingsError,
  settingsCommands,
} from 'taxeon';
import { accessTableOf, needsOf } from 'taxeon/queries';
import { describe, expect, test } from 'vitest';
import {
  codeOf,
  gist,
  oddmere,
  oddmereData,
  sceneOf,
  silentLog,
  startOfAfternoon,
} from '../../../test/support/oddmere.js';
import { everyRequirement } from '../../../test/support/requirements.js';

const described = { description: 'Something', run: () => 'done' };
const who = { who: arg.member({ optional: true }) };

type Args = { readonly who: ReturnType<typeof arg.member<{ optional: true }>> };
type Requires = Parameters<typeof command<Args>>[0]['requires'];

/** One command `act [who]` with these requirements, in the demo's world. */
function acting(requires: Requires, options: Partial<LayerOptions> = {}) {
  return sceneOf(
    [command({ ...described, name: 'act', in: 'guild', args: who as Args, requires: requires as never })],
    options,
  );
}

describe('requirements combine', () => {
  const rows: [string, Requires, string, string][] = [
    [
      'all of them hold',
      ({ caller, allOf }) => [allOf(caller.can('fine'), caller.holds('steward'))],
      'ines',
      'completed',
    ],
    [
      'one of them does not',
      ({ caller, allOf }) => [allOf(caller.can('fine'), caller.holds('keeper'))],
      'ines',
      'permission.caller',
    ],
    ['any holds', ({ caller, anyOf }) => [anyOf(caller.can('manage'), caller.holds('borrower'))], 'wren', 'completed'],
    [
      'none holds',
      ({ caller, anyOf }) => [anyOf(caller.can('manage'), caller.holds('steward'))],
      'wren',
      'permission.caller',
    ],
    ['not', ({ caller, not }) => [not(caller.holds('borrower'))], 'ines', 'completed'],
    ['not, and it does', ({ caller, not }) => [not(caller.holds('borrower'))], 'wren', 'permission.caller'],
    ['not not', ({ caller, not }) => [not(not(caller.holds('borrower')))], 'wren', 'completed'],
    [
      'not not, and it does not',
      ({ caller, not }) => [not(not(caller.holds('borrower')))],
      'ines',
      'permission.caller',
    ],
    [
      'the bot or the caller',
      ({ caller, bot, anyOf }) => [anyOf(caller.can('manage'), bot.can('give-badges'))],
      'wren',
      'completed',
    ],
    ['neither', ({ caller, bot, anyOf }) => [anyOf(caller.can('manage'), bot.can('fly'))], 'wren', 'permission.caller'],
    [
      'a check of one’s own',
      ({ condition }) => [condition('it is afternoon', ({ now }) => now === startOfAfternoon || 'Come later.')],
      'wren',
      'completed',
    ],
    [
      'one that says no',
      ({ condition }) => [condition('never', () => 'The library is closed.')],
      'wren',
      'requirement.failed',
    ],
    [
      'one that says no, later',
      ({ condition }) => [condition('never', async () => 'The library is closed.')],
      'wren',
      'requirement.failed',
    ],
    [
      'a check under any',
      ({ caller, condition, anyOf }) => [
        anyOf(
          caller.can('manage'),
          condition('always', () => true as const),
        ),
      ],
      'wren',
      'completed',
    ],
    ['owning the bot', ({ caller }) => [caller.ownsBot()], 'wren', 'permission.caller'],
  ];
  test.each(rows)('%s', async (_, requires, by, expected) => {
    const scene = await acting(requires);
    expect(codeOf((await scene.types(by, '!act')).outcome)).toBe(expected);
  });

  test('of several ways that fail, the shortest is told', async () => {
    const scene = await acting(({ caller, anyOf, allOf }) => [
      anyOf(
        allOf(caller.can('manage'), caller.can('fly')),
        caller.holds('steward'),
        allOf(caller.can('a'), caller.can('b'), caller.can('c')),
      ),
    ]);
    expect((await scene.types('wren', '!act')).posts[0]?.notice.body).toBe('You need the role steward for that.');
    const both = await acting(({ caller, allOf }) => [allOf(caller.can('manage'), caller.holds('keeper'))]);
    expect((await both.types('wren', '!act')).posts[0]?.notice.body).toBe(
      'You need the permission manage for that. You need the role keeper for that.',
    );
  });

  test('checks of one’s own run only when everything else is decided', async () => {
    let ran = 0;
    const scene = await acting(({ caller, condition }) => [
      condition('counted', () => (++ran > 0 ? true : 'never')),
      caller.outranks('who'),
    ]);
    await scene.types('tobias', '!act ines');
    expect(ran).toBe(0);
    await scene.types('ines', '!act tobias');
    expect(ran).toBe(1);
  });

  const misbehaving: [string, () => unknown][] = [
    [
      'throws',
      () => {
        throw new Error('boom');
      },
    ],
    ['rejects', () => Promise.reject(new Error('boom'))],
    ['never answers', () => new Promise(() => undefined)],
    ['gives nothing', () => undefined],
    ['gives null', () => null],
    ['gives a number', () => 1],
    ['gives an empty text', () => ''],
    ['gives an object', () => ({ ok: true })],
    ['promises nothing', () => Promise.resolve(undefined)],
  ];
  const forms: [string, (own: Requirement, builder: RequirementBuilder<Args>) => Requirement][] = [
    ['alone', (own) => own],
    ['under not', (own, { not }) => not(own)],
    ['under not, twice', (own, { not }) => not(not(own))],
    ['in allOf', (own, { allOf, caller }) => allOf(caller.can('fine'), own)],
    ['in anyOf', (own, { anyOf, caller }) => anyOf(caller.can('fly'), own)],
  ];
  test.each(misbehaving)('a condition that %s refuses, with a reference', async (_, holds) => {
    for (const [form, made] of forms) {
      const logged: unknown[] = [];
      const scene = await acting((builder) => [made(builder.condition('broken', holds as () => true), builder)], {
        patience: '50ms',
        reference: () => 'abcd2345',
        log: { ...silentLog, error: ({ reference }) => void logged.push(reference) },
      });
      const { outcome } = await runUntil(scene.clock, scene.types('ines', '!act'));
      expect([form, outcome.status, codeOf(outcome)]).toEqual([form, 'failed', 'callback.failed']);
      expect(outcome).toMatchObject({ parameters: { reference: 'abcd2345' } });
      expect(logged).toEqual(['abcd2345']);
    }
  });

  test('false and a sentence are no, and true under not is', async () => {
    const code = async (requires: Requires) => codeOf((await (await acting(requires)).types('ines', '!act')).outcome);
    expect(await code(({ condition }) => [condition('open', () => false)])).toBe('requirement.failed');
    expect(await code(({ condition }) => [condition('open', async () => 'Closed.')])).toBe('requirement.failed');
    expect(await code(({ condition, not }) => [not(condition('open', () => 'Closed.'))])).toBe('completed');
    expect(await code(({ condition, not }) => [not(condition('open', async () => true))])).toBe('requirement.failed');
  });
});

describe('rank and targets', () => {
  const outranks: Requires = ({ caller }) => [caller.outranks('who')];
  const botOutranks: Requires = ({ bot }) => [bot.outranks('who')];
  const rows: [string, Requires, string, string, string, string][] = [
    ['below', outranks, 'ines', 'wren', 'oddmere', 'completed'],
    ['level', outranks, 'tobias', 'wren', 'oddmere', 'permission.rank not-above'],
    ['above', outranks, 'wren', 'ines', 'oddmere', 'permission.rank not-above'],
    ['oneself', outranks, 'ines', 'ines', 'oddmere', 'permission.rank self'],
    [
      'oneself, allowed',
      ({ caller }) => [caller.outranks('who', { orSelf: true })],
      'ines',
      'ines',
      'oddmere',
      'completed',
    ],
    ['the guild’s owner', outranks, 'ines', 'odalys', 'oddmere', 'permission.rank not-above'],
    ['as the guild’s owner', outranks, 'ines', 'tobias', 'workbench', 'completed'],
    ['the bot', outranks, 'odalys', 'mallet', 'oddmere', 'permission.target the-bot'],
    [
      'the bot, allowed and below',
      ({ caller }) => [caller.outranks('who', { orBot: true })],
      'odalys',
      'mallet',
      'oddmere',
      'completed',
    ],
    [
      'the bot, allowed and above',
      ({ caller }) => [caller.outranks('who', { orBot: true })],
      'ines',
      'mallet',
      'oddmere',
      'permission.rank not-above',
    ],
    ['nobody named', outranks, 'wren', '', 'oddmere', 'completed'],
    ['nobody named, under not', ({ caller, not }) => [not(caller.outranks('who'))], 'ines', '', 'oddmere', 'completed'],
    ['the bot above', botOutranks, 'wren', 'tobias', 'oddmere', 'completed'],
    ['the bot below', botOutranks, 'ines', 'tobias', 'workbench', 'permission.rank not-above'],
    ['a bot', ({ target, not }) => [not(target('who').isBot())], 'ines', 'kiosk', 'oddmere', 'permission.target a-bot'],
    ['no bot', ({ target, not }) => [not(target('who').isBot())], 'ines', 'wren', 'oddmere', 'completed'],
    ['only a bot', ({ target }) => [target('who').isBot()], 'ines', 'wren', 'oddmere', 'permission.target no-bot'],
    [
      'somebody protected',
      ({ target, not }) => [not(target('who').can('fine'))],
      'odalys',
      'ines',
      'oddmere',
      'permission.target can',
    ],
    [
      'somebody who must be able',
      ({ target }) => [target('who').can('fine')],
      'odalys',
      'wren',
      'oddmere',
      'permission.target lacks',
    ],
    ['no target named', ({ target }) => [target('who').can('fine')], 'odalys', '', 'oddmere', 'completed'],
  ];
  test.each(rows)('%s', async (_, requires, by, target, guild, expected) => {
    const { outcome } = await (await acting(requires)).types(by, `!act ${target}`, guild);
    const because = 'parameters' in outcome && 'because' in outcome.parameters ? ` ${outcome.parameters.because}` : '';
    expect(codeOf(outcome) + because).toBe(expected);
  });

  test('the bot is no target, whatever the requirements say, unless the declaration allows it', async () => {
    const whom = { who: arg.member(), more: arg.list(arg.member(), { flag: true, optional: true }) };
    const onlyOrBot = { who: arg.member({ orBot: true }) };
    const scene = await sceneOf([
      command({ ...described, name: 'thank', args: whom }),
      command({
        ...described,
        name: 'praise',
        args: whom,
        requires: ({ anyOf, caller, target }) => [anyOf(caller.can('fine'), target('who').isBot())],
      }),
      command({ ...described, name: 'oil', args: onlyOrBot }),
    ]);
    const code = async (text: string) => codeOf((await scene.types('ines', text)).outcome);
    expect(await code('!thank mallet')).toBe('permission.target');
    expect(await code('!thank wren --more tobias --more mallet')).toBe('permission.target');
    expect(await code('!praise mallet')).toBe('permission.target');
    expect(await code('!thank wren --more tobias')).toBe('completed');
    expect(await code('!oil mallet')).toBe('completed');
  });

  test('a requirement on a list of members holds for each of them', async () => {
    const args = { all: arg.list(arg.member()) };
    const scene = await sceneOf([
      command({ ...described, name: 'act', args, requires: ({ caller }) => [caller.outranks('all')] }),
      command({ ...described, name: 'spare', args, requires: ({ not, target }) => [not(target('all').can('fine'))] }),
    ]);
    const code = async (by: string, text: string) => codeOf((await scene.types(by, text)).outcome);
    expect(await code('ines', '!act wren tobias')).toBe('completed');
    expect(await code('ines', '!act wren odalys')).toBe('permission.rank');
    expect(await code('ines', '!spare wren tobias')).toBe('completed');
    expect(await code('odalys', '!spare wren ines')).toBe('permission.target');
  });

  test.each([undefined, null, Number.NaN, '1'])(
    'a platform whose rank is %s refuses, under not as well',
    async (rank) => {
      const clock = virtualClock(startOfAfternoon);
      const platform = standIn(oddmereData().world, { clock });
      const unranked = {
        ...platform.directory,
        member: (...asked: Parameters<typeof platform.directory.member>) => {
          const found = platform.directory.member(...asked);
          return found === undefined ? undefined : ({ ...(found as object), rank } as never);
        },
      };
      for (const requires of [outranks, (({ caller, not }) => [not(caller.outranks('who'))]) satisfies Requires]) {
        const layer = createCommandLayer({
          commands: [command({ ...described, name: 'act', args: who as Args, requires: requires as never })],
          prefixes: ['!'],
          log: silentLog,
        });
        const input = platform.typed({ person: 'ines', place: 'oddmere', text: '!act wren' });
        expect(await layer.handle(input, { ...platform, directory: unranked })).toMatchObject({
          code: 'permission.rank',
          parameters: { because: 'unknown' },
        });
      }
    },
  );

  describe('of arguments that are mapped to something else', () => {
    const ids = arg.member().map(({ id }) => id);
    const lists: [string, Readonly<Record<string, Arg<unknown>>>][] = [
      ['a member', { who: ids }],
      ['a list of mapped members', { who: arg.list(ids) }],
      ['a mapped list', { who: arg.list(arg.member()).map((all) => all.length) }],
      ['a default', { who: arg.member({ default: ({ caller }) => caller as Member }).map(({ id }) => id) }],
    ];
    test.each(lists)('hold for whom %s names', async (_, args) => {
      const named = lists.indexOf(lists.find(([, one]) => one === args) as (typeof lists)[number]);
      const requires = (({ caller }: RequirementBuilder<Args>) => [caller.outranks('who')]) as never;
      const scene = await sceneOf([
        command({ ...described, name: 'act', args, requires }),
        command({ ...described, name: 'touch', args }),
      ]);
      const code = async (by: string, text: string) => codeOf((await scene.types(by, text)).outcome);
      expect(await code('ines', '!act wren')).toBe('completed');
      expect(await code('wren', '!act ines')).toBe('permission.rank');
      expect(await code('ines', '!touch mallet')).toBe('permission.target');
      if (named === 3) expect(await code('ines', '!act')).toBe('permission.rank');
    });
  });

  test.each([undefined, {}, { id: 7 }])(
    'a platform that gives %j for the bot itself: nobody is touched',
    async (self) => {
      const platform = standIn(oddmereData().world);
      const directory = { ...platform.directory, self: () => self as never };
      const layer = createCommandLayer({
        commands: [command({ ...described, name: 'act', args: who as Args })],
        prefixes: ['!'],
        log: silentLog,
      });
      const code = async (text: string) =>
        codeOf(
          await layer.handle(platform.typed({ person: 'ines', place: 'oddmere', text }), { ...platform, directory }),
        );
      expect([await code('!act mallet'), await code('!act wren')]).toEqual(['permission.target', 'permission.target']);
      expect(await code('!act')).toBe('completed');
    },
  );
});

test('what commands share of requirements cannot be changed for all by one of them', async () => {
  const careless: Requires = ({ caller }) => {
    const one = caller.can('fly') as { traits: object };
    expect(() => Object.assign(one.traits, { grantable: false })).toThrow(TypeError);
    expect(() => Object.assign(one, { decide: () => 'yes' })).toThrow(TypeError);
    return [one as Requirement];
  };
  expect(codeOf((await (await acting(careless)).types('wren', '!act')).outcome)).toBe('permission.caller');
});

describe('owners of the bot', () => {
  const owning = { owners: ['stand-in/pim'] } as const;
  const rows: [string, Requires, string, string][] = [
    [
      'pass what is made of can and holds',
      ({ caller, anyOf }) => [caller.can('fly'), anyOf(caller.holds('x'), caller.can('y'))],
      '!act',
      'completed',
    ],
    ['pass ownsBot', ({ caller }) => [caller.ownsBot()], '!act', 'completed'],
    ['not rank', ({ caller }) => [caller.can('fine'), caller.outranks('who')], '!act wren', 'permission.rank'],
    [
      'not the bot’s own permission',
      ({ caller, bot }) => [caller.can('fine'), bot.can('fly')],
      '!act',
      'permission.bot',
    ],
    [
      'not a mixture',
      ({ caller, bot, anyOf }) => [anyOf(caller.can('fly'), bot.can('fly'))],
      '!act',
      'permission.caller',
    ],
    ['not targets', ({ target, not }) => [not(target('who').can('fine'))], '!act ines', 'permission.target'],
    ['not checks', ({ condition }) => [condition('never', () => 'No.')], '!act', 'requirement.failed'],
  ];
  test.each(rows)('%s', async (_, requires, text, expected) => {
    expect(codeOf((await (await acting(requires, owning)).types('pim', text)).outcome)).toBe(expected);
  });

  test('not what is off, nor a cooldown', async () => {
    const off = await acting(undefined, {
      ...owning,
      settings: guildSettings({ guilds: { 'stand-in/oddmere': { off: ['act'] } } }),
    });
    expect((await off.types('pim', '!act')).outcome).toMatchObject({
      code: 'command.unavailable',
      parameters: { because: 'off' },
    });
  });
});

describe('the same refusals by text, slash and console', () => {
  const standing = { can: 'everything', holds: ['steward'], outranks: 'everyone' } as const;
  const requires: Requires = ({ caller, target, not, condition }) => [
    caller.holds('steward'),
    caller.outranks('who'),
    not(target('who').can('administer')),
    condition('not Tobias', ({ args }) => (args.who as { id?: string } | undefined)?.id !== 'tobias' || 'Not him.'),
  ];
  test.each(['wren', 'tobias', 'odalys', 'mallet', 'pim'])('acting on %s', async (target) => {
    const scene = await acting(requires, { console: standing });
    const { place } = scene.platform.typed({ person: 'ines', place: 'oddmere', text: '' });
    const byConsole = await scene.layer.handle(
      {
        surface: 'console',
        caller: { kind: 'console', id: 'console', name: 'console' },
        place,
        text: `act ${target}`,
        at: 0,
      },
      scene.platform,
    );
    const byText = (await scene.types('ines', `!act ${target}`)).outcome;
    const bySlash = (await scene.invokes('ines', 'act', { who: target })).outcome;
    expect(gist(bySlash)).toEqual(gist(byText));
    expect(gist(byConsole)).toEqual(gist(byText));
  });

  test('the console may nothing that is not declared', async () => {
    const scene = await acting(({ caller }) => [caller.can('fine')]);
    const { place } = scene.platform.typed({ person: 'ines', place: 'oddmere', text: '' });
    const input = {
      surface: 'console',
      caller: { kind: 'console', id: 'console', name: 'console' },
      place,
      text: 'act',
      at: 0,
    } as const;
    expect(codeOf(await scene.layer.handle(input, scene.platform))).toBe('permission.caller');
  });
});

const caller = { role: 'borrower', channel: 'oddmere/counter', member: 'wren' } as const;

describe('a guild’s grants and denials', () => {
  const rule = (subject: Partial<Record<keyof typeof caller, string>>, verdict: 'grant' | 'deny') =>
    ({ command: 'act', verdict, ...subject }) as unknown as AccessRule;
  const of = (level: keyof typeof caller, verdict: 'grant' | 'deny') => rule({ [level]: caller[level] }, verdict);
  const pairs: [string, AccessRule[], 'completed' | 'permission.caller'][] = [
    ['nothing said', [], 'permission.caller'],
    ['member granted', [of('member', 'grant')], 'completed'],
    ['role granted', [of('role', 'grant')], 'completed'],
    ['channel granted', [of('channel', 'grant')], 'completed'],
    ['member granted, member denied', [of('member', 'grant'), of('member', 'deny')], 'permission.caller'],
    ['member denied, member granted', [of('member', 'deny'), of('member', 'grant')], 'permission.caller'],
    ['member granted, role denied', [of('member', 'grant'), of('role', 'deny')], 'completed'],
    ['member denied, role granted', [of('member', 'deny'), of('role', 'grant')], 'permission.caller'],
    ['member granted, channel denied', [of('member', 'grant'), of('channel', 'deny')], 'completed'],
    ['member denied, channel granted', [of('member', 'deny'), of('channel', 'grant')], 'permission.caller'],
    ['role granted, role denied', [of('role', 'grant'), of('role', 'deny')], 'permission.caller'],
    ['role granted, channel denied', [of('role', 'grant'), of('channel', 'deny')], 'completed'],
    ['role denied, channel granted', [of('role', 'deny'), of('channel', 'grant')], 'permission.caller'],
    ['channel granted, channel denied', [of('channel', 'grant'), of('channel', 'deny')], 'permission.caller'],
    ['another member granted', [rule({ member: 'pim' }, 'grant')], 'permission.caller'],
    ['another command granted', [{ ...of('member', 'grant'), command: 'other' } as AccessRule], 'permission.caller'],
  ];
  test.each(pairs)('%s', async (_, rules, expected) => {
    const scene = await acting(({ caller: one }) => [one.can('fly'), one.holds('steward')], {
      settings: guildSettings({ guilds: { 'stand-in/oddmere': { rules } } }),
    });
    expect(codeOf((await scene.types('wren', '!act')).outcome)).toBe(expected);
  });

  test('a grant lifts nothing that stands under not', async () => {
    const guilds = { 'stand-in/oddmere': { rules: [of('member', 'grant')] } };
    const code = async (requires: Requires, by: string) =>
      codeOf(
        (
          await (
            await acting(requires, { settings: guildSettings({ guilds }), owners: ['stand-in/ines'] })
          ).types(by, '!act')
        ).outcome,
      );
    const without: Requires = ({ caller: one, not }) => [not(one.holds('borrower'))];
    expect(await code(({ caller: one }) => [one.can('fly')], 'wren')).toBe('completed');
    expect(await code(without, 'wren')).toBe('permission.caller');
    expect(
      await code(({ caller: one, anyOf, not }) => [anyOf(one.can('fly'), not(one.holds('borrower')))], 'wren'),
    ).toBe('permission.caller');
    expect(await code(({ caller: one, not }) => [not(one.can('fine'))], 'ines')).toBe('permission.caller');
  });

  test('a grant, and owning the bot, lift a requirement only where all of it may be granted', async () => {
    const settings = () => guildSettings({ guilds: { 'stand-in/oddmere': { rules: [of('member', 'grant')] } } });
    const code = async (requires: Requires) =>
      codeOf((await (await acting(requires, { settings: settings() })).types('wren', '!act ines')).outcome);
    expect(await code(({ caller: one, allOf }) => [allOf(one.can('fly'), one.holds('steward'))])).toBe('completed');
    expect(await code(({ caller: one, allOf }) => [allOf(one.can('fly'), one.ownsBot())])).toBe('permission.caller');
    expect(await code(({ caller: one, anyOf }) => [anyOf(one.can('fly'), one.ownsBot())])).toBe('permission.caller');
    expect(await code(({ caller: one, allOf }) => [allOf(one.can('fly'), one.outranks('who'))])).toBe(
      'permission.caller',
    );
    const owning = await acting(({ caller: one, allOf }) => [allOf(one.can('fly'), one.outranks('who'))], {
      owners: ['stand-in/wren'],
    });
    expect(codeOf((await owning.types('wren', '!act ines')).outcome)).toBe('permission.caller');
  });

  test.each([undefined, null, {}])(
    'the bot’s own permission is missing where the platform gives %j for it',
    async (self) => {
      const { layer, platform } = await acting(({ bot: own }) => [own.can('give-badges')]);
      const directory = { ...platform.directory, self: () => self as never };
      const input = platform.invoked({ person: 'ines', place: 'oddmere', path: ['act'] });
      expect(codeOf(await layer.handle(input, platform))).toBe('completed');
      expect(codeOf(await layer.handle(input && { ...input, id: 'again' }, { ...platform, directory }))).toBe(
        'permission.bot',
      );
    },
  );

  test('a denial holds where nothing is required, and says so', async () => {
    const scene = await acting(undefined, {
      settings: guildSettings({ guilds: { 'stand-in/oddmere': { rules: [of('member', 'deny')] } } }),
    });
    const { outcome, posts } = await scene.types('wren', '!act');
    expect(outcome).toMatchObject({ code: 'permission.caller', parameters: { denied: true, missing: [] } });
    expect(posts[0]?.notice.body).toBe('You are not allowed to do that here.');
    expect((await scene.types('tobias', '!act')).outcome.status).toBe('completed');
  });

  test('whoever is denied hears nothing of near names or arguments', async () => {
    const scene = await acting(undefined, {
      settings: guildSettings({ guilds: { 'stand-in/oddmere': { rules: [of('member', 'deny')] } } }),
    });
    expect((await scene.types('wren', '!atc')).outcome).toMatchObject({ parameters: { near: [] } });
    expect((await scene.types('wren', '!act nobody at all')).posts[0]?.notice.details).toBeUndefined();
  });
});

/** Random guilds, roles, rules and callers, decided by the layer and by a plain model of the rules' text. */
describe('precedence, on random guilds', () => {
  const roleNames = ['r1', 'r2', 'r3'];
  const people = ['ines', 'wren', 'pim'];
  const channels = ['counter', 'workshop'];
  const permissions = ['p', 'q'];
  const subject = fc.oneof(
    fc.constantFrom(...people).map((member) => ({ member })),
    fc.constantFrom(...roleNames).map((role) => ({ role })),
    fc.constantFrom(...channels).map((channel) => ({ channel: `g/${channel}` })),
  );
  const ids = ['yard.shed.act', 'yard.shed', 'yard', 'section:Yard'];
  const rules = fc.array(
    fc
      .tuple(subject, fc.constantFrom('grant' as const, 'deny' as const), fc.constantFrom(...ids, 'other'))
      .map(([one, verdict, id]) => ({ ...one, verdict, command: id }) as AccessRule),
    { maxLength: 6 },
  );
  const guild = fc.record({
    ranks: fc.tuple(fc.nat(3), fc.nat(3), fc.nat(3)),
    gives: fc.tuple(fc.subarray(permissions), fc.subarray(permissions), fc.subarray(permissions)),
    held: fc.record({
      ines: fc.subarray(roleNames),
      wren: fc.subarray(roleNames),
      pim: fc.subarray(roleNames),
      mallet: fc.subarray(roleNames),
    }),
    owner: fc.constantFrom(...people),
    rules,
    off: fc.oneof({ weight: 3, arbitrary: fc.constant([]) }, fc.subarray(['other', ...ids])),
    /** Which of the requirements that a group may have the groups ask for. */
    byGroups: fc.tuple(fc.subarray([0, 1, 3, 5]), fc.subarray([0, 1, 3, 5])),
    logical: fc.constantFrom('r1', 'r2', 'r3', 'gone'),
    by: fc.constantFrom(...people),
    target: fc.constantFrom(...people, 'mallet', ''),
    channel: fc.constantFrom(...channels),
  });
  type Sample = typeof guild extends fc.Arbitrary<infer T> ? T : never;

  const requires: Requires = ({ caller: one, bot, target }) => [
    one.can('p'),
    one.holds('steward'),
    one.outranks('who'),
    bot.can('q'),
    target('who').can('q'),
    one.ownsBot(),
  ];
  const parts = ['can', 'holds', 'outranks', 'bot', 'target', 'owns'] as const;

  function sceneFor(sample: Sample, used: readonly number[], settings: GuildSettings) {
    const world: World = {
      bot: { id: 'mallet', name: 'Mallet' },
      people: people.map((id) => ({ id, name: id })),
      guilds: [
        {
          id: 'g',
          name: 'G',
          owner: sample.owner,
          channels,
          roles: roleNames.map((name, index) => ({
            name,
            rank: sample.ranks[index] ?? 0,
            permissions: sample.gives[index] ?? [],
          })),
          members: sample.held,
        },
      ],
    };
    const platform = standIn(world);
    const some = (of: readonly number[]) => (builder: RequirementBuilder<Args>) => {
      const all = requires?.(builder) ?? [];
      return of.flatMap((index) => all[index] ?? []);
    };
    const [outer, inner] = sample.byGroups.map((of) => of.filter((index) => used.includes(index))) as [
      number[],
      number[],
    ];
    const own = used.filter((index) => !outer.includes(index) && !inner.includes(index));
    const act = command({ ...described, name: 'act', in: 'guild', args: who as Args, requires: some(own) as never });
    const shed = group({ description: 'Something', name: 'shed', requires: some(inner) as never, commands: [act] });
    const yard = group({
      description: 'Something',
      name: 'yard',
      section: 'Yard',
      requires: some(outer) as never,
      commands: [shed],
    });
    const layer = createCommandLayer({
      commands: [yard],
      prefixes: ['!'],
      settings: guildSettings({ guilds: { 'stand-in/g': settings } }),
      owners: ['stand-in/pim'],
      log: silentLog,
    });
    return layer.handle(
      platform.typed({ person: sample.by, place: `g/${sample.channel}`, text: `!yard shed act ${sample.target}` }),
      platform,
    );
  }

  /** The rules' own sentences, one by one, without any care for speed. */
  function model(sample: Sample, used: readonly number[], settings: GuildSettings): boolean {
    if (settings.off?.some((id) => ids.includes(id)) === true) return false;
    if (sample.target === 'mallet') return false;
    const held = (id: string) => (sample.held as Record<string, string[]>)[id] ?? [];
    const perms = (id: string) => new Set(held(id).flatMap((role) => sample.gives[roleNames.indexOf(role)] ?? []));
    const rankOf = (id: string) => Math.max(0, ...held(id).map((role) => sample.ranks[roleNames.indexOf(role)] ?? 0));
    // The command first, then its groups from the inside out, then the section; in each the person, their roles, the channel.
    const levels = ids.flatMap((id) => {
      const mine = (settings.rules ?? []).filter((rule) => rule.command === id);
      return [
        mine.filter((rule) => rule.member === sample.by),
        mine.filter((rule) => typeof rule.role === 'string' && held(sample.by).includes(rule.role)),
        mine.filter((rule) => rule.channel === `g/${sample.channel}`),
      ];
    });
    const deciding = levels.find((level) => level.length > 0) ?? [];
    const verdict = deciding.some((rule) => rule.verdict === 'deny')
      ? 'deny'
      : deciding.length > 0
        ? 'grant'
        : undefined;
    // Whoever owns the bot or the guild is kept from nothing.
    if (verdict === 'deny' && sample.by !== 'pim' && sample.by !== sample.owner) return false;
    const excused = verdict === 'grant' || sample.by === 'pim';
    const above = (a: string, b: string) => b !== sample.owner && (a === sample.owner || rankOf(a) > rankOf(b));
    const holds: Record<(typeof parts)[number], boolean> = {
      can: excused || perms(sample.by).has('p'),
      holds: excused || held(sample.by).includes(sample.logical),
      outranks: sample.target === '' || (sample.target !== sample.by && above(sample.by, sample.target)),
      bot: perms('mallet').has('q'),
      target: sample.target === '' || perms(sample.target).has('q'),
      owns: sample.by === 'pim',
    };
    return used.every((index) => holds[parts[index] ?? 'can']);
  }

  test('the layer agrees with a plain model', async () => {
    const used = fc.subarray(parts.map((_, index) => index));
    await fc.assert(
      fc.asyncProperty(guild, used, async (sample, some) => {
        const settings: GuildSettings = { rules: sample.rules, off: sample.off, roles: { steward: sample.logical } };
        const outcome = await sceneFor(sample, some, settings);
        expect([codeOf(outcome), outcome.status === 'completed']).toEqual([
          codeOf(outcome),
          model(sample, some, settings),
        ]);
      }),
      { numRuns: 600 },
    );
  });

  test('no setting turns a refusal by rank, bot, target or ownership into a pass', async () => {
    const hard = fc.subarray([2, 3, 4, 5], { minLength: 1 });
    await fc.assert(
      fc.asyncProperty(guild, hard, async (sample, some) => {
        const before = await sceneFor(sample, some, {});
        if (before.status === 'completed') return;
        const after = await sceneFor(sample, some, { rules: sample.rules, roles: { steward: sample.logical } });
        expect(after.status).not.toBe('completed');
      }),
      { numRuns: 400 },
    );
  });
});

describe('guild settings', () => {
  test('change at run time, and are kept in the store for the next layer', async () => {
    const store = memoryStore();
    const book = guildSettings({ store, log: silentLog });
    const scene = await acting(({ caller: one }) => [one.can('fly')], { settings: book });
    expect(codeOf((await scene.types('wren', '!act')).outcome)).toBe('permission.caller');
    await book.change('stand-in/oddmere', (settings) => ({
      ...settings,
      prefixes: ['%'],
      rules: [{ command: 'act', member: 'wren', verdict: 'grant' }],
    }));
    expect((await scene.types('wren', '!act')).outcome.status).toBe('ignored');
    expect((await scene.types('wren', '%act')).outcome.status).toBe('completed');
    const next = await acting(({ caller: one }) => [one.can('fly')], {
      settings: guildSettings({ store, log: silentLog }),
    });
    expect((await next.types('wren', '%act')).outcome.status).toBe('completed');
  });

  test('two changes at once are both kept', async () => {
    const book = guildSettings({ log: silentLog });
    await Promise.all(
      ['a', 'b', 'c', 'd'].map((id) =>
        book.change('stand-in/g', (settings) => ({ ...settings, off: [...(settings.off ?? []), id] })),
      ),
    );
    expect([...((await book.load('stand-in/g')).off ?? [])].sort()).toEqual(['a', 'b', 'c', 'd']);
  });

  test('a change that is not right is refused, and nothing of it is kept', async () => {
    const book = guildSettings({ log: silentLog });
    await expect(book.change('stand-in/g', () => ({ timeZone: 'Oddmere/Counter' }))).rejects.toThrow(SettingsError);
    expect(await book.load('stand-in/g')).toEqual({});
  });

  const broken: [string, string][] = [
    ['no JSON at all', 'prefixes: !'],
    ['no object', '[]'],
    ['a prefix with space around it', JSON.stringify({ prefixes: [' !', '?'] })],
    ['no time zone', JSON.stringify({ timeZone: 'Moon' })],
    ['no list of what is off', JSON.stringify({ off: 'act' })],
    ['a setting that there is not', JSON.stringify({ colour: 'red' })],
    [
      'one wrong rule beside a right one',
      JSON.stringify({
        rules: [
          { command: 'act', verdict: 'maybe', member: 'wren' },
          { command: 'act', verdict: 'grant', member: 'wren' },
        ],
      }),
    ],
  ];
  test.each(broken)('that are broken in the store let nobody in: %s', async (_, value) => {
    const store = memoryStore();
    await store.compareAndSet('settings/stand-in/oddmere', 0, value);
    const told: unknown[] = [];
    const log = { warn: () => undefined, error: (_fields: object, message: string) => void told.push(message) };
    const scene = await acting(undefined, { settings: guildSettings({ store, log }) });
    for (let time = 0; time < 3; time++) {
      expect(codeOf((await scene.invokes('wren', 'act')).outcome)).toBe('store.unavailable');
    }
    expect(told).toEqual(['A guild’s settings were not read']);
  });

  test('for a command that there is not are kept and told', async () => {
    const warned: unknown[] = [];
    const log = { error: () => undefined, warn: (fields: object) => void warned.push(fields) };
    const book = guildSettings({
      guilds: { 'stand-in/oddmere': { off: ['gone'], rules: [{ command: 'away', role: 'x', verdict: 'deny' }] } },
      log,
    });
    const scene = await acting(undefined, { settings: book });
    await scene.types('wren', '!act');
    expect(warned).toEqual([
      { platform: 'stand-in', guild: 'oddmere', command: 'gone' },
      { platform: 'stand-in', guild: 'oddmere', command: 'away' },
    ]);
    expect((await book.load('stand-in/oddmere')).off).toEqual(['gone']);
  });
});

describe('the bot’s own roles', () => {
  test('are mapped to the guild’s, and give their permissions', async () => {
    const scene = await acting(({ caller: one, bot }) => [one.holds('steward'), one.can('certify'), bot.can('lift')], {
      roles: { steward: ['certify'], lifter: ['lift'] },
      settings: guildSettings({ guilds: { 'stand-in/pellbrook': { roles: { steward: 'fixer', lifter: 'machine' } } } }),
    });
    expect((await scene.types('ines', '!act', 'pellbrook')).outcome.status).toBe('completed');
    expect(codeOf((await scene.types('wren', '!act', 'pellbrook')).outcome)).toBe('permission.caller');
  });

  describe('are found by id, and by name only where configured so, of roles that are protected', () => {
    type RoleData = NonNullable<World['guilds'][number]['roles']>;
    const asked = async (role: RoleData[number], settings: GuildSettings, grants: boolean) => {
      const world: World = {
        bot: { id: 'mallet', name: 'Mallet' },
        people: [{ id: 'pim', name: 'Pim' }],
        guilds: [
          {
            id: 'oddmere',
            name: 'Oddmere',
            channels: ['counter'],
            roles: [{ id: 'r1', name: 'keeper', rank: 1 }, role],
            members: { mallet: [], pim: [role.name] },
          },
        ],
      };
      const platform = standIn(world);
      const requires: Requires = ({ caller: one }: { caller: RequirementBuilder<Args>['caller'] }) => [
        grants ? one.can('fly') : one.holds('steward'),
      ];
      const layer = createCommandLayer({
        commands: [command({ ...described, name: 'act', requires, run: () => 'done' })],
        settings: guildSettings({ guilds: { 'stand-in/oddmere': settings } }),
        log: silentLog,
      });
      return codeOf(await layer.handle(platform.invoked({ person: 'pim', place: 'oddmere', path: ['act'] }), platform));
    };
    const named = { roles: { steward: { name: 'keeper' } } };
    const byId = { roles: { steward: 'r1' } };
    const granted = (role: RoleSubject): GuildSettings => ({ rules: [{ command: 'act', role, verdict: 'grant' }] });
    const isProtected = { protected: true };
    const cases: [string, RoleData[number], GuildSettings, string][] = [
      ['the id', { id: 'r2', name: 'helper', rank: 1 }, { roles: { steward: 'r2' } }, 'completed'],
      ['a name that is the id of the one meant', { id: 'r2', name: 'r1', rank: 1 }, byId, 'permission.caller'],
      ['a name that is the mapped name', { id: 'r2', name: 'keeper', rank: 1 }, named, 'permission.caller'],
      ['the same of one that is protected', { id: 'r2', name: 'keeper', rank: 1, ...isProtected }, named, 'completed'],
      [
        'an id that is the mapped name',
        { id: 'keeper', name: 'x', rank: 1, ...isProtected },
        named,
        'permission.caller',
      ],
      ['the bot’s own word for it as a name', { id: 'r2', name: 'steward', rank: 1 }, {}, 'permission.caller'],
      ['the bot’s own word for it as an id', { id: 'steward', name: 'x', rank: 1 }, {}, 'completed'],
    ];
    test.each(cases)('%s', async (_, role, settings, expected) => {
      expect(await asked(role, settings, false)).toBe(expected);
    });
    const rules: [string, RoleData[number], GuildSettings, string][] = [
      ['the id', { id: 'r2', name: 'x', rank: 1 }, granted('r2'), 'completed'],
      ['a name that is that id', { id: 'r3', name: 'r2', rank: 1 }, granted('r2'), 'permission.caller'],
      ['a name', { id: 'r3', name: 'x', rank: 1 }, granted({ name: 'x' }), 'permission.caller'],
      ['a protected name', { id: 'r3', name: 'x', rank: 1, ...isProtected }, granted({ name: 'x' }), 'completed'],
    ];
    test.each(rules)('in a rule: %s', async (_, role, settings, expected) => {
      expect(await asked(role, settings, true)).toBe(expected);
    });
    test('a denial by name needs no protection', async () => {
      const deny: GuildSettings = { rules: [{ command: 'act', role: { name: 'x' }, verdict: 'deny' }] };
      expect(await asked({ id: 'steward', name: 'x', rank: 1 }, deny, false)).toBe('permission.caller');
    });
  });

  test('that a guild does not have are told when the platform connects, and refuse by name', async () => {
    const warned: unknown[] = [];
    const log = {
      error: () => undefined,
      warn: (fields: object, message: string) => void warned.push([message, fields]),
    };
    const scene = await acting(
      ({ caller: one, bot }) => [one.holds('steward'), one.can('flye'), bot.can('give-badges')],
      { log },
    );
    expect(warned).toEqual([
      ['The platform lacks what is required', { platform: 'stand-in', command: 'act', permission: 'flye' }],
      ['A guild has no role for one of the bot’s own', { platform: 'stand-in', guild: 'pellbrook', role: 'steward' }],
      [
        'The bot is not allowed what its commands need',
        { platform: 'stand-in', guild: 'pellbrook', permission: 'give-badges', commands: ['act'] },
      ],
    ]);
    expect((await scene.types('ines', '!act', 'pellbrook')).outcome).toMatchObject({
      parameters: { missing: [{ what: 'role', name: 'steward' }] },
    });
  });
});

describe('onRefusal', () => {
  const loud = command({
    ...described,
    name: 'loud',
    args: { n: arg.integer() },
    onRefusal: ({ code }, { caller: one }) => ({ body: `${one.name}: ${code}` }),
  });
  const plain = command({ ...described, name: 'plain', args: { n: arg.integer() } });

  test('of the command says its own words, and of the layer where the command has none', async () => {
    const seen: unknown[] = [];
    const scene = await sceneOf([loud, plain], {
      onRefusal: ({ status, code, notice }) => {
        seen.push([status, code, notice?.body]);
        return undefined;
      },
    });
    expect((await scene.types('wren', '!loud x')).posts[0]?.notice.body).toBe('Wren: argument.invalid');
    expect((await scene.types('wren', '!plain')).posts[0]?.notice.body).toBe('“n” is missing: a whole number.');
    expect((await scene.types('wren', '!plain 1')).posts[0]?.notice.body).toBe('done');
    expect(seen).toEqual([['invalid', 'argument.missing', '“n” is missing: a whole number.']]);
  });

  const failing: [string, () => never | Promise<never>][] = [
    [
      'throws',
      () => {
        throw new Error('boom');
      },
    ],
    ['rejects', () => Promise.reject(new Error('boom'))],
    ['never answers', () => new Promise<never>(() => undefined)],
  ];
  test.each(failing)('that %s leaves the catalogue’s words, and is logged', async (_, onRefusal) => {
    const logged: string[] = [];
    const log = { error: (_fields: object, message: string) => void logged.push(message), warn: () => undefined };
    const scene = await sceneOf([plain], { onRefusal, patience: '50ms', log });
    const { posts } = await runUntil(scene.clock, scene.types('wren', '!plain'));
    expect(posts[0]?.notice.body).toBe('“n” is missing: a whole number.');
    expect(logged).toEqual(['onRefusal failed']);
  });
});

describe('settings from the chat', () => {
  async function managed() {
    const book = guildSettings({ log: silentLog });
    const fine: Command = command({
      ...described,
      name: 'fine',
      aliases: ['charge'],
      in: 'guild',
      requires: ({ caller: one }) => [one.can('fine')],
    });
    const managing = settingsCommands(book, {
      requires: ({ caller: one }) => [one.can('manage')],
      names: { settings: 'rules' },
    });
    return { book, scene: await sceneOf([fine, ...managing], { settings: book }) };
  }

  test('grant, deny, forget, switch and prefix', async () => {
    const { scene } = await managed();
    const fining = async () => codeOf((await scene.types('wren', '!fine')).outcome);
    const say = async (text: string) => (await scene.types('odalys', text)).posts[0]?.notice.body;
    expect(await fining()).toBe('permission.caller');
    expect(await say('!grant charge borrower')).toBe('The role borrower may use fine here.');
    expect(await fining()).toBe('completed');
    expect(await say('!deny fine @wren')).toBe('Wren may not use fine here.');
    expect(await fining()).toBe('permission.caller');
    expect(await say('!forget fine wren')).toBe('Nothing is said of Wren and fine any more.');
    expect(await fining()).toBe('completed');
    expect(await say('!deny fine #counter')).toBe('The channel #\u2060counter may not use fine here.');
    expect(await fining()).toBe('completed');
    expect(await say('!switch fine off')).toBe('fine is off.');
    expect(await fining()).toBe('command.unavailable');
    expect(await say('!switch fine on')).toBe('fine is on.');
    expect(await say('!rules')).toBe(
      'The role borrower may use fine here.\nThe channel oddmere/counter may not use fine here.',
    );
    expect(await say('!prefix % mallet')).toBe('Commands begin with % or mallet here.');
    expect((await scene.types('wren', '%fine')).outcome.status).toBe('completed');
  });

  test('only for those who may, and for what there is', async () => {
    const { scene } = await managed();
    expect(codeOf((await scene.types('ines', '!grant fine wren')).outcome)).toBe('permission.caller');
    expect(codeOf((await scene.types('odalys', '!grant fien wren')).outcome)).toBe('settings.unknown-command');
    expect(codeOf((await scene.types('odalys', '!grant fine zed')).outcome)).toBe('argument.invalid');
  });

  test('never lock out whoever makes the change', async () => {
    const { book, scene } = await managed();
    for (const text of ['!switch switch off', '!switch section:Settings off']) {
      expect([text, codeOf((await scene.types('odalys', text)).outcome)]).toEqual([text, 'settings.lock-out']);
    }
    expect(await book.load('stand-in/oddmere')).toEqual({});
  });
});

describe('who decides what', () => {
  /** Ines is one of two stewards, who may change settings and fine, and not burn; Odalys is above, and owns the guild. */
  async function deciding(rules: readonly AccessRule[] = [], options: Partial<LayerOptions> = {}) {
    const { world } = oddmereData();
    const [library, ...others] = world.guilds;
    if (library === undefined) throw new Error('no guild');
    const roles = (library.roles ?? []).map((role) =>
      role.name === 'steward' ? { ...role, permissions: ['fine', 'manage'] } : role,
    );
    const members = { ...library.members, pim: ['steward'], kiosk: ['borrower'] };
    const guilds = [{ ...library, roles, members }, ...others];
    const book = guildSettings({ log: silentLog, guilds: { 'stand-in/oddmere': { rules } } });
    const guarded = (name: string) =>
      command({ ...described, name, in: 'guild', section: 'Shop', requires: ({ caller: one }) => [one.can(name)] });
    const commands = [
      guarded('fine'),
      guarded('burn'),
      ...settingsCommands(book, { requires: ({ caller: one }) => [one.can('manage')] }),
    ];
    const scene = await sceneOf(commands, { settings: book, ...options }, { ...world, guilds });
    return async (person: string, text: string) => codeOf((await scene.types(person, text)).outcome);
  }

  test.each<readonly [string, string]>([
    ['!deny fine wren', 'completed'],
    ['!grant fine wren', 'completed'],
    ['!forget fine wren', 'completed'],
    ['!deny fine borrower', 'completed'],
    ['!deny fine #counter', 'completed'],
    ['!switch fine off', 'completed'],
    ...['pim', 'odalys', 'ines', 'steward', 'keeper', 'helper'].flatMap((to) =>
      ['deny', 'grant', 'forget'].map((verb) => [`!${verb} fine ${to}`, 'settings.not-yours'] as const),
    ),
    ['!grant burn wren', 'settings.not-yours'],
    ['!grant burn borrower', 'settings.not-yours'],
    ['!grant burn #counter', 'settings.not-yours'],
    ['!grant section:Shop wren', 'settings.not-yours'],
    ['!grant shop wren', 'settings.not-yours'],
    ['!deny burn wren', 'completed'],
    ...['settings', 'grant', 'deny', 'forget', 'switch', 'prefix', 'language', 'time-zone', 'section:Settings'].flatMap(
      (which) => [
        [`!grant ${which} wren`, 'settings.not-yours'] as const,
        [`!deny ${which} #counter`, 'settings.not-yours'] as const,
        [`!switch ${which} off`, 'settings.not-yours'] as const,
      ],
    ),
  ])('a manager: %s is %s', async (text, code) => {
    expect(await (await deciding())('ines', text)).toBe(code);
  });

  test.each([
    ['!grant burn wren', 'completed'],
    ['!grant grant ines', 'completed'],
    ['!deny deny ines', 'completed'],
    ['!deny fine odalys', 'settings.not-yours'],
    ['!switch grant off', 'completed'],
  ])('the guild’s owner: %s is %s', async (text, code) => {
    expect(await (await deciding())('odalys', text)).toBe(code);
  });

  test('what was granted, or is denied, is not handed on', async () => {
    const granted = await deciding([
      { command: 'burn', member: 'ines', verdict: 'grant' },
      { command: 'section:Settings', member: 'kiosk', verdict: 'grant' },
    ]);
    expect([await granted('ines', '!burn'), await granted('ines', '!grant burn wren')]).toEqual([
      'completed',
      'settings.not-yours',
    ]);
    const denied = await deciding([{ command: 'fine', member: 'ines', verdict: 'deny' }]);
    expect(await denied('ines', '!grant fine wren')).toBe('settings.not-yours');
    expect(await denied('ines', '!forget fine ines')).toBe('settings.not-yours');
  });

  test.each<[string, Partial<AccessRule>]>([
    ['by name', { member: 'odalys' }],
    ['by a role', { role: 'keeper' }],
    ['by a channel', { channel: 'oddmere/counter' }],
  ])('nobody keeps the guild’s owner or the bot’s out %s', async (_, whom) => {
    const about = ['fine', 'section:Settings'].map((one) => ({ command: one, verdict: 'deny', ...whom }) as AccessRule);
    const asOwner = await deciding(about);
    expect([await asOwner('odalys', '!grant fine wren'), await asOwner('odalys', '!settings')]).toEqual([
      'completed',
      'completed',
    ]);
    const all = about.map((rule) => (rule.member === undefined ? rule : { ...rule, member: 'wren' }) as AccessRule);
    const everywhere = all.map(
      (rule) => (rule.role === undefined ? rule : { ...rule, role: 'borrower' }) as AccessRule,
    );
    expect(await (await deciding(everywhere))('wren', '!fine')).toBe('permission.caller');
    const owning = await deciding(everywhere, { owners: ['stand-in/wren'] });
    expect([await owning('wren', '!fine'), await owning('wren', '!burn')]).toEqual(['completed', 'completed']);
  });
});

test('a guild’s rule about a member called console does not reach the console', async () => {
  const rules = (['deny', 'grant'] as const).map((verdict) => ({ command: verdict, member: 'console', verdict }));
  const settings = guildSettings({ guilds: { 'stand-in/oddmere': { rules } } });
  const commands = ['deny', 'grant'].map((name) =>
    command({
      ...described,
      name,
      surfaces: ['console'],
      ...(name === 'grant'
        ? {
            requires: ({ caller: one }: RequirementBuilder<Readonly<Record<string, Arg<unknown>>>>) => [one.can('fly')],
          }
        : {}),
    }),
  );
  const { layer, platform } = await sceneOf(commands, { settings });
  const { place } = platform.typed({ person: 'ines', place: 'oddmere', text: '' });
  const codes = [];
  for (const text of ['deny', 'grant']) {
    const input = { ...platform.typed({ place: 'console', text }), place };
    codes.push([input.caller.id, codeOf(await layer.handle(input, platform))]);
  }
  expect(codes).toEqual([
    ['console', 'completed'],
    ['console', 'permission.caller'],
  ]);
});

test('a guild’s rule about a member does not reach a part of the bot’s own code with the same id', async () => {
  const rules = [{ command: 'act', member: 'wren', verdict: 'deny' } as const];
  const settings = guildSettings({ guilds: { 'stand-in/oddmere': { rules } } });
  const { layer, platform } = await sceneOf([command({ ...described, name: 'act' })], { settings });
  const { text: _, ...input } = platform.typed({ person: 'wren', place: 'oddmere', text: '' });
  const caller = { kind: 'program', id: 'wren', name: 'The clock' } as const;
  const outcome = await layer.handle({ ...input, surface: 'program', caller, path: ['act'] }, platform);
  expect(codeOf(outcome)).toBe('completed');
});

test('a guest whose id is that of one who owns the bot owns nothing', async () => {
  const owning = command({ ...described, name: 'act', requires: ({ caller: one }) => [one.ownsBot()] });
  const { layer, platform } = await sceneOf([owning], { owners: ['stand-in/wren'] });
  const input = platform.typed({ person: 'wren', place: 'oddmere', text: '!act' });
  expect(codeOf(await layer.handle(input, platform))).toBe('completed');
  const guest = { ...input, id: 'as a guest', caller: { ...input.caller, isGuest: true } as Member };
  expect(codeOf(await layer.handle(guest, platform))).toBe('permission.caller');
});

test('the access table tells who may, who may not and why, and what depends on the target', async () => {
  const { layer, platform } = await oddmere();
  const { place } = platform.typed({ person: 'ines', place: 'oddmere', text: '' });
  const wren = platform.directory.guilds.get('oddmere')?.members.get('wren');
  if (place.kind !== 'guild') throw new Error('no guild');
  const { columns, rows } = await accessTableOf(layer, place, platform, wren);
  expect(columns).toEqual(['everyone', 'keeper', 'helper', 'steward', 'borrower', 'Wren']);
  const verdicts = Object.fromEntries(
    rows.map(({ command: name, cells }) => [name, cells.map(({ verdict }) => verdict[0]).join('')]),
  );
  expect(verdicts).toMatchObject({
    borrow: 'rrraaa',
    return: 'aaaaaa',
    induct: 'rrrdrr',
    announce: 'rrrarr',
    grant: 'rarrrr',
  });
  expect(rows.find(({ command: name }) => name === 'induct')?.cells[3]).toEqual({
    verdict: 'depends',
    because: 'caller outranks “who”; “who” is no bot; bot outranks “who”',
  });
  expect(needsOf(layer)).toEqual([
    { permission: 'give-badges', commands: ['induct'] },
    { permission: 'post-notices', commands: ['announce'] },
  ]);
});

test('what several commands require as one cannot be changed through one of them', async () => {
  const [once, again] = [await everyRequirement(), new Map(await everyRequirement())];
  const shared = once.filter(([name, one]) => again.get(name) === one);
  expect(shared.map(([name]) => name)).toContain('caller.can');
  for (const [name, one] of shared) {
    const parts = Object.values(one).filter((part) => typeof part === 'object');
    expect([name, [one, ...parts].every((part) => Object.isFrozen(part))]).toEqual([name, true]);
  }
});
