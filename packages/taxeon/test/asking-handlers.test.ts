import { polish } from '@taxeon/icu';
import { type Exchange, runFor, type StandIn } from '@taxeon/testing';
import { arg, type Call, command, guildSettings, type Member, memoryStore, refuse } from 'taxeon';
import { askInChat } from 'taxeon/asking';
import type { Input } from 'taxeon/platform';
import { describe, expect, test } from 'vitest';
import { begun, lastPost, said, scene, settled, statusOf } from '../../../test/support/asking.js';
import { liveIn, sceneOf, silentLog } from '../../../test/support/oddmere.js';

describe('a command that wants a yes', () => {
  let forgotten = 0;
  const amnesty = command({
    name: 'amnesty',
    description: 'Forget loans',
    args: { loans: arg.integer({ max: 50 }) },
    requires: ({ caller }) => [caller.can('fine')],
    cooldowns: { user: '1 in 1m' },
    confirm: ({ loans }, { number }) => `Forget ${number(loans)} loans?`,
    run: ({ args }) => {
      forgotten += args.loans;
      return `${args.loans} loans are forgotten.`;
    },
  });

  test.each([
    ['yes', ['yes'], ['waiting', 'completed']],
    ['yes with a capital and a full stop', ['Sure.'], ['waiting', 'completed']],
    ['no', ['no'], ['waiting', 'answer.stopped']],
    ['neither, and then yes', ['perhaps', 'y'], ['waiting', 'waiting', 'completed']],
    ['the stop word', ['cancel'], ['waiting', 'answer.stopped']],
  ])('takes %s', async (_, answers, expected) => {
    forgotten = 0;
    const store = memoryStore();
    const here = await scene([amnesty], { store });
    const all = [await here.types('ines', '!amnesty 12')];
    expect(said(all[0] as Exchange)).toBe('Forget 12 loans?\nSay “yes” or “no” within 1 minute.');
    expect(await liveIn(store)).toEqual([]);
    for (const answer of answers) all.push(await here.types('ines', answer));
    expect(all.map(statusOf)).toEqual(expected);
    expect(forgotten).toBe(expected.includes('completed') ? 12 : 0);
    // A no costs nothing.
    expect((await liveIn(store)).length).toBe(expected.includes('completed') ? 1 : 0);
    if (answers.includes('perhaps'))
      expect(said(all[1] as Exchange)).toContain('“perhaps” is neither a yes nor a no.\nForget 12 loans?');
  });

  test.each(['tak', 'Yes.'])('takes %s in the caller’s language, or in English', async (yes) => {
    const here = await scene([amnesty], { languages: [polish()] });
    const says = (text: string) =>
      here.platform.send(here.platform.typed({ person: 'ines', place: 'oddmere/counter', text, locale: 'pl' }));
    expect(said(await says('!amnesty 12'))).toContain('Napisz „tak” albo „nie”.');
    expect(statusOf(await says(yes))).toBe('completed');
  });

  test('takes no yes for somebody else who has the name by then', async () => {
    const debar = command({
      name: 'debar',
      description: 'Debar a member',
      args: { who: arg.member() },
      confirm: ({ who }) => `Debar ${who.name}?`,
      run: ({ args }) => `${args.who.id} is debarred.`,
    });
    const here = await scene([debar]);
    expect(statusOf(await here.types('ines', '!debar wren'))).toBe('waiting');
    const members = (here.platform.directory.guilds.get('oddmere')?.members ?? new Map()) as Map<string, Member>;
    const [wren, tobias] = [members.get('wren') as Member, members.get('tobias') as Member];
    members.delete('wren');
    members.set('w2', { ...wren, id: 'w2', name: 'Zed' }).set('tobias', { ...tobias, name: 'Wren' });
    expect(statusOf(await here.types('ines', 'yes'))).toBe('waiting');
    expect(said(await here.types('ines', 'yes'))).toBe('tobias is debarred.');
  });

  test.each(['text', 'slash'] as const)('takes no yes that an input brings along, by %s', async (surface) => {
    const here = await scene([amnesty]);
    const brought = { confirmed: 'Forget 12 loans?', about: 'Forget 12 loans?' };
    const input =
      surface === 'text'
        ? here.platform.typed({ person: 'ines', place: 'oddmere', text: '!amnesty 12' })
        : here.platform.invoked({ person: 'ines', place: 'oddmere', path: ['amnesty'], options: { loans: '12' } });
    expect(statusOf(await here.platform.send({ ...input, ...brought } as Input))).toBe('waiting');
  });

  test('asks nobody who may not run it, and nobody at all where it is the bot’s own code', async () => {
    const here = await scene([amnesty], { program: { can: ['fine'] } });
    expect(statusOf(await here.types('wren', '!amnesty 12'))).toBe('permission.caller');
    expect(await here.layer.invoke(amnesty, { args: { loans: 1 }, as: 'test' })).toMatchObject({ status: 'completed' });
  });

  test('asks anew where what is to be done is another thing by then', async () => {
    let loans = 12;
    const all = command({
      name: 'all',
      description: 'All',
      confirm: () => `Forget ${loans} loans?`,
      run: () => 'Done.',
    });
    const here = await scene([all]);
    await here.types('ines', '!all');
    loans = 15;
    expect(said(await here.types('ines', 'yes'))).toContain('Forget 15 loans?');
    expect(statusOf(await here.types('ines', 'yes'))).toBe('completed');
  });

  test('asks first for what is missing, and then for the yes', async () => {
    const here = await scene([amnesty], { asking: askInChat({ whenMissing: 'ask' }) });
    const all = [];
    for (const line of ['!amnesty', '7', 'yes']) all.push(await here.types('ines', line));
    expect(all.map(said).at(-1)).toBe('7 loans are forgotten.');
  });

  test('that gives no question fails closed', async () => {
    const all = command({ name: 'all', description: 'All', confirm: () => undefined as never, run: () => 'Done.' });
    expect(statusOf(await (await scene([all])).types('ines', '!all'))).toBe('callback.failed');
  });
});

describe('a handler', () => {
  const asks = (run: (call: Call) => unknown, more: object = {}) =>
    command({ name: 'reserve', description: 'Reserve', run: run as never, ...more });
  const days = asks(async (call) => {
    const day = await call.ask(arg.choice(['friday', 'saturday']), 'For which day?');
    return `Reserved for ${day}.`;
  });

  test('asks for a typed value, and says what is wrong until it has one', async () => {
    const here = await scene([days]);
    const { ends } = await begun(here, 'ines', '!reserve');
    expect(lastPost(here)).toBe('For which day?\nJust type it, such as friday, within 1 minute. “stop” ends this.');
    expect(statusOf(await here.types('ines', 'someday'))).toBe('ignored');
    await settled();
    expect(lastPost(here)).toContain('“answer” takes one of friday or saturday; “someday” is not that.');
    expect(statusOf(await here.types('tobias', 'friday'))).toBe('ignored');
    const { outcome } = await here.types('ines', 'Saturday');
    expect(outcome).toEqual({ status: 'ignored', because: 'answer' });
    expect(statusOf(await ends)).toBe('completed');
    expect(lastPost(here)).toBe('Reserved for saturday.');
    expect(statusOf(await here.types('ines', 'friday'))).toBe('ignored');
  });

  test('is ended by a stop word, by the time, and by the layer’s close, with a sentence', async () => {
    const here = await scene([days]);
    const stopped = await begun(here, 'ines', '!reserve');
    await here.types('ines', 'stop');
    expect(statusOf(await stopped.ends)).toBe('answer.stopped');
    const late = await begun(here, 'ines', '!reserve');
    here.clock.advance(60_000);
    expect(statusOf(await late.ends)).toBe('answer.none');
    expect(lastPost(here)).toBe('There was no answer, so nothing was done.');
    const closing = await begun(here, 'ines', '!reserve');
    void here.layer.close();
    expect(statusOf(await closing.ends)).toBe('layer.closing');
    expect(lastPost(here)).toBe('I am about to restart. Please try again in a minute.');
  });

  test('that catches the stop cannot complete the call', async () => {
    const here = await scene([asks(async (call) => call.confirm('Sure?').catch(() => 'All done.'))]);
    const { ends } = await begun(here, 'ines', '!reserve');
    await here.types('ines', 'no');
    expect(statusOf(await ends)).toBe('answer.stopped');
  });

  test('goes on behind a yes', async () => {
    const here = await scene([asks(async (call) => call.confirm('Sure?').then(() => 'All done.'))]);
    const { ends } = await begun(here, 'ines', '!reserve');
    expect(lastPost(here)).toBe('Sure?\nSay “yes” or “no” within 1 minute.');
    await here.types('ines', 'yes');
    expect(statusOf(await ends)).toBe('completed');
    expect(lastPost(here)).toBe('All done.');
  });

  describe('gets no answer of somebody who may not go on by then:', () => {
    const charge = command({
      name: 'charge',
      description: 'Charge a member',
      args: { who: arg.member().map((who) => ({ of: who })) },
      requires: ({ caller }) => [caller.can('fine'), caller.outranks('who')],
      run: async ({ args, confirm }) => {
        await confirm('Sure?');
        return `${args.who.of.name} pays.`;
      },
    });
    const rows: [string, string, (platform: StandIn, settings: ReturnType<typeof guildSettings>) => unknown][] = [
      ['a caller who was demoted', 'permission.caller', ({ directory }) => directory.giveRoles('oddmere', 'ines', [])],
      [
        'a target who was promoted',
        'permission.rank',
        ({ directory }) => directory.giveRoles('oddmere', 'wren', ['keeper']),
      ],
      [
        'a target who is gone',
        'permission.rank',
        ({ directory }) =>
          (directory.guilds.get('oddmere')?.members as Map<string, Member> | undefined)?.delete('wren'),
      ],
      [
        'a command that is off',
        'command.unavailable',
        (_, settings) => settings.change('stand-in/oddmere', () => ({ off: ['charge'] })),
      ],
      [
        'a caller who is denied',
        'permission.caller',
        (_, settings) =>
          settings.change('stand-in/oddmere', () => ({
            rules: [{ command: 'charge', member: 'ines', verdict: 'deny' }],
          })),
      ],
    ];
    test.each(rows)('%s', async (_, code, meanwhile) => {
      const settings = guildSettings({ store: memoryStore(), log: silentLog });
      const here = await scene([charge], { settings });
      const { ends } = await begun(here, 'ines', '!charge wren');
      await meanwhile(here.platform, settings);
      await here.types('ines', 'yes');
      expect(statusOf(await ends)).toBe(code);
      expect(lastPost(here)).not.toContain('pays');
    });

    test('and the layer’s end waits for all others', async () => {
      const slow = command({ name: 'slow', description: 'Slow', run: () => new Promise<string>(() => undefined) });
      const here = await scene([charge, slow]);
      const { ends } = await begun(here, 'ines', '!charge wren');
      const { ends: later } = await begun(here, 'tobias', '!slow');
      here.platform.directory.giveRoles('oddmere', 'ines', []);
      await here.types('ines', 'yes');
      expect(statusOf(await ends)).toBe('permission.caller');
      const closed = here.layer.close({ within: '6s' });
      await runFor(here.clock, 6000);
      expect(await closed).toEqual({ aborted: 1 });
      expect(statusOf(await later)).toBe('handler.timeout');
    });

    test('though all others are heard', async () => {
      const here = await scene([charge], { settings: guildSettings({ store: memoryStore(), log: silentLog }) });
      const { ends } = await begun(here, 'ines', '!charge wren');
      await here.types('ines', 'yes');
      expect(statusOf(await ends)).toBe('completed');
    });
  });

  test('has its time stand still while it asks, and its place kept', async () => {
    const store = memoryStore();
    const slow = asks(days.declaration.run as never, { timeout: '20s', running: { user: 1 } });
    const here = await scene([slow], { store });
    const { ends } = await begun(here, 'ines', '!reserve');
    here.clock.advance(50_000);
    await settled();
    expect((await liveIn(store)).length).toBe(1);
    expect(statusOf(await here.types('ines', '!reserve'))).toBe('running.full');
    await here.types('ines', 'friday');
    expect(statusOf(await ends)).toBe('completed');
    expect(await liveIn(store)).toEqual([]);
  });

  test('does not wait for two answers of one person in one place', async () => {
    const here = await scene([days]);
    const { ends } = await begun(here, 'ines', '!reserve');
    expect(statusOf(await here.types('ines', '!reserve'))).toBe('answer.none');
    expect(lastPost(here)).toBe('I wait for another answer, so nothing was done.');
    const elsewhere = here.types('ines', '!reserve', 'oddmere/workshop');
    await settled();
    await here.types('ines', 'friday');
    expect(statusOf(await ends)).toBe('completed');
    await here.types('ines', 'saturday', 'oddmere/workshop');
    expect(statusOf(await elsewhere)).toBe('completed');
  });

  test('that does not wait for the answer leaves no question behind', async () => {
    const here = await scene([asks((call) => void call.ask(arg.text(), 'Who?'))]);
    await here.types('ines', '!reserve');
    await settled();
    expect(statusOf(await here.types('ines', 'Wren'))).toBe('ignored');
    expect(lastPost(here)).not.toContain('Wren');
  });

  test('asks for nothing that is no argument, is declared wrong, or is a file', async () => {
    for (const wanted of ['day', arg.integer({ min: 5, max: 1 }), arg.attachment()]) {
      const logged: unknown[] = [];
      const log = {
        error: ({ error }: { readonly error?: unknown }) => void logged.push(String(error)),
        warn: () => undefined,
      };
      const here = await scene([asks((call) => call.ask(wanted as never, 'What?'))], { log });
      expect(statusOf(await here.types('ines', '!reserve'))).toBe('handler.failed');
      expect(logged[0]).toMatch(/call.ask takes an argument|What call.ask asks for/);
      expect(statusOf(await here.types('ines', '7'))).toBe('ignored');
    }
  });

  test('alone may ask: neither a hook behind it, nor an answer for unknown names', async () => {
    const errors: string[] = [];
    const keep = (error: Error) => void errors.push(error.name);
    const here = await scene([asks(() => refuse('tool.out', 'It is out.'))], {
      onRefusal: (_, call) => call.confirm('Sure?').then(() => undefined, keep) as never,
      onUnknown: (_name, _rest, call) => call.confirm('Sure?').then(() => undefined, keep) as never,
    });
    await here.types('ines', '!reserve');
    await here.types('ines', '!nothing');
    expect(errors.slice(0, 2)).toEqual(['Unanswered', 'Unanswered']);
    expect(here.platform.posts.map(({ notice }) => notice.body)).not.toContain('Sure?');
  });

  test('cannot ask the bot’s own code, nor in a layer that does not ask', async () => {
    const here = await scene([days]);
    expect(await here.layer.invoke(days, { args: {}, as: 'test' })).toMatchObject({ code: 'answer.none' });
    const silent = await sceneOf([days]);
    expect(statusOf(await silent.types('ines', '!reserve'))).toBe('handler.failed');
  });
});
