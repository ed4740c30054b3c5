/** IRC: a channel is the guild, channel modes are rank, roles and permissions. */
import type { Actor, Place } from 'taxeon';
import {
  type Input,
  isPerson,
  keepNatives,
  type Natives,
  type Platform,
  PlatformError,
  paced,
  type Reply,
  type Serving,
} from 'taxeon/platform';
import { createLink, type IrcLink } from './link.js';
import type { IrcMessage } from './message.js';
import { type IrcOptions, ircSettings } from './options.js';
import { createRoster } from './roster.js';
import type { IrcState } from './state.js';
import { bytesIn, ircLines, LONGEST_LINE, withoutFormatting } from './text.js';

/** A platform on an IRC network, and how it stands. */
export interface IrcPlatform extends Platform {
  /** How the bot stands on its network, for a health check. */
  state(): IrcState;
  /** Calls back at each change of `state`, until the function that it gives is called. */
  watch(listener: (state: IrcState) => void): () => void;
  /** Leaves, or gives up coming: a `serve` that waits for the network rejects. */
  close(): Promise<void>;
}

/** Where a line of the bot's begins, so that what a person typed never stands first in it. */
const FURTHER = '· ';
/** Of one answer in a channel; the rest goes on to the caller alone. */
const MOST_LINES = 4;

function isChannelName(target: string): boolean {
  return /^[#&+!]/.test(target);
}

const messages = keepNatives<IrcMessage>();

/**
 * The message that a call came by: who sent it, as IRC shows them, and to where; `undefined` for a call from elsewhere.
 *
 * @example
 * const who = command({ name: 'who', description: 'Your nick', run: (call) => nativeOf(call)?.presence.nick ?? 'nobody' });
 */
export const nativeOf: Natives<IrcMessage>['nativeOf'] = messages.nativeOf;

/**
 * A platform on an IRC network.
 *
 * Replies are plain lines: in the channel, to the person by name; what is for the caller alone goes to their nick. No line
 * begins with what a person typed, which another bot could take for a command. What is long goes on to the caller alone.
 * Lines wait for their turn, so that the server does not put the bot out. `serve` waits for the network, be it hours; it
 * rejects only where the bot is never let in as it is configured. What is played back of a time before the bot came is
 * not heard.
 *
 * @throws TypeError with everything that is wrong with the options
 *
 * @example
 * const platform = irc({ host: 'localhost', nick: 'Mallet', channels: ['#oddmere'], identity: 'user@host' });
 * const serving = await platform.serve(layer);
 */
export function irc(options: IrcOptions): IrcPlatform {
  const settings = ircSettings(options);
  const { server, channels, clock, log, bold } = settings;
  const roster = createRoster(settings.modes, settings.identity, channels);
  const listeners = new Set<(state: IrcState) => void>();
  let link: IrcLink | undefined;
  let lastState: IrcState = {
    link: 'idle',
    since: clock.now(),
    nick: server.nick,
    channels: channels.map(({ name }) => ({ name, status: 'wanted' })),
  };

  function changed(state: IrcState): void {
    lastState = state;
    for (const listener of listeners) {
      try {
        listener(state);
      } catch (error) {
        log.error({ error }, 'A listener to the state of IRC failed');
      }
    }
  }

  function inputOf(heard: IrcMessage): Input {
    const { presence, target, group, id, isBot = false } = heard;
    const isChannel = isChannelName(target);
    const guild = roster.guildOf(target);
    const known = isChannel ? roster.memberOf(target, presence) : roster.userOf(presence);
    const caller = isBot ? { ...known, isBot } : known;
    // A direct conversation is with a person, not with a nick.
    const place: Place = isChannel
      ? { kind: 'guild', guild, channel: guild, ...(group === undefined ? {} : { heardBy: group }) }
      : { kind: 'direct', channel: { id: known.id, name: presence.nick } };
    const text = withoutFormatting(heard.text);
    const input: Input = { surface: 'text', caller, place, text, at: clock.now(), ...(id === undefined ? {} : { id }) };
    return messages.keep(input, heard);
  }

  /** A person who is named and must not be pinged has their nick broken, since clients ring at it. */
  function linesOf({ notice, mentions = [] }: Reply, alsoPinged: readonly string[], longest?: number) {
    const mayPing = [...mentions, ...alsoPinged];
    return ircLines(notice, { bold, longest, mustNotRing: (nick) => roster.rings(nick, mayPing) });
  }

  async function say(
    target: string,
    reply: Reply,
    alsoPinged: readonly string[],
    begins: (index: number) => string,
    heardBy = '',
  ): Promise<void> {
    if (link === undefined) throw new PlatformError('platform.gone', 'IRC is not served');
    // A server says nothing of a notice to a channel that the bot is not in.
    if (isChannelName(target) && !isIn(target)) throw new PlatformError('platform.gone', `The bot is not in ${target}`);
    const to = `${heardBy}${target}`;
    if (!/^[^\s\0:,][^\s\0,]*$/.test(to)) throw new PlatformError('platform.failed', 'That is no name on IRC');
    // The server puts the bot's own mask and the target in front, which count.
    const inFront = bytesIn(`:${lastState.nick}!@ PRIVMSG ${to} :${begins(0)}`) + MASK_BYTES;
    const lines = linesOf(reply, alsoPinged, Math.min(LONGEST_LINE, 510 - inFront));
    await link.say(
      to,
      lines.map((line, index) => `${begins(index)}${line}`),
    );
  }

  function isIn(target: string): boolean {
    const { id } = roster.guildOf(target);
    return (
      link?.state().channels.some(({ name, status }) => status === 'joined' && roster.guildOf(name).id === id) === true
    );
  }

  /** The nick by which exactly this person is reached now: for what is private, what is told, and whom an answer is for. */
  async function reach(person: Actor): Promise<string> {
    const { name, id } = person;
    if (!isPerson(person)) throw new PlatformError('platform.failed', `${name} is nobody on IRC`);
    const found = roster.nickOf(person);
    if (typeof found === 'object') return found.nick;
    const presence = found === 'gone' ? undefined : await link?.whoIs(name);
    // Who shares no channel with the bot may have given their nick away unseen.
    if (presence !== undefined && roster.userOf(presence).id === id) return presence.nick;
    throw new PlatformError('platform.gone', `${name} is not on IRC any more, or somebody else by now`);
  }

  const lineAt = (count: number) => count * LONGEST_LINE;
  const close = async () => link?.close();

  const platform: IrcPlatform = {
    name: settings.name,
    capabilities: {
      privateReplies: 'always',
      refusalsInPlace: settings.refusalsInPlace,
      eventIds: false,
      // As much as may be said at once, so that no message waits for the rest of itself.
      longestReply: lineAt(settings.pace.uses),
      longestAmongOthers: lineAt(Math.max(1, Math.min(MOST_LINES, settings.pace.uses - 1))),
      pace: paced(() => `${settings.pace.uses} in ${settings.pace.windowMs}ms`, {
        of: 'connection',
        refill: 'steady',
        weigh: (reply) => linesOf(reply, []).length + (link?.receiptLines() ?? 0),
      }),
    },
    directory: roster,
    guilds: () => channels.map(({ name }) => roster.guildOf(name)),
    measure: (notice) => lineAt(ircLines(notice).length),
    state: () => link?.state() ?? lastState,
    watch(listener) {
      listeners.add(listener);
      return () => void listeners.delete(listener);
    },
    close,
    async deliver(reply, { place, caller }) {
      if (place.kind === 'console') throw new PlatformError('platform.failed', 'The console is not on IRC');
      if (place.kind === 'direct' || reply.visibleTo === 'caller')
        return say(await reach(caller), reply, [caller.id], () => '');
      const first = isPerson(caller) ? `${await reach(caller)}: ` : FURTHER;
      await say(place.channel.name, reply, [caller.id], (index) => (index === 0 ? first : FURTHER), place.heardBy);
    },
    async tell(person, reply) {
      await say(await reach(person), reply, [person.id], () => '');
    },
    async post(channel, reply) {
      const target = isChannelName(channel.name) ? channel.name : await reach({ kind: 'user', ...channel });
      await say(target, reply, [], () => FURTHER);
    },
    async serve(layer) {
      if (link !== undefined) throw new PlatformError('platform.failed', 'IRC is served already');
      const { pace } = platform.capabilities;
      if (pace === undefined) throw new TypeError('irc: its pace was taken away');
      const own = createLink(
        settings,
        roster,
        pace,
        (heard) => {
          layer
            .handle(inputOf(heard), platform)
            .catch((error: unknown) => log.error({ error }, 'A message was not handled'));
        },
        changed,
      );
      link = own;
      const serving: Serving = {
        async close() {
          await own.close();
          if (link === own) link = undefined;
        },
      };
      try {
        await own.open();
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

/** The longest user and host that servers give: 10 characters and the sign of those that are not verified, and 63. */
const MASK_BYTES = 74;
