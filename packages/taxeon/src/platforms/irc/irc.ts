/** IRC: a channel is the guild, channel modes are rank, roles and permissions. */

import { type Clock, systemClock } from '../../base/time.js';
import type { Call, callOrigin } from '../../commands/call.js';
import { keepNatives } from '../../commands/natives.js';
import type { Input } from '../../contract/input.js';
import type { Log } from '../../contract/log.js';
import type { Reply } from '../../contract/notice.js';
import type { Place } from '../../contract/places.js';
import { type Platform, PlatformError, type Serving } from '../../contract/platform.js';
import { consoleLog } from '../../observe/log.js';
import { plainText } from '../../replies/notice.js';
import type { Pauses } from './channels.js';
import { type AnswersBy, type Connection, connect, type IrcMessage } from './connection.js';
import { createRoster, guildOfChannel, type Identity, type ModeMeaning } from './roster.js';
import { inParts, ircText, withoutFormatting } from './text.js';

export interface IrcOptions {
  /** Which the keys of people and channels begin with; `'irc'` by default. Networks on one layer need different ones. */
  readonly name?: string;
  readonly host: string;
  /** 6667 by default, 6697 with TLS. */
  readonly port?: number;
  readonly tls?: boolean;
  readonly nick: string;
  /** The user part of user@host; the nick in small letters by default. */
  readonly username?: string;
  /** The server's password. Take it from the environment or a file, not from the command line. */
  readonly password?: string;
  readonly channels: readonly string[];
  /** What proves who somebody is; the services account by default. */
  readonly identity?: Identity;
  /** What channel modes stand for, by letter. By default they give ranks and no permissions. */
  readonly modes?: Readonly<Record<string, ModeMeaning>>;
  /** How it says what it says: by `'notice'`, so that no other bot answers it, or by `'message'`. */
  readonly answersBy?: AnswersBy;
  /** Pauses before reconnecting; from 1 s to 5 min by default. */
  readonly pauses?: Pauses;
  /** After how long without a sign of the server the link is dead and made anew, in milliseconds; 25 s by default. */
  readonly silenceMs?: number;
  readonly clock?: Clock;
  readonly log?: Log;
}

/** Where a line of the bot's begins, so that what somebody typed never stands first in it. */
const FURTHER = '· ';

/** The customary order: founder, protected, operator, half operator, voice. */
const customaryModes: Readonly<Record<string, ModeMeaning>> = {
  q: { rank: 50 },
  a: { rank: 40 },
  o: { rank: 30 },
  h: { rank: 20 },
  v: { rank: 10 },
};

const messages = keepNatives<IrcMessage>();

/** The message that a call came by: who sent it, as IRC shows them, and to where; `undefined` for a call from elsewhere. */
export function nativeOf(call: Pick<Call, typeof callOrigin>): IrcMessage | undefined {
  return messages.nativeOf(call);
}

/**
 * A platform on an IRC network.
 *
 * Replies are plain lines in the channel, to the person by name: IRC has no private replies in a channel. No line begins
 * with what somebody typed, which another bot could take for a command. Long lines are parted.
 * While the connection is away, replies wait for it. What is played back of a time before the bot came is not heard.
 *
 * @throws TypeError where `answersBy` or `silenceMs` is not one of its values.
 *
 * @example
 * const platform = irc({ host: 'localhost', nick: 'Mallet', channels: ['#oddmere'], identity: 'user@host' });
 * const serving = await platform.serve(layer);
 */
export function irc(options: IrcOptions): Platform {
  const { host, nick, channels, tls = false, identity = 'account', modes = customaryModes } = options;
  const { answersBy = 'notice', silenceMs = 25_000 } = options;
  if (!['notice', 'message'].includes(answersBy)) throw new TypeError('irc: `answersBy` is notice or message');
  if (!(silenceMs >= 1000)) throw new TypeError('irc: `silenceMs` is at least 1000');
  const { clock = systemClock, log = consoleLog, pauses = { firstMs: 1000, mostMs: 300_000 } } = options;
  const port = options.port ?? (tls ? 6697 : 6667);
  const roster = createRoster(modes, identity);
  let connection: Connection | undefined;

  function inputOf(heard: IrcMessage): Input {
    const { presence, target, group, id, isBot = false } = heard;
    const isChannel = /^[#&+!]/.test(target);
    const guild = guildOfChannel(target);
    const place: Place = isChannel
      ? { kind: 'guild', guild, channel: group === undefined ? guild : guildOfChannel(`${group}${target}`) }
      : { kind: 'direct', channel: { id: presence.nick.toLowerCase(), name: presence.nick } };
    const known = isChannel ? roster.memberOf(target, presence) : roster.userOf(presence);
    const caller = isBot ? { ...known, isBot } : known;
    const text = withoutFormatting(heard.text);
    const input: Input = { surface: 'text', caller, place, text, at: clock.now(), ...(id === undefined ? {} : { id }) };
    return messages.keep(input, heard);
  }

  /** Whoever is named and must not be pinged has their nick broken, since clients ring at it. */
  async function say(
    target: string,
    { notice }: Reply,
    mayPing: readonly string[],
    begins: (index: number) => string,
  ): Promise<void> {
    if (connection === undefined) throw new PlatformError('platform.gone', 'IRC is not served');
    const lines = ircText(plainText(notice), (nick) => roster.rings(nick, mayPing)).split(/[\r\n]+/);
    // What goes over a line's length goes on in one that begins as the bot's own.
    const said = lines.flatMap(inParts);
    await connection.say(
      target,
      said.map((line, index) => `${begins(index)}${line}`),
    );
  }

  /** The nick that somebody has now; their conversation is gone where it belongs to somebody else. */
  function nickOf({ id, name }: { readonly id: string; readonly name: string }): string {
    const found = roster.byId(id);
    if (found !== undefined) return found.name;
    if (roster.byNick(name) === undefined) return name;
    throw new PlatformError('platform.gone', `${name} is somebody else now`);
  }

  const platform: Platform = {
    name: options.name ?? 'irc',
    capabilities: { privateReplies: 'never', eventIds: false },
    directory: roster,
    guilds: () => channels.map(guildOfChannel),
    async deliver(reply, { place, caller }) {
      if (place.kind === 'console') throw new PlatformError('platform.failed', 'The console is not on IRC');
      const mayPing = [...(reply.mentions ?? []), caller.id];
      const nick = nickOf(caller);
      if (place.kind === 'direct') await say(nick, reply, mayPing, () => '');
      else await say(place.channel.name, reply, mayPing, (index) => (index === 0 ? `${nick}: ` : FURTHER));
    },
    async tell(person, reply) {
      const found = roster.byId(person.id);
      if (found === undefined) throw new PlatformError('platform.unreachable', `${person.name} is not on IRC`);
      await say(found.name, reply, [person.id], () => '');
    },
    async post(channel, reply) {
      await say(channel.name, reply, reply.mentions ?? [], () => FURTHER);
    },
    async serve(layer) {
      if (connection !== undefined) throw new PlatformError('platform.failed', 'IRC is served already');
      const { username = nick.toLowerCase(), password } = options;
      const settings = { host, port, tls, nick, username, password, channels, answersBy, pauses, silenceMs, log };
      connection = await connect(settings, roster, (heard) => {
        layer
          .handle(inputOf(heard), platform)
          .catch((error: unknown) => log.error({ error }, 'A message was not handled'));
      });
      const own = connection;
      const serving: Serving = {
        async close() {
          if (connection !== own) return;
          connection = undefined;
          await own.close();
        },
      };
      try {
        await layer.connected?.(platform, serving);
      } catch (error) {
        await serving.close();
        throw error;
      }
      return serving;
    },
  };
  return platform;
}
