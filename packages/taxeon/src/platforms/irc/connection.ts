/** One bot's link to an IRC network: connects, joins, keeps the roster, and comes back after a loss. */
import framework, { type Client } from 'irc-framework';
import type { DeliveryCode } from '../../contract/codes.js';
import type { Log } from '../../contract/log.js';
import { PlatformError } from '../../contract/platform.js';
import { type Pauses, wantedChannels } from './channels.js';
import type { Presence, Roster } from './roster.js';

/** A NOTICE, which no bot may answer, or a message as people write them. */
export type AnswersBy = 'notice' | 'message';

export interface ConnectionOptions {
  readonly host: string;
  readonly port: number;
  readonly tls: boolean;
  readonly nick: string;
  readonly username: string;
  readonly password: string | undefined;
  readonly channels: readonly string[];
  readonly answersBy: AnswersBy;
  readonly pauses: Pauses;
  /** After how long without a sign of the server the link is dead, in milliseconds. */
  readonly silenceMs: number;
  readonly log: Log;
}

/** A message from somebody. */
export interface IrcMessage {
  readonly presence: Presence;
  /** The channel, or the bot's own nick for a direct message. */
  readonly target: string;
  /** The sign of those in the channel who see it, `@` for operators; `undefined` where all do. */
  readonly group?: string | undefined;
  readonly text: string;
  /** The server's own id for it, where it gives one. */
  readonly id?: string | undefined;
  /** The server says that a bot sent it. */
  readonly isBot?: boolean;
}

export interface Connection {
  /** Says lines, at once or as soon as the connection is back; rejects where it was closed for good. */
  say(target: string, lines: readonly string[]): Promise<void>;
  close(): Promise<void>;
}

interface Waiting {
  readonly target: string;
  readonly lines: readonly string[];
  done(): void;
  failed(error: PlatformError): void;
}

/** How long one attempt may take from the first packet to the last channel joined. */
const ATTEMPT_MS = 30_000;
const CLOSE_MS = 2_000;

/**
 * Connects and joins all channels.
 *
 * @throws PlatformError where the first attempt fails; later losses are mended by reconnecting.
 */
export async function connect(
  options: ConnectionOptions,
  roster: Roster,
  heard: (message: IrcMessage) => void,
): Promise<Connection> {
  const { pauses, log } = options;
  const waiting: Waiting[] = [];
  let current: Client | undefined;
  let retry: ReturnType<typeof setTimeout> | undefined;
  let closing = false;

  async function attempt(): Promise<void> {
    const client = await joinAll(options, roster, heard);
    if (closing) {
      client.quit();
      throw failure('platform.gone', options, 'it was closed');
    }
    current = client;
    client.once('close', lost);
    for (const { target, lines, done } of waiting.splice(0)) {
      sayLines(client, options.answersBy, target, lines);
      done();
    }
  }

  function lost(): void {
    current = undefined;
    if (closing) return;
    log.warn({ host: options.host }, 'The IRC connection was lost; reconnecting');
    again(pauses.firstMs);
  }

  function again(pauseMs: number): void {
    retry = setTimeout(() => {
      attempt().then(
        () => log.warn({ host: options.host }, 'The IRC connection is back'),
        (error) => {
          if (closing) return;
          const nextMs = Math.min(pauseMs * 2, pauses.mostMs);
          log.warn({ host: options.host, error, nextMs }, 'The IRC connection is not back yet');
          again(nextMs);
        },
      );
    }, pauseMs);
  }

  await attempt();
  return {
    say(target, lines) {
      if (current !== undefined) {
        sayLines(current, options.answersBy, target, lines);
        return Promise.resolve();
      }
      if (closing) return Promise.reject(failure('platform.gone', options, 'it was closed'));
      return new Promise((done, failed) => waiting.push({ target, lines, done, failed }));
    },
    async close() {
      closing = true;
      clearTimeout(retry);
      for (const { failed } of waiting.splice(0)) failed(failure('platform.gone', options, 'it was closed'));
      const client = current;
      if (client === undefined) return;
      const closed = new Promise<void>((resolve) => client.once('close', () => resolve()));
      client.quit();
      await Promise.race([closed, new Promise((resolve) => setTimeout(resolve, CLOSE_MS).unref())]);
    },
  };
}

/** What would end the line, or make it a request to the other side's client. */
const unsafe = /[\0\x01]/g;

function sayLines(client: Client, by: AnswersBy, target: string, lines: readonly string[]): void {
  for (const line of lines) {
    const text = line.replace(unsafe, '');
    if (by === 'notice') client.notice(target, text);
    else client.say(target, text);
  }
}

function failure(code: DeliveryCode, { host, port }: ConnectionOptions, why: string): PlatformError {
  return new PlatformError(code, `IRC at ${host}:${port}: ${why}`);
}

/**
 * A fresh client for each attempt, so that nothing of a broken one lives on. Resolves once of each channel it is known
 * whether the bot is in it, and who else is.
 */
function joinAll(options: ConnectionOptions, roster: Roster, heard: (message: IrcMessage) => void): Promise<Client> {
  const { nick, log } = options;
  const client = new framework.Client();

  return new Promise((resolve, reject) => {
    const fail = (why: string) => {
      clearTimeout(deadline);
      channels.stop();
      client.removeAllListeners('close');
      // Something may still arrive on the socket that is being closed.
      client.quit();
      reject(failure('platform.unreachable', options, why));
    };
    // A channel that does not answer costs none of the others.
    const deadline = setTimeout(() => (isRegistered ? channels.giveUp() : fail('no answer in time')), ATTEMPT_MS);
    const channels = wantedChannels(client, options, (whyNone) => {
      if (whyNone !== undefined) return fail(whyNone);
      clearTimeout(deadline);
      client.removeListener('close', onClose);
      client.once('close', channels.stop);
      resolve(client);
    });
    const onClose = () => fail(lastError ?? 'the connection was refused or closed');
    let lastError: string | undefined;
    let isRegistered = false;
    takeBackNick(client, nick, log);

    client.on('close', onClose);
    client.on('irc error', ({ error, reason, channel }: { error: string; reason?: string; channel?: string }) => {
      lastError = [error, channel, reason].filter((part) => part !== undefined).join(', ');
      if (channel !== undefined && joinErrors.has(error)) channels.shut(channel, reason ?? error);
    });
    // Some refusals to join, "no such channel" among them, come as numerics that the client has no name for.
    client.on('unknown command', ({ command, params = [] }: { command: string; params?: readonly string[] }) => {
      const channel = joinNumerics.has(command) ? params.find(channels.isWanted) : undefined;
      if (channel !== undefined) channels.shut(channel, params.at(-1) ?? command);
    });
    client.on('socket close', (error?: Error | string | boolean) => {
      if (error instanceof Error) lastError = error.message;
    });
    client.on('nick in use', () => {
      // What was to be taken back is taken still.
      if (isRegistered) return;
      const other = `${client.user.nick}_`;
      log.warn({ nick: client.user.nick, other }, 'The nick is taken; trying another');
      client.user.nick = other;
      client.changeNick(other);
    });
    client.on('registered', () => {
      isRegistered = true;
      roster.clear(client.user.nick);
      channels.joinAll();
    });
    client.on('wholist', ({ target, users }: { target: string; users: WhoUser[] }) => {
      for (const user of users) roster.listed(target, presenceOf(user));
      channels.entered(target);
    });
    client.on('kick', ({ channel, kicked, nick: by, message }: Kicked) => {
      if (kicked.toLowerCase() === client.user.nick.toLowerCase())
        channels.shut(channel, `put out by ${by}${message === undefined ? '' : `: ${message}`}`);
    });
    follow(client, roster, heard);
    client.connect({
      host: options.host,
      port: options.port,
      tls: options.tls,
      nick,
      username: options.username,
      gecos: nick,
      ...(options.password === undefined ? {} : { password: options.password }),
      auto_reconnect: false,
      // Lines come in parts that fit.
      message_max_length: 400,
      // The server is asked twice before it is given up.
      ping_interval: options.silenceMs / 2500,
      ping_timeout: options.silenceMs / 1000,
      version: null,
    });
  });
}

/** Takes the nick that is wanted once nobody has it any more. */
function takeBackNick(client: Client, wanted: string, log: Log): void {
  const isWanted = (nick: string) => nick.toLowerCase() === wanted.toLowerCase();
  const tryIt = () => {
    if (!isWanted(client.user.nick)) client.changeNick(wanted);
  };
  const timer = setInterval(tryIt, TAKE_BACK_MS);
  timer.unref();
  client.once('close', () => clearInterval(timer));
  client.on('quit', ({ nick }: WhoUser) => isWanted(nick) && tryIt());
  client.on('nick', ({ nick, new_nick }: { nick: string; new_nick: string }) => {
    if (isWanted(nick)) tryIt();
    else if (isWanted(new_nick) && isWanted(client.user.nick)) log.warn({ nick: wanted }, 'The bot has its nick again');
  });
}

/** Where nobody shares a channel with who has it, it is not told when it is free. */
const TAKE_BACK_MS = 60_000;

/** As the client names the numerics by which a channel does not let somebody in. */
const joinErrors = new Set([
  'no_such_channel',
  'too_many_channels',
  'channel_is_full',
  'invite_only_channel',
  'banned_from_channel',
  'bad_channel_key',
]);
/** Those that it has no name for: no such channel, unavailable, a bad name, only with an account or TLS. */
const joinNumerics = new Set(['403', '437', '476', '477', '479', '489', '520']);

interface Kicked extends WhoUser {
  readonly channel: string;
  readonly kicked: string;
  readonly message?: string;
}

interface WhoUser {
  readonly nick: string;
  readonly ident?: string;
  readonly hostname?: string;
  readonly account?: string | false;
}

interface ChannelEvent extends WhoUser {
  readonly channel: string;
}

/** Keeps the roster as people come, go and change, and passes messages on. */
function follow(client: Client, roster: Roster, heard: (message: IrcMessage) => void): void {
  const isSelf = (nick: string) => nick.toLowerCase() === client.user.nick.toLowerCase();
  /** When the bot came into each channel, by the server's clock. */
  const cameAt = new Map<string, number>();
  client.on('join', (event: ChannelEvent & { time?: number }) => {
    if (isSelf(event.nick)) roster.forget(event.channel);
    roster.joined(event.channel, presenceOf(event));
    if (!isSelf(event.nick)) return;
    if (event.time !== undefined) cameAt.set(event.channel.toLowerCase(), event.time);
    client.who(event.channel);
  });
  client.on('userlist', ({ channel, users }: { channel: string; users: (WhoUser & { modes: string[] })[] }) => {
    for (const user of users) roster.listed(channel, presenceOf(user), user.modes);
  });
  const gone = (channel: string, nick: string) => (isSelf(nick) ? roster.forget(channel) : roster.left(channel, nick));
  client.on('part', ({ channel, nick }: ChannelEvent) => gone(channel, nick));
  client.on('kick', ({ channel, kicked }: ChannelEvent & { kicked: string }) => gone(channel, kicked));
  client.on('quit', ({ nick }: WhoUser) => roster.quit(nick));
  client.on('nick', ({ nick, new_nick }: { nick: string; new_nick: string }) => roster.renamed(nick, new_nick));
  client.on('account', ({ nick, account }: { nick: string; account: string | false }) =>
    roster.identified(nick, account),
  );
  client.on('mode', ({ target, modes }: { target: string; modes: { mode: string; param?: string }[] }) => {
    for (const { mode, param } of modes) {
      if (param !== undefined && mode[1] !== undefined) roster.mode(target, param, mode[1], mode.startsWith('+'));
    }
  });
  client.on('privmsg', (event: Said) => {
    const { nick, batch, time, message, tags = {} } = event;
    // What was said before the bot came is played back in a batch, or bears the time of then.
    if (event.from_server || isSelf(nick) || batch !== undefined) return;
    const { target, group } = withoutGroup(event);
    if (time !== undefined && time < (cameAt.get(target.toLowerCase()) ?? time)) return;
    const isBot = botTags.some((tag) => tag in tags);
    heard({ presence: presenceOf(event), target, group, text: message, id: tags['msgid'] || undefined, isBot });
  });
}

interface Said extends WhoUser {
  readonly target: string;
  /** The sign in front of the target, where the server says which there are. */
  readonly group?: string;
  readonly message: string;
  readonly from_server: boolean;
  readonly tags?: Readonly<Record<string, string>>;
  /** In milliseconds since 1970-01-01 UTC. */
  readonly time?: number;
  readonly batch?: object;
}

/** As servers mark what a bot says: IRCv3, and what came before it. */
const botTags = ['bot', 'draft/bot', 'inspircd.org/bot'];

/** `@#oddmere` is the channel's operators. */
function withoutGroup({ target, group }: Said): { target: string; group: string | undefined } {
  if (group !== undefined) return { target, group };
  const [, sign, channel] = /^([~&@%+])(#.*)$/.exec(target) ?? [];
  return channel === undefined ? { target, group: undefined } : { target: channel, group: sign };
}

function presenceOf({ nick, ident, hostname, account }: WhoUser): Presence {
  return { nick, user: ident || undefined, host: hostname || undefined, account };
}
