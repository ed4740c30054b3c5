import { createServer } from 'node:net';
import { irc } from '@taxeon/irc';
import { arg, command, type Member, type Outcome } from 'taxeon';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { silentLog } from '../../../../test/support/oddmere.js';
import { freePort, isMissing, until } from '../../../../test/support/programs.js';
import { type Ircv3Server, startIrcv3Server } from '../support/inspircd.js';
import { startIrcServer } from '../support/ngircd.js';
import { counting, ircStage, jot, listeningLog, passingTo, slow } from '../support/stage.js';

const lost = 'The IRC connection was lost; reconnecting';
const back = 'The IRC connection is back';

describe.skipIf(isMissing('inspircd'))('staying on an IRC network', () => {
  let server: Ircv3Server;
  beforeAll(async () => {
    server = await startIrcv3Server();
  });
  afterAll(() => server.stop());
  const { person, bot, leaving } = ircStage(() => server);

  test('a channel with a key is joined, and one that is for the invited once somebody asks the bot in', async () => {
    const ines = await person('Ines', '#keyed');
    ines.setMode('+k', 'hammer');
    const wren = await person('Wren', '#invited');
    wren.setMode('+i');
    const { command: count } = counting();
    const { platform } = await bot([{ name: '#keyed', key: 'hammer' }, '#invited'], [count], {
      pauses: { first: '1m', most: '1m' },
    });
    expect(platform.state().channels).toMatchObject([
      { name: '#keyed', status: 'joined' },
      { name: '#invited', status: 'shut', why: expect.stringMatching(/invite/i) },
    ]);
    wren.raw('INVITE', 'Mallet', '#invited');
    await until(() => platform.state().channels[1]?.status === 'joined', 'the bot is in');
    wren.type('!count');
    expect(await wren.heard('Mallet')).toBe('Wren: 1 so far');
  });

  test('a bot that is made to join another channel leaves it, and runs nothing there', async () => {
    const { calls, command: count } = counting();
    const ines = await person('Ines', '#wanted');
    const pim = await person('Pim', '#unwanted');
    pim.setMode('+L', '#nowhere');
    const { platform } = await bot(['#wanted'], [count]);
    pim.raw('INVITE', 'Mallet', '#unwanted');
    pim.type('!count');
    ines.type('!count');
    expect(await ines.heard('Mallet')).toBe('Ines: 1 so far');
    expect(calls).toHaveLength(1);
    expect(platform.state().channels).toHaveLength(1);
  });

  test('twenty channels are joined in a few lines, and what is said in each is answered there', async () => {
    const channels = Array.from({ length: 20 }, (_, n) => `#many-channels-${n}`);
    const { command: count } = counting();
    const wren = await person('Wren', '#many-channels-19');
    const { platform } = await bot(channels, [count], { pace: '30 in 3s' });
    expect(platform.state().channels.every(({ status }) => status === 'joined')).toBe(true);
    wren.type('!count');
    expect(await wren.heard('Mallet')).toBe('Wren: 1 so far');
  });

  test('what is said while the link is dead is not told as delivered', async () => {
    const through = await passingTo(server.port);
    leaving.push(through.stop);
    const ines = await person('Ines', '#void');
    const { finish, command: later } = slow();
    const { log, has } = listeningLog();
    const outcomes: Outcome[] = [];
    const { layer } = await bot(['#void'], [later], { port: through.port, silence: '3s', log });
    layer.on('completed', ({ outcome }) => void outcomes.push(outcome));
    ines.type('!slow');
    await until(() => finish.length === 1, 'the handler runs');
    through.pause();
    finish[0]?.('swallowed');
    await until(() => has(lost), 'the loss is noticed');
    await until(() => outcomes.length === 1, 'the call has its outcome');
    expect(outcomes[0]).toMatchObject({
      status: 'completed',
      delivery: { delivered: false, code: 'platform.unreachable', arrived: 'perhaps' },
    });
    await until(() => has(back), 'the bot is back');
  });

  test('what a channel or a person does not take is told with its reason', async () => {
    const ines = await person('Ines', '#moderated');
    ines.setMode('+m');
    const announce = command({
      name: 'announce',
      description: 'Post it',
      args: { text: arg.tail() },
      run: async ({ args, post }) => {
        await post({ id: '#moderated', name: '#moderated' }, args.text);
        return 'posted';
      },
    });
    const outcomes: unknown[] = [];
    const { layer } = await bot(['#moderated'], [announce, jot]);
    layer.on('failed', ({ outcome }) => void outcomes.push(outcome));
    ines.type('!announce the library is open');
    await until(() => outcomes.length === 1, 'the call has its outcome');
    expect(outcomes[0]).toMatchObject({ status: 'failed', code: 'platform.forbidden' });
  });

  test('its state and each change of it are told, to a health check and in the log', async () => {
    const ines = await person('Ines', '#health');
    const { log, warned } = listeningLog();
    const links: string[] = [];
    const platform = irc({
      host: '127.0.0.1',
      port: server.port,
      nick: 'Mallet',
      channels: ['#health'],
      pauses: { first: { ms: 30 }, most: { ms: 60 } },
      log,
    });
    expect(platform.state()).toMatchObject({ link: 'idle', nick: 'Mallet' });
    const stop = platform.watch(({ link, channels }) => links.push(`${link} ${channels[0]?.status}`));
    platform.watch(() => {
      throw new Error('a listener that fails takes nothing down');
    });
    const serving = await platform.serve({ handle: async () => ({ status: 'ignored', because: 'chat' }) });
    leaving.push(() => serving.close());
    ines.kick('Mallet');
    await until(() => links.filter((one) => one === 'connected joined').length === 2, 'the bot is back');
    expect(warned.filter(({ message }) => message.startsWith('The bot is'))).toMatchObject(
      [
        {
          message: 'The bot is not in an IRC channel that it wants',
          fields: { channel: '#health', why: /put out by Ines/ },
        },
        { message: 'The bot is in an IRC channel again', fields: { channel: '#health' } },
      ].map(({ message, fields: { why, ...fields } }) => ({
        message,
        fields: { ...fields, ...(why === undefined ? {} : { why: expect.stringMatching(why) }) },
      })),
    );
    expect([...new Set(links)]).toEqual([
      'connecting wanted',
      'connected wanted',
      'connected joining',
      'connected joined',
      'connected kicked',
    ]);
    stop();
    await serving.close();
    expect(platform.state().link).toBe('closed');
    expect([...new Set(links)]).toHaveLength(5);
  });
});

describe.skipIf(isMissing('ngircd'))('coming to an IRC network', () => {
  const { leaving } = ircStage(() => ({ port: 0 }));
  const nothing = { handle: async () => ({ status: 'ignored', because: 'chat' }) as const };

  test('that is not there yet: the first connection is tried again like later ones', async () => {
    const port = await freePort();
    const { log, has } = listeningLog();
    const platform = irc({
      host: '127.0.0.1',
      port,
      nick: 'Mallet',
      channels: ['#oddmere'],
      pauses: { first: { ms: 50 }, most: { ms: 100 } },
      log,
    });
    leaving.push(() => platform.close());
    const serving = platform.serve(nothing);
    await until(() => has('There is no IRC connection yet'), 'the bot says so');
    const server = await startIrcServer({ port });
    leaving.push(() => server.stop());
    await serving;
    expect(platform.state()).toMatchObject({ link: 'connected', channels: [{ status: 'joined' }] });
  });

  test('whose password is another rejects at once, and says nothing of the one that was given', async () => {
    const server = await startIrcServer({ password: 'anvil' });
    leaving.push(() => server.stop());
    const { log, warned } = listeningLog();
    const at = { host: '127.0.0.1', port: server.port, nick: 'Mallet', channels: ['#oddmere'], log };
    const wrong = irc({ ...at, password: 'chisel-secret' });
    await expect(wrong.serve(nothing)).rejects.toMatchObject({ code: 'platform.forbidden' });
    expect(JSON.stringify([warned, wrong.state()])).not.toContain('chisel-secret');
    const right = irc({ ...at, password: 'anvil' });
    const serving = await right.serve(nothing);
    await serving.close();
  });

  test('that does not take its nick rejects at once', async () => {
    const server = await startIrcServer();
    leaving.push(() => server.stop());
    const platform = irc({
      host: '127.0.0.1',
      port: server.port,
      nick: '9mallet',
      channels: ['#oddmere'],
      log: silentLog,
    });
    await expect(platform.serve(nothing)).rejects.toMatchObject({
      code: 'platform.forbidden',
      message: expect.stringContaining('the nick 9mallet is not taken'),
    });
  });

  test('that never answers: closing ends the waiting', async () => {
    const silent = createServer((socket) => void socket.on('error', () => undefined).resume());
    await new Promise<void>((resolve) => silent.listen(0, '127.0.0.1', resolve));
    leaving.push(() => new Promise((resolve) => silent.close(resolve)));
    const { port } = silent.address() as { port: number };
    const platform = irc({ host: '127.0.0.1', port, nick: 'Mallet', channels: [], log: silentLog });
    const serving = platform.serve(nothing);
    const ended = expect(serving).rejects.toMatchObject({ code: 'platform.gone' });
    await until(() => platform.state().link === 'connecting', 'it tries');
    await platform.close();
    await ended;
  });

  test.each([
    ['announces nothing', '', [], 30],
    ['announces its signs and ranks', 'PREFIX=(qov)~@+ STATUSMSG=@', ['!count'], 50],
  ])('that %s: only what it announces is a sign or a rank', async (_, announced, expected, rank) => {
    const server = createServer((socket) => {
      socket.on('error', () => undefined).resume();
      socket.write(`:x 001 Mallet :hi\r\n:x 005 Mallet CHANTYPES=# ${announced} :are\r\n:x 422 Mallet :no\r\n`);
      for (const line of [
        ':Mallet!m@h JOIN #oddmere',
        ':x 353 Mallet = #oddmere :Mallet Ines Wren',
        ':x 366 Mallet #oddmere :end',
        ':x 315 Mallet #oddmere :end',
        // Where no rank is announced as such, `q` keeps somebody quiet.
        ':x MODE #oddmere +o Ines',
        ':x MODE #oddmere +q Ines',
        ':x MODE #oddmere +b Wren',
        ':Wren!w@h PRIVMSG +#oddmere :!plus',
        ':Wren!w@h PRIVMSG @#oddmere :!count',
        ':Wren!w@h PRIVMSG ~#oddmere :!tilde',
      ])
        socket.write(`${line}\r\n`);
      socket.write('PING :over\r\n');
    });
    await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
    const { port } = server.address() as { port: number };
    const heard: { text: string | undefined; channel: string | undefined; heardBy: string | undefined }[] = [];
    const modes = { q: { rank: 50 }, o: { rank: 30 }, v: { rank: 10 }, b: { rank: 90 } };
    const platform = irc({ host: '127.0.0.1', port, nick: 'Mallet', channels: ['#oddmere'], modes, log: silentLog });
    const serving = platform.serve({
      handle: async ({ text, place }) => {
        const isGuild = place.kind === 'guild';
        heard.push({
          text,
          channel: isGuild ? place.channel.id : undefined,
          heardBy: isGuild ? place.heardBy : undefined,
        });
        return { status: 'ignored', because: 'chat' };
      },
    });
    const { directory } = platform;
    const guild = { id: '#oddmere', name: '#oddmere' };
    await until(
      () => (directory.membersNamed(guild, 'ines') as readonly Member[])[0]?.rank === rank,
      'the ranks are told',
    );
    await new Promise((resolve) => setTimeout(resolve, 100));
    expect((directory.membersNamed(guild, 'wren') as readonly Member[])[0]?.rank).toBe(0);
    expect(heard).toEqual(expected.map((text) => ({ text, channel: '#oddmere', heardBy: '@' })));
    await platform.close();
    await Promise.allSettled([serving]);
    server.close();
  });

  test('that sends what no server sends: nothing is taken down', async () => {
    const mad = createServer((socket) => {
      socket.on('error', () => undefined).resume();
      socket.write(
        ':x 001 Mallet :hi\r\n:x 005 Mallet PREFIX=( CHANTYPES CASEMAPPING=what STATUSMSG= BOT :are\r\n:x 422 Mallet :no\r\n',
      );
      for (const line of [
        ':Mallet JOIN',
        ':Mallet JOIN #oddmere',
        ':x 353',
        ':x 353 Mallet = #oddmere :@@@ @ +',
        ':x 366 Mallet #oddmere :end',
        ':x 352 Mallet #oddmere',
        ':x 354 Mallet 1',
        ':x 315 Mallet #oddmere :end',
        'MODE',
        ':x MODE #oddmere +ooo',
        ':x MODE #oddmere -+-+',
        'KICK #oddmere',
        ':a!b@c PRIVMSG',
        ':a!b@c PRIVMSG #oddmere',
        ':a!b@c PRIVMSG #oddmere :!count',
        '@time=never;msgid=;batch=zz :a!b@c PRIVMSG #oddmere :!count',
        ':!@ PRIVMSG #oddmere :!count',
        'NICK',
        ':Mallet NICK',
        'PONG',
        ':x 433',
        'ACCOUNT',
        ':x 900',
        '\u0000\u0001\u0002',
        `:${'x'.repeat(100_000)} PRIVMSG #oddmere :!count`,
      ])
        socket.write(`${line}\r\n`);
    });
    await new Promise<void>((resolve) => mad.listen(0, '127.0.0.1', resolve));
    const { port } = mad.address() as { port: number };
    const platform = irc({ host: '127.0.0.1', port, nick: 'Mallet', channels: ['#oddmere'], log: silentLog });
    const heard: string[] = [];
    const serving = platform.serve({
      handle: async ({ text = '' }) => {
        heard.push(text);
        return { status: 'ignored', because: 'chat' };
      },
    });
    leaving.push(
      () => new Promise((resolve) => mad.close(resolve)),
      () => platform.close(),
    );
    serving.catch(() => undefined);
    await until(() => heard.length >= 2, 'what is a message is heard');
    expect(platform.state().link).toBe('connected');
  });
});
