import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { irc } from '@taxeon/irc';
import { arg, command } from 'taxeon';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { silentLog } from '../../../../test/support/oddmere.js';
import { isMissing, until } from '../../../../test/support/programs.js';
import { type Ircv3Server, makeCertificate, startIrcv3Server } from '../support/inspircd.js';
import { type IrcPerson, joinAs } from '../support/ngircd.js';
import { describeIrcTrials } from '../support/probe.js';
import { counting, ircStage } from '../support/stage.js';

describe.skipIf(isMissing('inspircd') || isMissing('anope'))('on an IRC network with services', () => {
  let server: Ircv3Server;
  beforeAll(async () => {
    server = await startIrcv3Server({ services: true, tls: true });
  });
  afterAll(() => server.stop());
  const { person, bot, leaving } = ircStage(() => server);

  /** Logs in to an account of their nick's name, which is made where there is none. */
  async function withAccount(nick: string, channel: string): Promise<IrcPerson> {
    const one = await person(nick, channel);
    await identified(one);
    return one;
  }

  async function identified(one: IrcPerson): Promise<void> {
    await until(async () => {
      one.whisper('NickServ', 'REGISTER hammer-and-nails');
      one.whisper('NickServ', 'IDENTIFY hammer-and-nails');
      await new Promise((resolve) => setTimeout(resolve, 300));
      return one.account() !== undefined;
    }, `${one.nick} is logged in`);
  }

  const who = command({
    name: 'who',
    description: 'Who one is',
    args: { whom: arg.member({ optional: true }) },
    run: ({ caller, args }) => `${(args.whom ?? caller).id}`,
  });
  const own = command({
    name: 'own',
    description: 'For those who run the bot',
    requires: ({ caller }) => [caller.ownsBot()],
    run: () => 'at your service',
  });

  test('who somebody is follows their account, as they log in and out', async () => {
    const ines = await withAccount('Ines', '#accounts');
    const pim = await person('Pim', '#accounts');
    await bot(['#accounts'], [who, own], { identity: 'account' }, { owners: ['irc/Ines'] });
    const answer = async (from: IrcPerson, line: string) => {
      from.type(line);
      let said = '';
      while (!said.startsWith(`${from.nick}: `)) said = await from.heard('Mallet');
      // Without what keeps nicks from ringing.
      return said.replaceAll('\u2060', '');
    };
    // Known since the bot came in, before they said anything.
    expect(await answer(pim, '!who Ines')).toBe('Pim: Ines');
    expect(await answer(pim, '!who')).toBe('Pim: guest pim@127.0.0.1');
    expect(await answer(ines, '!own')).toMatch('Ines: at your service');
    ines.whisper('NickServ', 'LOGOUT');
    await until(() => ines.account() === undefined, 'Ines is logged out');
    while (ines.all().length > 0) await ines.heard(ines.from()[0] ?? '');
    expect(await answer(ines, '!own')).toBe('Ines: × That is only for the bot’s owners.');
    expect(await answer(pim, '!who Ines')).toMatch(/^Pim: guest /);
    ines.whisper('NickServ', 'IDENTIFY hammer-and-nails');
    await until(() => ines.account() !== undefined, 'Ines is logged in again');
    await until(async () => (await answer(pim, '!who Ines')) === 'Pim: Ines', 'the bot knows');
    // The nick alone proves nothing.
    await ines.rename('Ines2');
    await pim.rename('Ines');
    expect(await answer({ ...pim, nick: 'Ines' }, '!own')).toBe('Ines: × That is only for the bot’s owners.');
  });

  test('an account is not taken for a nick, nor user@host that is not verified for an owner', async () => {
    const wren = await person('Wren', '#guests');
    const owners = ['irc/wren@127.0.0.1', 'irc/~wren@127.0.0.1', 'irc/guest ~wren@127.0.0.1'] as const;
    for (const identity of ['account', 'user@host'] as const) {
      const { platform, layer } = await bot(['#guests'], [who, own], { identity, username: 'mallet' }, { owners });
      const { id } = (await platform.directory.bot()) ?? { id: '' };
      expect(id).not.toBe('');
      wren.type('!own');
      // inspircd verifies nobody here, and says so only where it asks for it: then there is a sign.
      const said = await wren.heard('Mallet');
      const isVerified = !(
        await platform.directory.membersNamed({ id: '#guests', name: '#guests' }, 'Wren')
      )[0]?.id.includes('~');
      expect(said).toBe(
        identity === 'user@host' && isVerified ? 'Wren: at your service' : 'Wren: × That is only for the bot’s owners.',
      );
      await layer.close();
      await platform.close();
    }
  });

  test.each(['plain', 'nickserv'] as const)('the bot logs in to its own account, by %s', async (by) => {
    await (await withAccount('Mallet', '#login')).leave();
    const { command: count } = counting();
    const login =
      by === 'plain'
        ? ({ by, account: 'Mallet', password: 'hammer-and-nails' } as const)
        : ({ by, password: 'hammer-and-nails' } as const);
    const { platform } = await bot(['#login'], [count], { login });
    expect(platform.state()).toMatchObject({ link: 'connected', account: 'Mallet' });
    if (by !== 'plain') return;
    const refused = irc({
      host: '127.0.0.1',
      port: server.port,
      nick: 'Anvil',
      channels: ['#login'],
      login: { by, account: 'Mallet', password: 'chisel-secret' },
      log: silentLog,
    });
    leaving.push(() => refused.close());
    await expect(refused.serve({ handle: () => Promise.reject(new Error('unused')) })).rejects.toMatchObject({
      code: 'platform.forbidden',
      message: expect.stringMatching(/: logging in failed: SASL/),
    });
  });

  test('the bot proves itself by a certificate, and trusts no server whose certificate nobody has signed', async () => {
    const folder = mkdtempSync(join(tmpdir(), 'oddmere-certificate-'));
    leaving.push(async () => rmSync(folder, { recursive: true }));
    const own = makeCertificate(folder);
    const login = { by: 'certificate', ...own } as const;
    const at = { host: '127.0.0.1', port: server.tlsPort, nick: 'Gavel', channels: ['#certificate'], log: silentLog };
    const nothing = { handle: async () => ({ status: 'ignored', because: 'chat' }) as const };
    await expect(irc({ ...at, tls: true }).serve(nothing)).rejects.toMatchObject({
      code: 'platform.forbidden',
      message: expect.stringMatching(/self-signed|certificate/),
    });
    // The account learns the certificate from who holds it.
    const gavel = await joinAs('Gavel', server.tlsPort, '#certificate', own);
    await identified(gavel);
    gavel.whisper('NickServ', 'CERT ADD');
    await until(() => gavel.all().some((line) => /added/i.test(line)), 'the certificate is added');
    await gavel.leave();
    const platform = irc({ ...at, tls: { trustsAny: true }, login });
    const serving = await platform.serve(nothing);
    leaving.push(() => serving.close());
    expect(platform.state()).toMatchObject({ link: 'connected', account: 'Gavel' });
  });

  describeIrcTrials(() => server);

  test('people see that the bot is one', async () => {
    const ines = await person('Ines', '#bot-mode');
    const { command: count } = counting();
    await bot(['#bot-mode'], [count], { nick: 'Mallet' });
    ines.raw('WHOIS', 'Mallet');
    await until(() => ines.told().some((line) => / Mallet .*bot/i.test(line)), 'the server says so');
  });
});
