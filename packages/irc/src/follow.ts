/** What happens on the network while the bot is there: who comes, goes and changes, and what is said. */
import type { Client } from 'irc-framework';
import type { Channels, SendLine } from './channels.js';
import type { IrcMessage } from './message.js';
import type { Presence, Roster } from './roster.js';

interface Following {
  readonly roster: Roster;
  readonly channels: Channels;
  heard(message: IrcMessage): void;
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

/**
 * Keeps the roster, and passes messages on.
 *
 * @returns resolves once the server has told who is in the channels that the bot has come into
 */
export function followIrc(client: Client, { roster, channels, heard }: Following, send: SendLine): () => Promise<void> {
  const fold = (name: string) => client.caseLower(name);
  const isSelf = (nick: string) => fold(nick) === fold(client.user.nick);
  /** When the bot came into each channel, by the server's clock. */
  const cameAt = new Map<string, number>();
  /** Channels of which the server was asked who is there. */
  const asked = new Set<string>();
  let told: (() => void) | undefined;

  // What a server does not announce is as RFC 1459 has it (4.2.3.1), and not as the client believes.
  client.once('registered', () => {
    client.network.options.PREFIX = [
      { symbol: '@', mode: 'o' },
      { symbol: '+', mode: 'v' },
    ];
  });
  /** Of other modes with a name, such as one that quietens, none is a rank. */
  const isRank = (letter: string) => client.network.options.PREFIX.some(({ mode }) => mode === letter);

  client.on('join', (event: ChannelEvent & { time?: number }) => {
    const { channel, nick, time } = event;
    if (!isSelf(nick)) return roster.joined(channel, presenceOf(event));
    // The bot may be sent elsewhere, or be made to join.
    if (!channels.isWanted(channel)) return void send('PART', channel);
    roster.forget(channel);
    roster.joined(channel, presenceOf(event));
    if (time !== undefined) cameAt.set(fold(channel), time);
    asked.add(fold(channel));
  });
  client.on('userlist', ({ channel, users }: { channel: string; users: (WhoUser & { modes: string[] })[] }) => {
    if (!asked.has(fold(channel))) return;
    for (const user of users) roster.listed(channel, presenceOf(user), user.modes);
    channels.entered(channel);
    const fields = client.network.supports('WHOX') ? [`%tcuhsnfdaor,${client.whox_token.next()}`] : [];
    void send('WHO', channel, ...fields);
  });
  client.on('wholist', ({ target, users }: { target: string; users: WhoUser[] }) => {
    for (const user of users) roster.listed(target, presenceOf(user));
    asked.delete(fold(target));
    if (asked.size === 0) told?.();
  });

  const out = (channel: string, why: string) => {
    roster.forget(channel);
    asked.delete(fold(channel));
    channels.shut(channel, 'kicked', why);
  };
  client.on('part', ({ channel, nick }: ChannelEvent) =>
    isSelf(nick) ? out(channel, 'it left') : roster.left(channel, nick),
  );
  client.on('kick', ({ channel, kicked, nick, message }: ChannelEvent & { kicked: string; message?: string }) =>
    isSelf(kicked) ? out(channel, `put out by ${nick}${message ? `: ${message}` : ''}`) : roster.left(channel, kicked),
  );
  client.on('invite', ({ invited, channel }: ChannelEvent & { invited: string }) => {
    if (isSelf(invited)) channels.invited(channel);
  });
  client.on('quit', ({ nick }: WhoUser) => roster.quit(nick));
  client.on('nick', ({ nick, new_nick }: { nick: string; new_nick: string }) => roster.renamed(nick, new_nick));
  client.on('account', ({ nick, account }: { nick: string; account: string | false }) =>
    roster.identified(nick, account),
  );
  client.on('mode', ({ target, modes }: { target: string; modes: { mode: string; param?: string }[] }) => {
    for (const { mode, param } of modes) {
      const letter = mode[1] ?? '';
      if (typeof param === 'string' && isRank(letter)) roster.mode(target, param, letter, mode.startsWith('+'));
    }
  });
  client.on('privmsg', (event: IrcSaying) => {
    const { nick, batch, time, message, target, group, tags = {} } = event;
    // What was said before the bot came is played back in a batch, or bears the time of then.
    if (event.from_server || isSelf(nick) || batch !== undefined) return;
    if (time !== undefined && time < (cameAt.get(fold(target)) ?? time)) return;
    // A sign that the server did not announce as one is part of a name that nobody here has.
    if (!isSelf(target) && !channels.isWanted(target)) return;
    const isBot = botTags.some((tag) => tag in tags);
    // A server that tells accounts with each message leaves it out for those who have none.
    const tellsAccounts = client.network.cap.isEnabled('account-tag');
    const presence = {
      ...presenceOf(event),
      ...(tellsAccounts ? { account: tags['account'] ?? (false as const) } : {}),
    };
    heard({ presence, target, group, text: message, id: tags['msgid'] || undefined, isBot });
  });

  return () =>
    asked.size === 0
      ? Promise.resolve()
      : new Promise((resolve) => {
          told = resolve;
        });
}

interface IrcSaying extends WhoUser {
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

function presenceOf({ nick, ident, hostname, account }: WhoUser): Presence {
  return { nick, user: ident || undefined, host: hostname || undefined, account };
}
