/** A real IRC server on a loopback port, and people who talk on it. */
import { chmodSync, mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import framework, { type Client } from 'irc-framework';
import { findProgram, freePort, listening, type Started, start, until } from '../../../../test/support/programs.js';

export interface IrcServer {
  readonly port: number;
  stop(): Promise<void>;
  /** Starts again on the same port. */
  restart(): Promise<void>;
}

export interface IrcServerOptions {
  readonly port?: number;
  readonly password?: string;
}

const config = (folder: string, port: number, password = '') => `[Global]
	Name = irc.test.local
	Info = loopback test server
	Network = TestNet
	AdminInfo1 = test
	AdminEMail = test@localhost.invalid
	Listen = 127.0.0.1
	Ports = ${port}
	MotdPhrase = The library is open
	MotdFile =
	Password = ${password}
	HelpFile =
[Limits]
	MaxNickLength = 24
	MaxConnections = 0
	MaxConnectionsIP = 0
	MaxJoins = 0
	MaxPenaltyTime = 0
	PingTimeout = 5
	PongTimeout = 5
[Options]
	Ident = no
	DNS = no
	PAM = no
	SyslogFacility = local1
	IncludeDir = ${folder}/empty
`;

export async function startIrcServer(options: IrcServerOptions = {}): Promise<IrcServer> {
  const folder = mkdtempSync(join(tmpdir(), 'oddmere-irc-'));
  // The server drops root's rights before it reads its file.
  chmodSync(folder, 0o755);
  mkdirSync(join(folder, 'empty'));
  const port = options.port ?? (await freePort());
  const file = join(folder, 'ngircd.conf');
  writeFileSync(file, config(folder, port, options.password), { mode: 0o644 });
  const program = findProgram('ngircd') ?? 'ngircd';
  let started: Started;
  const begin = async () => {
    started = start(program, ['-n', '-f', file]);
    await listening(port);
  };
  await begin();
  return {
    port,
    async stop() {
      await started.end();
      rmSync(folder, { recursive: true, force: true });
    },
    async restart() {
      await started.end();
      await begin();
    },
  };
}

/** Somebody in a channel who types lines and reads what appears. */
export interface IrcPerson {
  readonly nick: string;
  type(line: string): void;
  /** Types to one nick alone. */
  whisper(nick: string, line: string): void;
  setMode(mode: string, whom?: string): void;
  raw(...parts: string[]): void;
  kick(nick: string): void;
  /** The next line from `nick`; where it is named, of those to a channel, or to a nick alone. */
  heard(nick: string, target?: string): Promise<string>;
  /** Resolves once the server says so. */
  rename(nick: string): Promise<void>;
  /** Leaves out what was said until now. */
  forget(): void;
  /** All lines that nobody has asked for yet. */
  all(): readonly string[];
  /** The account that they are logged in to. */
  account(): string | undefined;
  /** The latest lines of the server's, as they came. */
  told(): readonly string[];
  /** Who has said them. */
  from(): readonly string[];
  leave(): Promise<void>;
}

/** @param tls a key and a certificate of their own */
export async function joinAs(
  nick: string,
  port: number,
  channel: string,
  tls?: { readonly key: string; readonly certificate: string },
  username = nick.toLowerCase(),
): Promise<IrcPerson> {
  const client: Client = new framework.Client();
  const lines: { nick: string; target: string; message: string }[] = [];
  let joined = false;
  let account: string | undefined;
  const told: string[] = [];
  client.on('raw', ({ line, from_server }: { line: string; from_server: boolean }) => {
    if (from_server) told.push(line);
    if (told.length > 100) told.shift();
  });
  client.on('loggedin', (event: { account: string }) => {
    account = event.account;
  });
  client.on('loggedout', () => {
    account = undefined;
  });
  client.on('registered', () => client.join(channel));
  client.on('userlist', () => {
    joined = true;
  });
  for (const said of ['privmsg', 'notice'])
    client.on(said, (line: { nick: string; target: string; message: string }) => void lines.push(line));
  client.connect({
    host: '127.0.0.1',
    port,
    tls: tls !== undefined,
    rejectUnauthorized: false,
    ...(tls === undefined ? {} : { client_certificate: { private_key: tls.key, certificate: tls.certificate } }),
    nick,
    username,
    gecos: nick,
    account: {},
    auto_reconnect: false,
    version: null,
  });
  await until(() => joined, `${nick} is in ${channel}`);
  return {
    nick,
    type: (line) => client.say(channel, line),
    whisper: (to, line) => client.say(to, line),
    setMode: (mode, whom) => client.raw('MODE', channel, mode, ...(whom === undefined ? [] : [whom])),
    raw: (...parts) => client.raw(...parts),
    async heard(from, target) {
      const isIt = (line: { nick: string; target: string }) =>
        line.nick === from && (target === undefined || line.target === target);
      await until(() => lines.some(isIt), `${from} says something to ${target ?? nick}`);
      const [line] = lines.splice(lines.findIndex(isIt), 1);
      return line?.message ?? '';
    },
    kick: (whom) => client.raw('KICK', channel, whom),
    async rename(other) {
      client.changeNick(other);
      await until(() => client.user.nick === other, `${nick} is called ${other}`);
    },
    all: () => lines.map(({ message }) => message),
    forget: () => void lines.splice(0),
    account: () => account,
    told: () => told,
    from: () => lines.map(({ nick: said }) => said),
    async leave() {
      if (!client.connected) return;
      const closed = new Promise((resolve) => client.once('close', resolve));
      client.quit();
      await closed;
    },
  };
}
