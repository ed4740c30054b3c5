/** One connection to a server, from its first packet to its last: logs in, joins, hears and says. */
import type { Socket } from 'node:net';
import framework, { type Client } from 'irc-framework';
import type { Log } from 'taxeon';
import { type DeliveryCode, PlatformError } from 'taxeon/platform';
import type { Channels, SendLine } from './channels.js';
import { followIrc } from './follow.js';
import type { IrcMessage } from './message.js';
import type { Login, Server } from './options.js';
import { createReceipts } from './receipts.js';
import type { Presence, Roster } from './roster.js';
import { listenForTroubles } from './server-errors.js';

export interface SessionParts {
  readonly server: Server;
  readonly roster: Roster;
  readonly channels: Channels;
  readonly log: Log;
  /** Waits until one more line may be sent. */
  turn(): Promise<void>;
  /** Ends the connection, or coming to one. */
  readonly signal: AbortSignal;
  heard(message: IrcMessage): void;
  /** The nick or the account has changed. */
  changed(): void;
}

export interface Session {
  readonly nick: string;
  readonly account: string | undefined;
  /** Whether the server sends back what was said, so that no ping need be sent behind it. */
  readonly echoes: boolean;
  /** Resolves with the reason once the connection is gone. */
  readonly ended: Promise<string>;
  /** Resolves once the server has taken the lines, and rejects where it refuses them or is lost. */
  say(target: string, lines: readonly string[]): Promise<void>;
  /** Who has a nick now. */
  whoIs(nick: string): Promise<Presence | undefined>;
  quit(): void;
}

/** What one step may take: to connect and register, to log in by a service, to tell who is in the channels. */
const REGISTER_MS = 30_000;
const SERVICE_MS = 5000;
const WHO_MS = 5000;

/**
 * Connects, logs in, and joins all channels.
 *
 * @param began is called with the session once it is registered
 * @throws PlatformError where it cannot register: `platform.forbidden` where it is never let in as it is configured
 */
export async function openSession(parts: SessionParts, began: (session: Session) => void): Promise<Session> {
  const { server, roster, channels, log } = parts;
  const client = new framework.Client();
  const fold = (name: string) => client.caseLower(name);
  const failure = (code: DeliveryCode, why: string, mayHaveArrived = false) =>
    new PlatformError(code, `IRC at ${server.host}:${server.port}: ${why}`, { mayHaveArrived });
  guard(client, log);
  const troubles = listenForTroubles(client, channels);
  const echoes = () => client.network.cap.isEnabled('echo-message');
  const receipts = createReceipts((token) => client.raw('PING', token), fold, echoes);
  const send: SendLine = async (...line) => {
    await parts.turn();
    client.raw(...line);
  };
  let account: string | undefined;

  const ended = new Promise<string>((resolve) =>
    client.once('close', () => resolve(troubles.last() ?? 'it was closed')),
  );
  void ended.then((why) => {
    channels.stop();
    // It may have arrived just before.
    receipts.lost(failure('platform.unreachable', why, true));
  });
  client.on('pong', ({ message }: { message: string }) => receipts.answered(message));
  for (const said of ['privmsg', 'notice'])
    client.on(said, ({ nick, target, group = '' }: { nick: string; target: string; group?: string }) => {
      if (fold(nick) === fold(client.user.nick)) receipts.echoed(`${group}${target}`);
    });
  troubles.onRefused((target, code, why) => receipts.refused(target, failure(code, why)));
  client.on('account', ({ nick, account: told }: { nick: string; account: string | false }) => {
    if (fold(nick) !== fold(client.user.nick)) return;
    account = told || undefined;
    parts.changed();
  });

  // A server may have the bot join as soon as it is registered.
  client.once('registered', () => roster.begin(client.user.nick, fold));
  const learned = followIrc(client, parts, send);
  client.connect(clientOptions(server));
  const end = () => leaveServer(client, server.lastWords);
  parts.signal.addEventListener('abort', end);
  void ended.then(() => parts.signal.removeEventListener('abort', end));
  await registered(client, ended, log).catch((error: Error) => {
    end();
    throw failure(troubles.isHopeless() ? 'platform.forbidden' : 'platform.unreachable', error.message);
  });
  takeBackNick(client, server.nick, log, parts.changed);
  const session: Session = {
    get nick() {
      return client.user.nick;
    },
    get account() {
      return account;
    },
    get echoes() {
      return echoes();
    },
    ended,
    say(target, lines) {
      const by = server.answersBy === 'notice' ? 'NOTICE' : 'PRIVMSG';
      for (const line of lines) client.raw(by, target, line);
      return receipts.sent(target, lines.length);
    },
    whoIs: (nick) => whoIs(client, nick, send),
    quit: end,
  };
  began(session);
  const botMode = client.network.supports('BOT');
  if (typeof botMode === 'string') await send('MODE', client.user.nick, `+${botMode}`);
  if (server.login?.by === 'nickserv') await identify(client, server.login, send, log);
  const gone = ended.then((why) => {
    throw failure('platform.unreachable', why);
  });
  await Promise.race([channels.joinAll(send), gone]);
  await answeredWithin(WHO_MS, Promise.race([learned(), gone]));
  return session;
}

/** What has no form that is known must take nothing down, and no line may fill the memory. */
function guard(client: Client, log: Log): void {
  const { connection } = client;
  const take = connection.addReadBuffer.bind(connection);
  connection.addReadBuffer = (line) => {
    try {
      take(line);
    } catch (error) {
      log.error({ line: line.slice(0, 200), error }, 'An IRC server sent what could not be taken');
    }
  };
  client.on('raw socket connected', (socket: Socket) => {
    let length = 0;
    socket.on('data', (data: Buffer) => {
      const end = data.lastIndexOf('\n');
      length = end < 0 ? length + data.length : data.length - end - 1;
      if (length > LONGEST_LINE_BYTES) socket.destroy(new Error('a line without an end'));
    });
  });
}

/** With tags, a line has 8,703 bytes. */
const LONGEST_LINE_BYTES = 100_000;

/** Says so, and does not wait long for the other side. */
function leaveServer(client: Client, lastWords: string | undefined): void {
  client.quit(lastWords);
  const timer = setTimeout(() => client.connection.end(null, true), LEAVE_MS);
  timer.unref();
  client.once('close', () => clearTimeout(timer));
}

const LEAVE_MS = 1000;

function clientOptions({ host, port, tls, nick, username, password, login, silenceMs }: Server) {
  const isSasl = login?.by === 'plain' || login?.by === 'certificate';
  return {
    host,
    port,
    tls: tls !== false,
    rejectUnauthorized: typeof tls !== 'object' || !tls.trustsAny,
    ...(login?.by === 'certificate'
      ? { client_certificate: { private_key: login.key, certificate: login.certificate } }
      : {}),
    nick,
    username,
    gecos: nick,
    ...(password === undefined ? {} : { password }),
    // Without this the client would try the server's password as an account's.
    account: login?.by === 'plain' ? { account: login.account, password: login.password } : {},
    ...(isSasl ? { sasl_mechanism: login.by === 'plain' ? ('PLAIN' as const) : ('EXTERNAL' as const) } : {}),
    sasl_disconnect_on_fail: true,
    enable_echomessage: true,
    auto_reconnect: false,
    // The server is asked twice before it is given up.
    ping_interval: silenceMs / 2500,
    ping_timeout: silenceMs / 1000,
    version: null,
  };
}

/** Resolves once the server has told all about itself. */
function registered(client: Client, ended: Promise<string>, log: Log): Promise<void> {
  return new Promise((resolve, reject) => {
    const deadline = setTimeout(() => reject(new Error('no answer in time')), REGISTER_MS);
    const end = () => clearTimeout(deadline);
    void ended.then((why) => {
      end();
      reject(new Error(why));
    });
    let tries = 0;
    const nickTaken = () => {
      const { nick } = client.user;
      tries += 1;
      // Where names are short, what is added may be cut off again.
      const other = tries <= 3 ? `${nick}_` : `${nick.slice(0, 6)}${Math.floor(Math.random() * 900) + 100}`;
      log.warn({ nick: client.user.nick, other }, 'The nick is taken; trying another');
      client.user.nick = other;
      client.changeNick(other);
    };
    client.on('nick in use', nickTaken);
    client.once('nick invalid', ({ nick, reason }: { nick: string; reason?: string }) =>
      reject(new Error(`the nick ${nick} is not taken: ${reason ?? 'it is not valid'}`)),
    );
    client.once('registered', () => {
      // Later, what was to be taken back is taken still.
      client.removeListener('nick in use', nickTaken);
      end();
      const told = setTimeout(resolve, SERVICE_MS);
      client.once('motd', () => {
        clearTimeout(told);
        resolve();
      });
    });
  });
}

interface Whois {
  readonly nick: string;
  readonly error?: string;
  readonly ident?: string;
  readonly hostname?: string;
  readonly account?: string;
}

async function whoIs(client: Client, nick: string, send: SendLine): Promise<Presence | undefined> {
  let take: (told: Whois) => void = () => undefined;
  const answer = new Promise<Presence | undefined>((resolve) => {
    take = (told) => {
      if (client.caseLower(told.nick) !== client.caseLower(nick)) return;
      const { error, ident: user, hostname: host, account = false } = told;
      resolve(error === undefined && user !== undefined ? { nick: told.nick, user, host, account } : undefined);
    };
  });
  client.on('whois', take);
  await send('WHOIS', nick);
  return answeredWithin(SERVICE_MS, answer).finally(() => client.removeListener('whois', take));
}

async function identify(
  client: Client,
  { account, password, service = 'NickServ' }: Extract<Login, { by: 'nickserv' }>,
  send: SendLine,
  log: Log,
): Promise<void> {
  const loggedIn = new Promise<void>((resolve) => client.once('loggedin', () => resolve()));
  await send('PRIVMSG', service, ['IDENTIFY', ...(account === undefined ? [] : [account]), password].join(' '));
  const isIn = await answeredWithin(
    SERVICE_MS,
    loggedIn.then(() => true),
  );
  if (isIn !== true) log.warn({ service }, 'The IRC service does not say that the bot is logged in');
}

/** Takes the nick that is wanted once nobody has it any more. */
function takeBackNick(client: Client, wanted: string, log: Log, changed: () => void): void {
  const isWanted = (nick: string) => client.caseLower(nick) === client.caseLower(wanted);
  const tryIt = () => {
    if (!isWanted(client.user.nick)) client.changeNick(wanted);
  };
  const timer = setInterval(tryIt, TAKE_BACK_MS);
  timer.unref();
  client.once('close', () => clearInterval(timer));
  client.on('quit', ({ nick }: { nick: string }) => isWanted(nick) && tryIt());
  client.on('nick', ({ nick, new_nick }: { nick: string; new_nick: string }) => {
    if (isWanted(nick)) tryIt();
    else if (isWanted(new_nick) && isWanted(client.user.nick)) log.warn({ nick: wanted }, 'The bot has its nick again');
    changed();
  });
}

/** Where nobody shares a channel with who has it, it is not told when it is free. */
const TAKE_BACK_MS = 60_000;

function answeredWithin<T>(ms: number, promise: Promise<T>): Promise<T | undefined> {
  let end = () => undefined as void;
  const late = new Promise<undefined>((resolve) => {
    const timer = setTimeout(resolve, ms);
    end = () => clearTimeout(timer);
  });
  return Promise.race([promise, late]).finally(() => end());
}
