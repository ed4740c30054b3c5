import { arg, command, memoryStore, refuse, type Store } from 'taxeon';
import { explain, stageNames } from 'taxeon/queries';
import { describe, expect, test } from 'vitest';
import { codeOf, oddmere, sceneOf } from '../../../test/support/oddmere.js';

const described = { description: 'Something' };

/** A store that only notes what is asked of it. */
function watchedStore() {
  const asked: string[] = [];
  const granted = (what: string) => {
    asked.push(what);
    return { granted: true, at: 0 } as const;
  };
  const store: Store = {
    ...memoryStore(),
    acquire: () => granted('acquire'),
    look: () => granted('look'),
    giveBack: () => void asked.push('giveBack'),
  };
  return { asked, store };
}

describe('an input passes the stages in order', () => {
  test('a trace shows all eleven, and is recorded only when asked for', async () => {
    const { layer, platform } = await oddmere();
    const input = platform.typed({ person: 'ines', place: 'oddmere', text: '!induct wren lathe' });
    const { trace } = (await layer.handle(input, platform, { trace: true })) as {
      trace?: { stages: { name: string; verdict: string }[] };
    };
    expect(trace?.stages.map(({ name }) => name)).toEqual(stageNames);
    expect(new Set(trace?.stages.map(({ verdict }) => verdict))).toEqual(new Set(['passed']));
    const again = platform.typed({ person: 'ines', place: 'oddmere', text: '!induct wren lathe' });
    expect(await layer.handle(again, platform)).toMatchObject({ status: 'completed', trace: undefined });
  });

  test.each([
    ['duration', arg.duration(), '90d', '90 days'],
    ['duration', arg.duration(), '1d2h3m', '1d2h3m'],
    ['datetime', arg.datetime(), 'today 17:00', 'today 17:00'],
    ['datetime', arg.datetime(), 'in 20 hours', 'tomorrow 9:00'],
    ['datetime', arg.datetime(), 'friday 9:05', 'Friday 9:05'],
    ['datetime', arg.datetime(), '2026-12-24 18:00', '2026-12-24 18:00'],
    ['datetime', arg.datetime(), '2026-05-08 18:00', '2026-05-08 18:00'],
    ['datetime', arg.datetime(), '2026-05-12T09:00:30Z', '2026-05-12T09:00:30.000Z'],
    ['choice', arg.choice({ plane: 7, saw: 8 }), 'saw', 'saw'],
    ['boolean', arg.boolean(), 'on', 'true'],
    ['money', arg.money({ currency: 'GBP' }), '£3.50', '3.50'],
    ['list', arg.list(arg.duration()), '1d 2d', '1 day and 2 days'],
    ['what a mapping makes of it', arg.duration().map((ms) => ms / 1000), '2m', '120'],
    ['what a mapping makes of each', arg.list(arg.duration().map((ms) => ms / 1000)), '1m 2m', '60 and 120'],
    ['text', arg.tail(), 'for the orchard', '"for the orchard"'],
    ['member', arg.member(), 'wren', 'Wren'],
  ])('a trace shows a value as one would type it: %s', async (_, value, typed, shown) => {
    const act = command({ ...described, name: 'act', args: { value }, run: () => 'Done.' });
    const scene = await sceneOf([act], { timeZone: 'UTC' });
    const input = scene.platform.typed({ person: 'ines', place: 'oddmere', text: `!act ${typed}` });
    const { stages } = await explain(scene.layer, input, scene.platform);
    expect(stages.find(({ name }) => name === 'read')?.reason).toBe(`value = ${shown}`);
  });

  test.each([
    ['borrow drill', '!borrow drill'],
    ['  take drill', '!take drill'],
    ['overdue list', '!overdue list'],
    ['borrowed the drill', null],
    ['!borrow drill', null],
    ['! borrow drill', null],
    ['', null],
  ])('explaining %j tells the command that was meant', async (text, meant) => {
    const { layer, platform } = await oddmere();
    const input = platform.typed({ person: 'ines', place: 'oddmere', text });
    expect((await explain(layer, input, platform)).meant).toBe(meant);
  });

  const stops: [string, string, string, string][] = [
    ['resolve', 'ines', '!anvil', 'command.unknown'],
    ['access', 'tobias', '!induct', 'permission.caller'],
    ['read', 'ines', '!induct odalys saw', 'argument.invalid'],
    ['standing', 'ines', '!induct odalys lathe', 'permission.rank'],
  ];
  test.each(stops)('%s stops %s typing %s', async (stage, by, text, code) => {
    const { layer, platform } = await oddmere();
    const outcome = await layer.handle(platform.typed({ person: by, place: 'oddmere', text }), platform, {
      trace: true,
    });
    expect(codeOf(outcome)).toBe(code);
    const stages = 'trace' in outcome ? outcome.trace?.stages : undefined;
    expect(stages?.find(({ verdict }) => verdict === 'stopped')?.name).toBe(stage);
    const after = stages?.slice(stageNames.indexOf(stage as never) + 1, stageNames.indexOf('reply'));
    expect(after?.every(({ verdict }) => verdict === 'skipped')).toBe(true);
  });

  test('whoever may not run a command learns nothing of its arguments', async () => {
    const scene = await oddmere();
    for (const text of ['!fine', '!fine nobody', '!fine wren 10abc', '!fine "wren']) {
      const { outcome, posts } = await scene.types('tobias', text);
      expect(codeOf(outcome)).toBe('permission.caller');
      expect(posts.map(({ notice }) => [notice.body, notice.details])).toEqual([
        ['You need the permission fine for that.', undefined],
      ]);
    }
  });

  test('near names are only of what the caller may run here', async () => {
    const scene = await oddmere();
    const near = async (by: string, at?: string) => (await scene.types(by, '!fien', at)).outcome;
    expect(await near('ines')).toMatchObject({ parameters: { near: ['fine'] } });
    expect(await near('tobias')).toMatchObject({ parameters: { near: [] } });
    expect(await near('ines', 'direct')).toMatchObject({ parameters: { near: [] } });
  });

  test('nothing that stops before the limits touches them', async () => {
    const { asked, store } = watchedStore();
    const limited = command({
      ...described,
      name: 'limited',
      args: { who: arg.member(), n: arg.integer() },
      requires: ({ caller }) => [caller.can('fine'), caller.outranks('who')],
      cooldowns: { user: '20s' },
      run: () => 'done',
    });
    const scene = await sceneOf([limited], { store });
    await scene.types('ines', 'limited');
    await scene.types('ines', '!limted wren 3');
    await scene.types('tobias', '!limited wren 3');
    await scene.types('ines', '!limited wren x');
    await scene.types('ines', '!limited odalys 3');
    await scene.types('ines', '!limited wren 3', 'direct');
    expect(asked).toEqual([]);
    await scene.types('ines', '!limited wren 3');
    expect(asked).toEqual(['acquire']);
  });
});

describe('explaining runs nothing', () => {
  test('no handler runs, no limit is used, nothing is said', async () => {
    let ran = 0;
    const { asked, store } = watchedStore();
    const once = command({ ...described, name: 'once', cooldowns: { user: '20s' }, run: () => `${++ran}` });
    const { layer, platform } = await sceneOf([once], { store });
    const explanation = await explain(
      layer,
      platform.typed({ person: 'wren', place: 'oddmere', text: '!once' }),
      platform,
    );
    expect(explanation).toMatchObject({
      status: 'runs',
      command: 'once',
      args: {},
      stoppedAt: null,
      code: null,
      message: null,
    });
    expect(explanation.stages.map(({ name }) => name)).toEqual(stageNames);
    expect({ ran, asked, posts: platform.posts }).toEqual({ ran: 0, asked: ['look'], posts: [] });
  });

  test('it tells which stage stops a call, why, and what took each piece of the line', async () => {
    const { layer, platform } = await oddmere();
    const text = '!certify wren lathe 2 days for now';
    const { tokens, ...explanation } = await explain(
      layer,
      platform.typed({ person: 'ines', place: 'oddmere', text }),
      platform,
    );
    expect(explanation).toMatchObject({
      status: 'invalid',
      command: 'induct',
      stoppedAt: 'read',
      code: 'argument.invalid',
    });
    expect(explanation.message).toContain('from 30 days to 365 days');
    expect(tokens.map(({ span, takenBy, name }) => [text.slice(span.start, span.end), takenBy, name])).toEqual([
      ['certify', 'command', 'certify'],
      ['wren', 'argument', 'who'],
      ['lathe', 'argument', 'skill'],
      ['2 days', 'argument', 'valid'],
      ['for now', 'argument', 'note'],
    ]);
  });

  test('ordinary chat is ignored at match', async () => {
    const { layer, platform } = await oddmere();
    const explanation = await explain(
      layer,
      platform.typed({ person: 'wren', place: 'oddmere', text: 'good morning' }),
      platform,
    );
    expect(explanation).toMatchObject({ status: 'ignored', stoppedAt: 'match', command: null, message: null });
  });
});

describe('what a handler does becomes an outcome', () => {
  const failing: [string, () => unknown][] = [
    [
      'throws an error',
      () => {
        throw new Error('the shelf fell over');
      },
    ],
    [
      'throws a text',
      () => {
        throw 'ouch';
      },
    ],
    [
      'throws nothing',
      () => {
        throw undefined;
      },
    ],
    ['rejects', () => Promise.reject(new Error('later'))],
  ];
  test.each(failing)('one that %s fails with a reference that stands in the log', async (_, run) => {
    const logged: { fields: Readonly<Record<string, unknown>> }[] = [];
    const log = {
      error: (fields: Readonly<Record<string, unknown>>) => void logged.push({ fields }),
      warn: () => undefined,
    };
    const scene = await sceneOf([command({ ...described, name: 'fall', run: run as () => string })], {
      log,
      reference: () => 'abcd2345',
    });
    const { outcome, posts } = await scene.types('wren', '!fall');
    expect(outcome).toMatchObject({ status: 'failed', code: 'handler.failed', parameters: { reference: 'abcd2345' } });
    expect(posts[0]?.notice.body).toBe('Something went wrong on my side. Please tell the people who run me: abcd2345.');
    expect(logged[0]?.fields).toMatchObject({ reference: 'abcd2345', command: 'fall' });
  });

  test('its own refusal, returned or thrown, carries its own code', async () => {
    const returned = command({ ...described, name: 'returned', run: () => refuse('tool.out', 'The drill is out.') });
    const thrown = command({
      ...described,
      name: 'thrown',
      run: async () => {
        throw refuse('tool.out', 'The drill is out.');
      },
    });
    const scene = await sceneOf([returned, thrown]);
    for (const name of ['returned', 'thrown']) {
      const { outcome, posts } = await scene.types('wren', `!${name}`);
      expect(outcome).toMatchObject({
        status: 'refused',
        by: 'handler',
        code: 'tool.out',
        parameters: { reason: 'The drill is out.' },
      });
      expect(posts[0]?.notice).toMatchObject({ tone: 'problem', body: 'The drill is out.' });
    }
  });

  test('one that says nothing still closes a slash invocation, and is silent on text', async () => {
    const scene = await sceneOf([command({ ...described, name: 'quiet', run: () => undefined })]);
    expect((await scene.invokes('wren', 'quiet')).posts).toMatchObject([
      { visibleTo: 'wren', notice: { body: 'Done.' } },
    ]);
    expect((await scene.types('wren', '!quiet')).posts).toEqual([]);
  });

  test('a default that throws fails closed', async () => {
    const odd = command({
      ...described,
      name: 'odd',
      args: {
        n: arg.integer({
          default: () => {
            throw new Error('no');
          },
        }),
      },
      run: () => 'ran',
    });
    const scene = await sceneOf([odd]);
    expect((await scene.types('wren', '!odd')).outcome).toMatchObject({ status: 'failed', code: 'callback.failed' });
  });

  test('a default may depend on the call, and may be late', async () => {
    const me = command({
      ...described,
      name: 'me',
      args: { who: arg.member({ default: async ({ caller }) => (caller.kind === 'member' ? caller : undefined) }) },
      run: ({ args }) => args.who.name,
    });
    const scene = await sceneOf([me]);
    expect((await scene.types('wren', '!me')).posts[0]?.notice.body).toBe('Wren');
    expect((await scene.types('wren', '!me tobias')).posts[0]?.notice.body).toBe('Tobias');
  });
});

describe('the bot’s own code invokes commands with typed values', () => {
  const fine = command({
    ...described,
    name: 'fine',
    args: { who: arg.member(), pence: arg.integer({ max: 500 }), keep: arg.duration({ default: '1d' }) },
    requires: ({ caller }) => [caller.can('fine'), caller.outranks('who')],
    run: ({ args, caller }) => `${caller.name}: ${args.who.name} ${args.pence} ${args.keep}`,
  });
  const setting = async (program: object) => {
    const scene = await sceneOf([fine], { program });
    const { place } = scene.platform.typed({ person: 'ines', place: 'oddmere', text: '' });
    const who = [...(scene.platform.directory.guilds.get('oddmere')?.members.values() ?? [])].find(
      ({ id }) => id === 'wren',
    );
    if (who === undefined) throw new Error('Wren is missing');
    const invoke = (pence: number) =>
      scene.layer.invoke(fine, { as: 'night watch', place, platform: scene.platform, args: { who, pence } });
    return { invoke };
  };

  test('what it may do is declared, and nothing is assumed', async () => {
    expect(codeOf(await (await setting({})).invoke(5))).toBe('permission.caller');
    expect(codeOf(await (await setting({ can: ['fine'] })).invoke(5))).toBe('permission.rank');
    const { invoke } = await setting({ can: 'everything', outranks: 'everyone' });
    expect(await invoke(5)).toMatchObject({
      status: 'completed',
      reply: { notice: { body: 'night watch: Wren 5 86400000' } },
    });
  });

  test('values out of bounds are refused as everywhere', async () => {
    const { invoke } = await setting({ can: 'everything', outranks: 'everyone' });
    expect(codeOf(await invoke(501))).toBe('argument.invalid');
  });
});
