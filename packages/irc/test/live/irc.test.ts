import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { irc, nativeOf } from '@taxeon/irc';
import { arg, command, createCommandLayer, type Log } from 'taxeon';
import { afterAll, afterEach, beforeAll, describe, expect, test } from 'vitest';
import { silentLog } from '../../../../test/support/oddmere.js';
import { freePort, isMissing, start, startInTerminal, until } from '../../../../test/support/programs.js';
import { type IrcPerson, type IrcServer, joinAs, startIrcServer } from '../support/ngircd.js';
import { describeIrcTrials } from '../support/probe.js';

const examples = new URL('../../../../examples/', import.meta.url);

describe.skipIf(isMissing('ngircd'))('on a real IRC server', () => {
  let server: IrcServer;
  const leaving: (() => Promise<unknown>)[] = [];

  beforeAll(async () => {
    server = await startIrcServer();
  });
  afterAll(() => server.stop());
  afterEach(async () => {
    for (const leave of leaving.splice(0).reverse()) await leave();
  });

  async function person(nick: string, channel: string): Promise<IrcPerson> {
    const joined = await joinAs(nick, server.port, channel);
    leaving.push(() => joined.leave());
    return joined;
  }

  /** The example bot, run as people run it; what it logs as it is written. */
  function exampleBot(...more: string[]) {
    const folder = mkdtempSync(join(tmpdir(), 'oddmere-irc-bot-'));
    const options = ['--host', '127.0.0.1', '--store', join(folder, 'mallet.db'), ...more];
    const bot = start(process.execPath, ['dist/irc-bot.js', ...options], { cwd: new URL('irc-bot/', examples) });
    leaving.push(async () => {
      await bot.end();
      rmSync(folder, { recursive: true });
    });
    let out = '';
    bot.child.stdout?.on('data', (data) => (out += data));
    const logged = () =>
      out
        .split('\n')
        .filter((line) => line !== '')
        .map((line) => JSON.parse(line) as { msg: string; channel?: string; why?: string });
    return { bot, logged, isReady: () => logged().some(({ msg }) => msg === 'Ready') };
  }

  test('the example bot answers in its channels, each with its own settings', async () => {
    // The first to come gets the operator's mode, which makes a steward here.
    const ines = await person('Ines', '#oddmere');
    const tobias = await person('Tobias', '#pellbrook');
    const { isReady } = exampleBot('--port', String(server.port));
    await until(isReady, 'the bot says that it is there');
    const pim = await person('Pim', '#oddmere');
    const answer = async (who: IrcPerson, line: string) => {
      who.type(line);
      let said = '';
      while (!said.startsWith(`${who.nick}: `)) said = await who.heard('Mallet');
      return said;
    };

    expect(await answer(ines, '!borrow drill 2 days')).toMatch(
      /^Ines: The drill is yours, Ines\. Please bring it back by /,
    );
    expect(await answer(ines, '!take hedge trimmer 2 days for the orchard')).toMatch(
      /^Ines: The hedge trimmer is yours, Ines\./,
    );
    expect(await answer(ines, '!borrow')).toBe(
      'Ines: × “tool” is missing: one of drill, jigsaw, hedge trimmer, spade, ladder, clamps or chainsaw.',
    );
    expect(await ines.heard('Mallet')).toBe('· Usage: !borrow <tool> [keep] [note…]');
    expect(await ines.heard('Mallet')).toBe('· Example: !borrow drill');
    expect(await answer(ines, '!take spade')).toMatch(/^Ines: × Not yet\. This works again in (10|9) minutes/);
    expect(await answer(pim, '!borrow spade')).toBe('Pim: × You need the permission borrow for that.');
    expect(await answer(tobias, '?borrow multimeter')).toMatch(/^Tobias: .*multimeter/);

    ines.setMode('+v', 'Pim');
    await until(
      async () => (await answer(pim, '!borrow spade')).startsWith('Pim: The spade is yours, Pim.'),
      'voice lets Pim borrow',
    );
    expect(await answer(ines, '!fine pim 50')).toBe('Ines: P\u2060im owes 50p, 50p in all.');
  });

  test('the example bot waits for a server that is not there yet, and leaves when it is told to', async () => {
    const port = await freePort();
    const { bot, logged } = exampleBot('--port', String(port));
    await until(() => logged().some(({ msg }) => msg === 'There is no IRC connection yet'), 'the bot says so');
    expect(logged().find(({ why }) => why !== undefined)?.why).toBe(
      `IRC at 127.0.0.1:${port}: connect ECONNREFUSED 127.0.0.1:${port}`,
    );
    bot.child.kill('SIGTERM');
    expect(await bot.finished).toMatchObject({ status: 0, err: '' });
  });

  test('the example bot has a console about a channel in its terminal, with Tab; Ctrl-C says goodbye', async () => {
    await person('Ines', '#oddmere');
    const folder = mkdtempSync(join(tmpdir(), 'oddmere-irc-bot-'));
    const flags = `--host 127.0.0.1 --port ${server.port} --store ${folder}/mallet.db --channel '#oddmere'`;
    const line = `'${process.execPath}' dist/irc-bot.js ${flags} --console '#oddmere' 2>'${folder}/log'`;
    const terminal = startInTerminal(line, { cwd: new URL('irc-bot/', examples) });
    leaving.push(async () => {
      await terminal.end();
      rmSync(folder, { recursive: true });
    });
    const { out, child } = terminal;
    await until(() => out().includes('#oddmere> '), 'the console asks');
    child.stdin?.write('overd\t');
    await until(() => out().includes('overdue '), 'Tab completes a command');
    child.stdin?.write('remind In\t');
    await until(() => out().includes('overdue remind Ines'), 'and somebody in the channel');
    child.stdin?.write('\r');
    await until(() => out().includes('  Ines has nothing that is late.'), 'it answers');
    child.stdin?.write('\u0003');
    expect((await terminal.finished).status).toBe(0);
    expect(readFileSync(`${folder}/log`, 'utf8')).toContain('"signal":"SIGINT"');
  });

  test.each([
    [
      ['--config', '/not/there.yaml'],
      "irc-bot: /not/there.yaml: ENOENT: no such file or directory, open '/not/there.yaml'\n",
    ],
    [['--console', '#moon'], 'irc-bot: --console: #moon is none of #oddmere, #pellbrook\n'],
    [['--port', 'many'], 'irc-bot: port: give a whole number from 1 to 65535\n'],
    [
      ['--channel', 'oddmere'],
      'irc-bot: irc: `channels` is a list; give a list of names such as #oddmere, or { name, key }\n',
    ],
  ])('the example bot says in one sentence what is wrong with %j', async (options, err) => {
    const { bot } = exampleBot(...options);
    expect(await bot.finished).toMatchObject({ status: 2, err });
  });

  describeIrcTrials(() => server);

  test('modes are rank and permissions, and a direct message is no guild', async () => {
    const ines = await person('Ines', '#modes');
    const who = command({
      name: 'who',
      description: 'Who I am here',
      run: ({ caller }) =>
        `${caller.kind} ${caller.id} ${caller.kind === 'member' ? `${caller.rank} ${[...caller.permissions].join()}` : ''}`.trim(),
    });
    const layer = createCommandLayer({ commands: [who], prefixes: ['!'], log: silentLog });
    const modes = { o: { rank: 30, role: 'steward', permissions: ['fine'] }, v: { rank: 10 } };
    const platform = irc({
      host: '127.0.0.1',
      port: server.port,
      nick: 'Mallet',
      channels: ['#modes'],
      identity: 'user@host',
      modes,
      log: silentLog,
    });
    const serving = await platform.serve(layer);
    leaving.push(() => serving.close());
    const wren = await person('Wren', '#modes');

    ines.type('!who');
    expect(await ines.heard('Mallet')).toBe('Ines: member ~ines@127.0.0.1 30 fine');
    wren.type('!who');
    expect(await wren.heard('Mallet')).toBe('Ines: member ~ines@127.0.0.1 30 fine');
    expect(await wren.heard('Mallet')).toBe('Wren: member ~wren@127.0.0.1 0');
    wren.whisper('Mallet', '!who');
    expect(await wren.heard('Mallet')).toBe('user ~wren@127.0.0.1');
    ines.setMode('-o', 'Ines');
    await until(async () => {
      wren.type('!who');
      ines.type('!who');
      return (await ines.heard('Mallet')).endsWith('ines@127.0.0.1 0');
    }, 'Ines has no mode left');
  });

  test('what is being answered while the connection is lost is said once it is back, and once', async () => {
    const own = await startIrcServer();
    leaving.push(() => own.stop());
    const wren = await joinAs('Wren', own.port, '#lost');
    let runs = 0;
    let finish: (answer: string) => void = () => undefined;
    const slow = command({
      name: 'slow',
      description: 'Answers later',
      run: () => {
        runs += 1;
        return new Promise<string>((resolve) => {
          finish = resolve;
        });
      },
    });
    const warned: string[] = [];
    const log: Log = { error: () => undefined, warn: (_, message) => void warned.push(message) };
    const layer = createCommandLayer({ commands: [slow], prefixes: ['!'], log: silentLog });
    const platform = irc({
      host: '127.0.0.1',
      port: own.port,
      nick: 'Mallet',
      channels: ['#lost'],
      identity: 'user@host',
      pauses: { first: { ms: 30 }, most: { ms: 200 } },
      log,
    });
    const serving = await platform.serve(layer);
    leaving.push(() => serving.close());

    wren.type('!slow');
    await until(() => runs === 1, 'the handler runs');
    await own.restart();
    finish('counted 12 saws');
    const again = await joinAs('Tobias', own.port, '#lost');
    leaving.push(() => again.leave());
    await until(() => warned.includes('The IRC connection is back'), 'the bot is back');
    expect(warned[0]).toBe('The IRC connection was lost; reconnecting');
    again.type('!slow');
    await until(() => runs === 2, 'the bot hears again');
    finish('counted 13 saws');
    const first = await again.heard('Mallet').catch(() => 'nothing');
    // Whoever comes back before the bot hears the late answer, too.
    expect(['Wren: counted 12 saws', 'Tobias: counted 13 saws']).toContain(first);
    if (first === 'Wren: counted 12 saws') expect(await again.heard('Mallet')).toBe('Tobias: counted 13 saws');
    expect(runs).toBe(2);
  });

  test('somebody is told directly, a post goes elsewhere, and only who is mentioned is rung', async () => {
    const ines = await person('Ines', '#telling');
    const tobias = await person('Tobias', '#telling');
    const pim = await person('Pim', '#elsewhere');
    const sent: unknown[] = [];
    const remind = command({
      name: 'remind',
      description: 'Remind somebody',
      args: { who: arg.member(), other: arg.member() },
      async run(call) {
        const { args, tell, post, mention } = call;
        sent.push(nativeOf({ ...call })?.presence.nick);
        const told = await tell(args.who, 'The drill is late.');
        await post({ id: '#elsewhere', name: '#elsewhere' }, '\x02Tobias\x0f has the drill.');
        return `${told}: ${mention(args.who)}, not ${args.other.name}`;
      },
    });
    const platform = irc({
      host: '127.0.0.1',
      port: server.port,
      nick: 'Mallet',
      channels: ['#telling', '#elsewhere'],
      identity: 'user@host',
      log: silentLog,
    });
    const layer = createCommandLayer({ commands: [remind], prefixes: ['!'], log: silentLog });
    const serving = await platform.serve(layer);
    leaving.push(() => serving.close());
    ines.type('!remind tobias ines');
    expect(await tobias.heard('Mallet')).toBe('The drill is late.');
    expect(await tobias.heard('Mallet')).toBe('Ines: delivered: Tobias, not Ines');
    expect(await pim.heard('Mallet')).toBe('· T\u2060obias has the drill.');
    expect(sent).toEqual(['Ines']);
  });
});
