import {
  type AroundHook,
  arg,
  type Command,
  type CommandOrGroup,
  command,
  countUsage,
  createCommandLayer,
  DeclarationError,
  type GroupDeclaration,
  group,
  guildSettings,
  helpCommand,
  type Outcome,
  plainText,
  refuse,
} from 'taxeon';
import { helpOf, lineFor, liveUsesOf, usageOf } from 'taxeon/queries';
import { describe, expect, test } from 'vitest';
import { codeOf, oddmere, type Scene, sceneOf, silentLog } from '../../../test/support/oddmere.js';

const described = { description: 'Something' };
const says = (text: string) => ({ ...described, run: () => text });

function tree(extra: Partial<GroupDeclaration> = {}, inner: Partial<GroupDeclaration> = {}) {
  return group({
    ...described,
    name: 'overdue',
    aliases: ['late'],
    ...extra,
    commands: [
      command({ ...says('listed'), name: 'list', aliases: ['ls'] }),
      command({
        ...described,
        name: 'close',
        args: { n: arg.integer({ max: 5 }) },
        run: ({ args }) => `closed ${args.n}`,
      }),
      group({ ...described, name: 'notes', ...inner, commands: [command({ ...says('added'), name: 'add' })] }),
    ],
  });
}

const said = async (doing: Promise<{ posts: readonly { notice: Parameters<typeof plainText>[0] }[] }>) =>
  (await doing).posts.map(({ notice }) => plainText(notice)).join('\n');

describe('a command in a group is reached', () => {
  const rows: [string, (scene: Scene) => ReturnType<Scene['types']>, string, string][] = [
    ['by text', (scene) => scene.types('wren', '!overdue list'), 'overdue list', 'listed'],
    ['by aliases of both, however spelled', (scene) => scene.types('wren', '!LATE  Ls'), 'overdue list', 'listed'],
    ['with its arguments', (scene) => scene.types('wren', '!late close 3'), 'overdue close', 'closed 3'],
    ['two levels down', (scene) => scene.types('wren', '!overdue notes add'), 'overdue notes add', 'added'],
    ['at the console', (scene) => scene.console('overdue notes add'), 'overdue notes add', 'added'],
    [
      'by slash',
      ({ platform }) =>
        platform.send(
          platform.invoked({ person: 'wren', place: 'oddmere', path: ['overdue', 'close'], options: { n: 3 } }),
        ),
      'overdue close',
      'closed 3',
    ],
  ];
  test.each(rows)('%s', async (_, doing, name, text) => {
    const scene = await sceneOf([tree()]);
    const { outcome, posts } = await doing(scene);
    expect(outcome).toMatchObject({ status: 'completed', command: name });
    expect(posts[0]?.notice.body).toBe(text);
  });

  test('and by the bot’s own code', async () => {
    const add = command({ ...described, name: 'add', args: { n: arg.integer() }, run: ({ args }) => `${args.n}` });
    const { layer } = await sceneOf([group({ ...described, name: 'notes', commands: [add] })]);
    const outcome = await layer.invoke(add, { as: 'night watch', args: { n: 2 } });
    expect(outcome).toMatchObject({ command: 'notes add', reply: { notice: { body: '2' } } });
    expect(lineFor(layer, add, { n: 5 })).toBe('notes add 5');
  });

  const wrong: [string, string, string][] = [
    ['!overdue lits', 'command.unknown', 'Did you mean overdue list?'],
    ['!overdue notes ad', 'command.unknown', 'Did you mean overdue notes add?'],
    ['!overdu list', 'command.unknown', 'Did you mean overdue?'],
    ['!overdue close x', 'argument.invalid', 'Usage: !overdue close <n>'],
    ['!list', 'command.unknown', ''],
  ];
  test.each(wrong)('%s', async (text, code, told) => {
    const scene = await sceneOf([tree()]);
    const exchange = await scene.types('wren', text);
    expect(codeOf(exchange.outcome)).toBe(code);
    expect(exchange.posts.map(({ notice }) => plainText(notice)).join('\n')).toContain(told);
  });

  test('by slash a path that is too short or too long is unknown, and always answered', async () => {
    const scene = await sceneOf([tree()]);
    const at = (path: string[]) =>
      scene.platform.send(scene.platform.invoked({ person: 'wren', place: 'oddmere', path }));
    for (const path of [['overdue', 'list', 'more'], ['overdue', 'x'], []]) {
      const { outcome, posts } = await at(path);
      expect([codeOf(outcome), posts.length]).toEqual(['command.unknown', 1]);
    }
  });
});

describe('names like one that was typed', () => {
  const manyLends = (count: number, permission: string) =>
    Array.from({ length: count }, (_, index) =>
      command({
        ...says('lent'),
        name: `lend-${String.fromCharCode(97 + (index % 26))}${String.fromCharCode(97 + Math.floor(index / 26))}`,
        requires: ({ caller }) => [caller.can(permission)],
      }),
    );
  const told = async (commands: readonly Command[], text: string) => {
    const scene = await sceneOf([...commands]);
    const { outcome } = await scene.invokes('wren', text);
    return (outcome as Extract<Outcome, { code: 'command.unknown' }>).parameters.near;
  };

  test('are the nearest that may be run, however many others are as near', async () => {
    const others = manyLends(60, 'fine');
    const own = command({ ...says('lent'), name: 'lend-zzz' });
    expect(await told([...others, own], 'lend-zz')).toEqual(['lend-zzz']);
    expect(await told(manyLends(100, 'borrow'), 'lend-zz')).toEqual(['lend-za', 'lend-zb', 'lend-zc']);
  });

  test('are none where hundreds are as near, and none of them may be run', async () => {
    expect(await told(manyLends(400, 'fine'), 'lend-zz')).toEqual([]);
  });
});

describe('a group called alone', () => {
  const only = (permission: string, name: string) =>
    command({ ...says('ran'), name, requires: ({ caller }) => [caller.can(permission)] });
  const mixed = group({ ...described, name: 'desk', commands: [only('fine', 'charge'), only('borrow', 'lend')] });

  test('answers with what the caller may run of it', async () => {
    const scene = await sceneOf([mixed]);
    const { outcome, posts } = await scene.types('wren', '!desk');
    expect(outcome).toMatchObject({ status: 'completed', command: 'desk' });
    expect(plainText(posts[0]?.notice as never)).toBe('desk\nSomething\n  !desk lend: Something');
    expect(await said(scene.types('ines', '!desk'))).toContain('!desk charge');
  });

  test('is refused to somebody who may run nothing of it, as any of its commands would be', async () => {
    const scene = await sceneOf([mixed]);
    expect((await scene.types('pim', '!desk')).outcome).toMatchObject({
      code: 'permission.caller',
      parameters: { missing: [{ name: 'fine' }] },
    });
    const direct = await sceneOf([
      group({ ...described, name: 'desk', in: 'guild', commands: [command({ ...says('x'), name: 'lend' })] }),
    ]);
    expect(codeOf((await direct.types('pim', '!desk', 'direct')).outcome)).toBe('place.wrong');
  });
});

describe('its commands have from a group', () => {
  test('requirements, beside their own', async () => {
    const scene = await sceneOf([tree({ requires: ({ caller }) => [caller.can('fine')] })]);
    expect(codeOf((await scene.types('wren', '!overdue notes add')).outcome)).toBe('permission.caller');
    expect(codeOf((await scene.types('ines', '!overdue notes add')).outcome)).toBe('completed');
  });

  test('one counter for all of them', async () => {
    const scene = await sceneOf([tree({ cooldowns: { user: '2 in 1m' } })]);
    expect(codeOf((await scene.types('wren', '!overdue list')).outcome)).toBe('completed');
    expect(codeOf((await scene.types('wren', '!late notes add')).outcome)).toBe('completed');
    expect(codeOf((await scene.types('wren', '!overdue close 1')).outcome)).toBe('cooldown.active');
    expect((await liveUsesOf(scene.layer)).map(({ id }) => id)).toEqual(['stand-in/overdue/user']);
  });

  test('messages, the innermost first', async () => {
    const scene = await sceneOf([
      tree(
        { messages: { 'argument.extra': 'outer', 'argument.missing': 'outer' } },
        { messages: { 'argument.extra': 'inner' } },
      ),
    ]);
    expect(await said(scene.types('wren', '!overdue notes add x'))).toContain('inner');
    expect(await said(scene.types('wren', '!overdue close'))).toContain('outer');
  });

  test('hooks: around from the outside in, onRefusal from the inside out, and a trace shows both', async () => {
    const order: string[] = [];
    const around =
      (name: string): AroundHook =>
      async (_, next) => {
        order.push(`${name} before`);
        const answer = await next();
        order.push(`${name} after`);
        return answer;
      };
    const onRefusal = (body: string) => () => ({ body });
    const decline = command({
      ...described,
      name: 'decline',
      onRefusal: onRefusal('own'),
      run: () => refuse('a.b', 'no'),
    });
    const other = command({ ...described, name: 'other', around: around('command'), run: () => refuse('a.b', 'no') });
    const groups = group({
      ...described,
      name: 'outer',
      around: around('outer'),
      onRefusal: onRefusal('of the group'),
      commands: [group({ ...described, name: 'inner', around: around('inner'), commands: [decline, other] })],
    });
    const scene = await sceneOf([groups], { around: around('layer'), onRefusal: onRefusal('of the layer') });
    expect(await said(scene.types('wren', '!outer inner decline'))).toBe('own');
    order.length = 0;
    const input = scene.platform.typed({ person: 'wren', place: 'oddmere', text: '!outer inner other' });
    const outcome = await scene.layer.handle(input, scene.platform, { trace: true });
    expect(order).toEqual([
      ...['layer before', 'outer before', 'inner before', 'command before'],
      ...['command after', 'inner after', 'outer after', 'layer after'],
    ]);
    const stages = 'trace' in outcome ? (outcome.trace?.stages ?? []) : [];
    const reason = (name: string) => stages.find((stage) => stage.name === name)?.reason;
    expect(outcome).toMatchObject({ reply: { notice: { body: 'of the group' } } });
    expect(reason('run')).toContain('a.b: no');
    expect(reason('reply')).toContain('in the words of onRefusal');
  });

  test('a hook that throws, answers by itself, or goes on twice', async () => {
    const ran: string[] = [];
    const act = (name: string, around: Parameters<typeof command>[0]['around']) =>
      command({ ...described, name, around: around as never, run: () => void ran.push(name) });
    const scene = await sceneOf([
      act('throws', () => {
        throw new Error('no');
      }),
      act('answers', () => 'instead'),
      act('twice', async (_, next) => {
        await next();
        return next();
      }),
    ]);
    expect(codeOf((await scene.types('wren', '!throws')).outcome)).toBe('handler.failed');
    expect(await said(scene.types('wren', '!answers'))).toBe('instead');
    expect(codeOf((await scene.types('wren', '!twice')).outcome)).toBe('handler.failed');
    expect(ran).toEqual(['twice']);
  });
});

test('groups go as deep as they are declared', async () => {
  const deep = ['a1', 'b1', 'c1', 'd1', 'e1'].reduceRight<CommandOrGroup>(
    (inner, name) => group({ description: 'Deep', name, commands: [inner] }),
    command({ name: 'lamp', description: 'Light the lamp', run: () => 'The lamp is lit.' }),
  );
  const scene = await sceneOf([deep]);
  const path = ['a1', 'b1', 'c1', 'd1', 'e1', 'lamp'];
  const bySlash = scene.platform.invoked({ person: 'wren', place: 'oddmere', path });
  for (const { outcome } of [await scene.types('wren', `!${path.join(' ')}`), await scene.platform.send(bySlash)]) {
    expect(outcome).toMatchObject({ status: 'completed', command: path.join(' ') });
  }
});

describe('wrong groups are told when the layer is made', () => {
  const problemsOf = (...commands: CommandOrGroup[]) => {
    try {
      createCommandLayer({ commands, log: silentLog });
    } catch (error) {
      if (error instanceof DeclarationError)
        return error.problems.map(({ command, field, problem }) => `${command}, ${field}: ${problem}`);
      throw error;
    }
    return [];
  };
  const one = (name: string, more: object = {}) => command({ ...says('x'), name, ...more });
  const endless: CommandOrGroup[] = [];
  const ofItself = group({ ...described, name: 'loop', commands: endless });
  endless.push(ofItself);
  const shared = one('shared');

  const rows: [string, CommandOrGroup[], string][] = [
    ['one that contains itself', [ofItself], 'loop loop, commands: holds the group itself; take it out'],
    ['an empty one', [group({ ...described, name: 'none', commands: [] })], 'none, commands: are none'],
    [
      'an alias that is a subcommand’s',
      [group({ ...described, name: 'g', commands: [one('list'), one('show', { aliases: ['LIST'] })] })],
      'g show, aliases[0]: "LIST" already belongs to g list',
    ],
    [
      'names that look alike',
      [one('borrow'), one('bоrrow')],
      'bоrrow, name: "bоrrow" looks like "borrow" of borrow, with other letters',
    ],
    [
      'an id that stands twice',
      [group({ ...described, name: 'g', commands: [one('x')] }), one('y', { id: 'g.x' })],
      'y, id: "g.x" is also the id of g x',
    ],
    [
      'one declaration in two places',
      [group({ ...described, name: 'g', commands: [shared] }), shared],
      'shared, commands: is the same declaration as g shared',
    ],
    [
      'an example that does not read',
      [one('x', { args: { n: arg.integer({ max: 5 }) }, examples: ['3', '9'] })],
      'x, examples[1]: "9" does not read: “n” takes a whole number of at most 5; “9” is too much.',
    ],
    ['an example with too much', [one('x', { examples: ['y'] })], 'x, examples[0]: "y" does not read'],
  ];
  test.each(rows)('%s', (_, commands, problem) => {
    const problems = problemsOf(...commands);
    expect(problems).toHaveLength(1);
    expect(problems[0]).toContain(problem);
  });

  test('an example looks nobody up and calls nothing', () => {
    const asked: string[] = [];
    const mark = arg.custom({
      name: 'mark',
      expected: 'a mark',
      example: 'B1',
      read: (text) => void asked.push(text) as never,
    });
    expect(
      problemsOf(
        one('x', { args: { who: arg.member(), mark, when: arg.datetime() }, examples: ['Wren B12 tomorrow 17:00'] }),
      ),
    ).toEqual([]);
    expect(asked).toEqual([]);
  });
});

describe('names from a bot’s own data', () => {
  test('are served where no command has them, and unknown where it has nothing', async () => {
    const notes = new Map([['opening', 'We open at nine.']]);
    const scene = await sceneOf([tree()], {
      onUnknown: (name, rest, { caller }) => {
        const note = notes.get(name);
        return note === undefined ? undefined : `${note} ${rest} ${caller.name}`.trim();
      },
    });
    expect(await said(scene.types('wren', '!opening  on Monday?'))).toBe('We open at nine. on Monday? Wren');
    expect(codeOf((await scene.types('wren', '!closing')).outcome)).toBe('command.unknown');
    expect(codeOf((await scene.invokes('wren', 'opening')).outcome)).toBe('completed');
  });

  test('one that throws fails closed', async () => {
    const scene = await sceneOf([], { onUnknown: () => Promise.reject(new Error('down')) });
    expect(codeOf((await scene.types('wren', '!opening')).outcome)).toBe('callback.failed');
  });
});

describe('help', () => {
  test('lists what the caller may run here, by section, with this guild’s prefix', async () => {
    const scene = await oddmere();
    const text = await said(scene.types('ines', '?help', 'pellbrook/bench'));
    expect(text.split('\n')).toEqual([
      'Commands',
      '  ?help: What you can do here, and how',
      'Lending',
      '  ?borrow: Borrow a tool',
      '  ?return: Bring a tool back',
      '  ?reserve: Reserve a tool for a time to come',
      '  ?shelf: See what is on the shelf',
      'For stewards',
      // The bot is not allowed what these need here, which whoever calls them is told.
      '  ?induct: Record a safety induction and give the badge for it',
      '  ?fine: Charge somebody for a late or broken tool',
      '  ?announce: Tell everybody something',
      '  ?stocktake: Count what is on the shelf',
      '  ?overdue …: Tools that should be back by now',
    ]);
  });

  const rows: [string, string, readonly string[]][] = [
    [
      'a command',
      '!help fine',
      [
        'Usage: !fine <who> <pence> [tool]',
        'Needs: the permission fine; ranking above “who”; that “who” is no bot',
        'Limit: 3 times in 1 minute for each person',
      ],
    ],
    [
      'by an alias',
      '!help take',
      ['borrow\nBorrow a tool', 'Also: take', 'Example: !borrow ladder 2 days for the gutters'],
    ],
    ['as it is typed', '!help !borrow', ['borrow\nBorrow a tool']],
    [
      'a subcommand',
      '!help late nudge',
      ['Usage: !overdue remind <who> [note…]', 'Limit: 10 times in 1 minute for each person'],
    ],
    ['a group', '!help overdue', ['Also: late', '!overdue close: Take a late tool back']],
    ['what is nearly there', '!help overdue lst', ['There is no command “overdue lst”. Did you mean overdue list?']],
    ['a subcommand without its group', '!help remind', ['Did you mean overdue remind?']],
    ['nothing', '!help anvil', ['There is no command “anvil”.']],
  ];
  test.each(rows)('on %s', async (_, line, parts) => {
    const text = await said((await oddmere()).types('ines', line));
    for (const part of parts) expect(text).toContain(part);
  });

  test('tells nothing of what the caller may not run', async () => {
    const scene = await oddmere();
    for (const name of ['fine', 'overdue', 'overdue list', 'fien']) {
      expect(await said(scene.types('wren', `!help ${name}`))).toBe(`There is no command “${name}”.`);
    }
  });

  test('is paged to what the platform shows, and says how to go on', async () => {
    const many = Array.from({ length: 60 }, (_, index) =>
      command({ ...says('x'), name: `command-${index}`, description: 'Does something or other' }),
    );
    const scene = await sceneOf((layer) => [...many, helpCommand(layer, { name: 'manual' })]);
    Object.assign(scene.platform.capabilities, { longestReply: 600 });
    const seen: string[] = [];
    let next: string | undefined = '!manual';
    for (let page = 1; next !== undefined; page++) {
      const text: string = await said(scene.types('wren', next));
      expect(text.length).toBeLessThanOrEqual(600);
      seen.push(...[...text.matchAll(/!(command-\d+):/g)].map(([, name]) => name as string));
      next = new RegExp(`Page ${page} of \\d+\\. Next: (!manual --page ${page + 1})$`).exec(text)?.[1];
    }
    expect(seen).toEqual(many.map((_, index) => `command-${index}`));
  });

  test('tells what is declared in the reader’s language', async () => {
    const scene = await oddmere();
    const { platform } = scene;
    const ask = (text: string, locale: string) =>
      said(platform.send(platform.typed({ person: 'ines', place: 'oddmere', text, locale })));
    expect(await ask('!help borrow', 'pl-PL')).toContain(
      'borrow\nWypożycz narzędzie\nUżycie: !borrow <tool> [keep] [note…]\n  <tool>: Które narzędzie (nazwa z listy)',
    );
    expect(await ask('!help', 'ja')).toContain('  !borrow: 道具を借りる\n  !return: Bring a tool back');
  });

  test('is data, too', async () => {
    const { layer, platform } = await oddmere();
    const input = platform.typed({ person: 'ines', place: 'oddmere', text: '!' });
    expect(await helpOf(layer, input, 'induct', platform)).toMatchObject({
      kind: 'command',
      args: [
        { name: 'who', isRequired: true, expected: { key: 'member' } },
        { name: 'skill' },
        { name: 'valid', written: '[valid]' },
        { name: 'note', written: '[note…]' },
      ],
      limits: [
        { uses: 5, windowMs: 60_000, counts: 'user' },
        { uses: 40, windowMs: 3_600_000, counts: 'guild' },
      ],
    });
    expect(await helpOf(layer, input, undefined, platform)).toMatchObject({ kind: 'index' });
  });
});

describe('replacing the catalogue', () => {
  test('keeps cooldowns, settings and counts across a rename by the id', async () => {
    const lend = (name: string) => command({ ...says(name), name, id: 'lend', cooldowns: { user: '1 in 1m' } });
    const scene = await sceneOf([lend('lend')], {
      usage: countUsage,
      settings: guildSettings({
        guilds: { 'stand-in/oddmere': { rules: [{ command: 'lend', verdict: 'deny', member: 'pim' }] } },
      }),
    });
    await scene.types('wren', '!lend');
    scene.layer.replace([lend('give')]);
    expect(codeOf((await scene.types('wren', '!give')).outcome)).toBe('cooldown.active');
    expect(codeOf((await scene.types('pim', '!give')).outcome)).toBe('permission.caller');
    expect(codeOf((await scene.types('wren', '!lend')).outcome)).toBe('command.unknown');
    expect(codeOf((await scene.invokes('wren', 'lend')).outcome)).toBe('command.changed');
    expect((await usageOf(scene.layer)).map(({ command: id, count }) => [id, count])).toEqual([
      // A name that no command has.
      ['', 1],
      ['lend', 1],
      ['lend', 2],
    ]);
  });

  test('that is wrong changes nothing', async () => {
    const scene = await sceneOf([command({ ...says('old'), name: 'act' })]);
    expect(() => scene.layer.replace([command({ ...says('x'), name: 'no name' })])).toThrow(DeclarationError);
    expect(await said(scene.types('wren', '!act'))).toBe('old');
  });

  test('fifty times under load loses no call, and none runs on a mixture', async () => {
    const version = (n: number) => [
      command({
        ...described,
        name: 'act',
        args: { n: arg.integer({ default: async () => n }) },
        requires: ({ condition }) => [condition('is there', () => tick().then(() => true))],
        around: async (_, next) => `${n} ${await next()}`,
        run: async ({ args }) => {
          await tick();
          return `${args.n} ${n}`;
        },
      }),
    ];
    const tick = () => new Promise<void>((done) => setTimeout(done, 0));
    const scene = await sceneOf(version(0), { damping: 'off' });
    const calls: ReturnType<Scene['types']>[] = [];
    for (let n = 1; n <= 50; n++) {
      for (let call = 0; call < 4; call++) calls.push(scene.types('wren', '!act'));
      if (n % 3 === 0) await tick();
      scene.layer.replace(version(n));
    }
    const texts = (await Promise.all(calls)).map(({ outcome }) =>
      'reply' in outcome ? outcome.reply?.notice.body : outcome.status,
    );
    expect(texts).toHaveLength(200);
    for (const text of texts) expect(text).toMatch(/^(\d+) \1 \1$/);
    expect(new Set(texts).size).toBe(50);
  });
});
