import { arg, command, guildSettings, type Log } from 'taxeon';
import { askInChat } from 'taxeon/asking';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { silentLog } from '../../../../test/support/oddmere.js';
import { isMissing, until } from '../../../../test/support/programs.js';
import { type Ircv3Server, startIrcv3Server } from '../support/inspircd.js';
import { joinAs } from '../support/ngircd.js';
import { counting, ircStage, jot, passingTo, slow } from '../support/stage.js';

describe.skipIf(isMissing('inspircd'))('on an IRC network whose server tells more', () => {
  let server: Ircv3Server;
  beforeAll(async () => {
    server = await startIrcv3Server();
  });
  afterAll(() => server.stop());
  const { person, bot, leaving } = ircStage(() => server);

  test('what is played back of a time before the bot came runs nothing', async () => {
    const ines = await person('Ines', '#history');
    ines.setMode('+H', '50:1h');
    const { calls, command: count } = counting();
    ines.type('!count');
    ines.type('!count');
    await bot(['#history'], [count]);
    ines.type('!count');
    expect(await ines.heard('Mallet')).toBe('Ines: 1 so far');
    expect(calls).toHaveLength(1);
    // The server's own id for the message is the event's.
    expect(calls[0]).toMatch(/\S{8,}/);
  });

  test('one bot does not command another through what somebody has it say', async () => {
    const ines = await person('Ines', '#bots');
    const { calls, command: count } = counting();
    await bot(['#bots'], [jot]);
    await bot(['#bots'], [count], { nick: 'Anvil', name: 'other' });
    ines.type('!jot !count');
    expect(await ines.heard('Mallet')).toBe('Ines: !count');
    ines.type('!count');
    expect(await ines.heard('Anvil')).toBe('Ines: 1 so far');
    expect(calls).toHaveLength(1);
  });

  test.each(['notice', 'message'] as const)('no line begins with what somebody typed, by %s', async (answersBy) => {
    const channel = `#lines-${answersBy}`;
    const ines = await person('Ines', channel);
    const { calls, command: count } = counting();
    await bot([channel], [jot], { answersBy });
    await bot([channel], [count], { nick: 'Anvil', name: 'other' });
    ines.type('!jot "!count');
    expect(await ines.heard('Mallet')).toBe('Ines: "!count');
    ines.type('!jot x');
    await ines.heard('Mallet');
    expect(calls).toEqual([]);
  });

  test('no part of a long line begins with what somebody typed', async () => {
    const ines = await person('Ines', '#long');
    const { command: count } = counting();
    const chant = command({
      name: 'chant',
      description: 'Say it again and again',
      args: { text: arg.tail() },
      run: ({ args }) => `${args.text} `.repeat(40).trim(),
    });
    await bot(['#long'], [chant, count]);
    for (const fill of ['ж', 'x', '🔨']) {
      ines.type(`!chant ${fill.repeat(5)} !count`);
      await until(() => ines.all().some((line) => line.startsWith('· ')), 'the second part comes');
      for (const line of ines.all()) {
        expect(line).toMatch(/^(?:Ines: |· )/);
        expect(Buffer.byteLength(line)).toBeLessThan(400);
      }
      while (ines.all().length > 0) await ines.heard('Mallet');
    }
  });

  test('what is asked is answered by the next message, with the bot’s name in front or without', async () => {
    const ines = await person('Ines', '#asking');
    const wren = await person('Wren', '#asking');
    const lend = command({
      name: 'lend',
      description: 'Lend a tool',
      whenMissing: 'ask',
      args: { tool: arg.text(), days: arg.integer({ max: 14 }) },
      confirm: ({ tool, days }) => `The ${tool}, for ${days} days?`,
      run: ({ args }) => `The ${args.tool} is lent.`,
    });
    await bot(['#asking'], [lend], {}, { asking: askInChat() });
    const says = async (text: string) => {
      ines.type(text);
      return ines.heard('Mallet');
    };
    expect(await says('!lend')).toBe('Ines: I still need “tool”: some text.');
    expect(await ines.heard('Mallet')).toContain('Just type it within 1 minute. “stop” ends this.');
    wren.type('ladder');
    expect(await says('Mallet: angle grinder')).toContain('I still need “days”');
    await ines.heard('Mallet');
    expect(await says('20')).toContain('“20” is too much');
    await ines.heard('Mallet');
    expect(await says('3')).toBe('Ines: The angle grinder, for 3 days?');
    await ines.heard('Mallet');
    expect(await says('yes')).toBe('Ines: The angle grinder is lent.');
  });

  test('guests behind one address are answered one by one; nobody is told, asked or acted upon in place of another', async () => {
    const channel = '#shed';
    const [ines, wren, pim, tobias] = await Promise.all([
      person('Ines', channel),
      ...['Wren', 'Pim', 'Tobias'].map((nick) => person(nick, channel, 'shed')),
    ]);
    const { finish, command: secret } = slow('pin', { visibleTo: 'caller' });
    const remind = command({
      name: 'remind',
      description: 'Remind somebody',
      args: { who: arg.member({ orBot: true }) },
      run: async ({ args, tell }) => tell(args.who, 'The drill is late.'),
    });
    const debar = command({
      name: 'debar',
      description: 'Debar somebody',
      args: { who: arg.member() },
      requires: ({ caller }) => [caller.outranks('who', { orSelf: true })],
      run: ({ args }) => `${args.who.name} is debarred.`,
    });
    const lend = command({
      name: 'lend',
      description: 'Lend a tool',
      whenMissing: 'ask',
      args: { tool: arg.text() },
      run: ({ args }) => `The ${args.tool} is lent.`,
    });
    await bot([channel], [remind, debar, lend, secret], {}, { asking: askInChat() });
    ines?.type('!remind pim');
    expect(await ines?.heard('Mallet')).toBe('Ines: unreachable');
    // One of them ranks above the others, who are not the same person.
    for (const by of [ines, tobias]) {
      by?.forget();
      by?.type('!debar wren');
      expect(await by?.heard('Mallet')).toContain('Several people here could be W');
    }
    wren?.forget();
    wren?.type('!lend');
    expect(await wren?.heard('Mallet')).toContain('“tool” is missing');
    await until(() => wren?.all().some((line) => line.includes('Usage')) === true, 'the second line comes');
    for (const one of [ines, wren, pim, tobias]) one?.forget();
    wren?.type('!pin');
    await until(() => finish.length === 1, 'it runs');
    await wren?.rename('Bird');
    await pim?.rename('Wren');
    finish[0]?.('Your PIN is 4711.');
    expect(await wren?.heard('Mallet')).toBe('Your PIN is 4711.');
    expect([...(pim?.all() ?? []), ...(tobias?.all() ?? [])].join()).not.toContain('4711');
  });

  test('somebody who is gone is not told, and that is told at once', async () => {
    const ines = await person('Ines', '#gone');
    const wren = await joinAs('Wren', server.peoplePort ?? server.port, '#gone');
    const later: (() => void)[] = [];
    const remind = command({
      name: 'remind',
      description: 'Remind somebody',
      args: { who: arg.member() },
      async run({ args, tell }) {
        await new Promise<void>((resolve) => void later.push(resolve));
        const began = performance.now();
        return `${await tell(args.who, 'The drill is late.')} ${performance.now() - began < 3000}`;
      },
    });
    await bot(['#gone'], [remind]);
    ines.type('!remind wren');
    await until(() => later.length === 1, 'it runs');
    await wren.leave();
    await new Promise((resolve) => setTimeout(resolve, 200));
    later[0]?.();
    expect(await ines.heard('Mallet')).toBe('Ines: unreachable true');
  });

  test('what is said to the operators alone is answered to them alone, and said in the same channel', async () => {
    const ines = await person('Ines', '#operators');
    const wren = await person('Wren', '#operators');
    const { command: count } = counting();
    const once = command({
      name: 'once',
      description: 'Once in an hour',
      cooldowns: { channel: '1h' },
      run: ({ channel }) => `in ${channel?.id}`,
    });
    const off = command({ name: 'den', description: 'Nothing here', run: () => 'Open.' });
    const settings = guildSettings({
      guilds: { 'irc/#operators': { rules: [{ command: 'den', channel: '#operators', verdict: 'deny' }] } },
      log: silentLog,
    });
    await bot(['#operators'], [count, once, off], {}, { settings });
    ines.setMode('+o', 'Mallet');
    ines.whisper('@#operators', '!count');
    expect(await ines.heard('Mallet')).toBe('Ines: 1 so far');
    wren.type('!count');
    expect(await wren.heard('Mallet')).toBe('Wren: 2 so far');
    ines.forget();
    ines.whisper('@#operators', '!once');
    expect(await ines.heard('Mallet')).toBe('Ines: in #operators');
    for (const line of ['!once', '!den']) {
      ines.forget();
      ines.whisper('@#operators', line);
      expect(await ines.heard('Mallet')).toMatch(line === '!once' ? /Not yet/ : /not allowed/);
    }
    wren.forget();
    wren.type('!once');
    expect(await wren.heard('Mallet')).toMatch(/Not yet/);
  });

  test.each(['#private', '#nobody'])(
    'a private answer reaches the same person under another nick, and never who has the old one: in %s',
    async (channel) => {
      const { finish, command: later } = slow();
      const wren = await person('Wren', '#private');
      await bot([channel], [later]);
      wren.whisper('Mallet', '!slow');
      await until(() => finish.length === 1, 'the handler runs');
      const tobias = await person('Tobias', '#private');
      await wren.rename('Wren2');
      await tobias.rename('Wren');
      finish[0]?.('for you alone');
      // Who shares no channel with the bot cannot be found under another nick.
      if (channel === '#private') expect(await wren.heard('Mallet')).toBe('for you alone');
      else await new Promise((resolve) => setTimeout(resolve, 200));
      expect(tobias.all()).toEqual([]);
    },
  );

  test('colours are no part of a line', async () => {
    const ines = await person('Ines', '#colours');
    await bot(['#colours'], [jot]);
    ines.type('\x0304!jot\x03 \x02bold\x02 and \x1d\x0312,4blue\x0f');
    expect(await ines.heard('Mallet')).toBe('Ines: bold and blue');
  });

  describe('a bot in two channels', () => {
    async function inTwo(first: string, second: string) {
      const ines = await person('Ines', first);
      const wren = await person('Wren', second);
      const warned: [message: string, channel: unknown][] = [];
      const log: Log = { error: () => undefined, warn: ({ channel }, message) => void warned.push([message, channel]) };
      const { command: count } = counting();
      const begin = () => bot([first, second], [count], { log });
      return { ines, wren, warned, begin };
    }
    const out = 'The bot is not in an IRC channel that it wants';
    const back = 'The bot is in an IRC channel again';

    test('comes back to one that it was put out of, and goes on in the other', async () => {
      const { ines, wren, warned, begin } = await inTwo('#kicked', '#other');
      await begin();
      ines.kick('Mallet');
      wren.type('!count');
      expect(await wren.heard('Mallet')).toBe('Wren: 1 so far');
      await until(() => warned.length === 2, 'the bot is back');
      expect(warned).toEqual([
        [out, '#kicked'],
        [back, '#kicked'],
      ]);
      ines.type('!count');
      expect(await ines.heard('Mallet')).toBe('Ines: 2 so far');
    });

    test('serves one while the other is shut, and comes in once it is open', async () => {
      const { ines, wren, warned, begin } = await inTwo('#shut', '#open');
      ines.setMode('+b', 'Mallet!*@*');
      const { platform } = await begin();
      wren.type('!count');
      expect(await wren.heard('Mallet')).toBe('Wren: 1 so far');
      expect(warned[0]).toEqual([out, '#shut']);
      expect(await platform.directory.self({ id: '#shut', name: '#shut' })).toBeUndefined();
      ines.setMode('-b', 'Mallet!*@*');
      await until(() => warned.some(([message]) => message === back), 'the bot is in');
      ines.type('!count');
      expect(await ines.heard('Mallet')).toBe('Ines: 2 so far');
    });

    test('is there and says why, where it gets into none', async () => {
      const { ines, wren, begin } = await inTwo('#shut1', '#shut2');
      for (const one of [ines, wren]) one.setMode('+b', 'Mallet!*@*');
      const { platform } = await begin();
      const why = expect.stringMatching(/banned/i);
      expect(platform.state()).toMatchObject({
        link: 'connected',
        nick: 'Mallet',
        channels: [
          { name: '#shut1', status: expect.stringMatching(/shut|joining/), why },
          { name: '#shut2', status: expect.stringMatching(/shut|joining/), why },
        ],
      });
    });
  });

  test('a nick that somebody has is taken once it is free', async () => {
    const ines = await person('Ines', '#nicks');
    const other = await joinAs('Mallet', server.port, '#nicks');
    const { command: count } = counting();
    await bot(['#nicks'], [count]);
    ines.type('!count');
    expect(await ines.heard('Mallet_')).toBe('Ines: 1 so far');
    await other.leave();
    await until(async () => {
      ines.type('!count');
      await until(() => ines.all().length > 0, 'the bot answers');
      return ines.from().includes('Mallet');
    }, 'the bot is called Mallet');
  });

  test('a link that passes nothing any more is noticed and made anew', async () => {
    const through = await passingTo(server.port);
    leaving.push(through.stop);
    const ines = await person('Ines', '#dead');
    const { command: count } = counting();
    const warned: string[] = [];
    const log: Log = { error: () => undefined, warn: (_, message) => void warned.push(message) };
    await bot(['#dead'], [count], { port: through.port, silence: '3s', log });
    ines.type('!count');
    expect(await ines.heard('Mallet')).toBe('Ines: 1 so far');
    through.pause();
    await until(() => warned.includes('The IRC connection was lost; reconnecting'), 'the loss is noticed');
    await until(() => warned.includes('The IRC connection is back'), 'the bot is back');
    ines.type('!count');
    // The server knows the old nick for a while.
    await until(() => ines.all().includes('Ines: 2 so far'), 'the bot answers');
  });
});
