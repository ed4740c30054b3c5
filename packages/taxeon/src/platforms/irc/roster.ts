/** Who is in which channel, with which modes, as the server tells it. Knows nothing of connections. */
import type { Member, User } from '../../contract/actors.js';
import type { Guild } from '../../contract/places.js';
import type { Directory } from '../../contract/platform.js';

/** What a channel mode such as `o` stands for. */
export interface ModeMeaning {
  /** Higher is above. */
  readonly rank: number;
  /** The role that whoever has the mode holds. */
  readonly role?: string;
  readonly permissions?: readonly string[];
}

/**
 * What proves who somebody is: the services account, or user@host. Never the nick, which anybody may take.
 * With `'account'`, somebody without an account is told apart by user@host, marked as a guest.
 */
export type Identity = 'account' | 'user@host';

/** Somebody on the network, as far as the server told. */
export interface Presence {
  readonly nick: string;
  readonly user?: string | undefined;
  readonly host?: string | undefined;
  readonly account?: string | false | undefined;
}

interface Entry {
  presence: Presence;
  readonly modes: Set<string>;
}

export interface Roster extends Directory {
  /** Small letters as the server's case mapping makes them: of nicks, and of channels. */
  fold(name: string): string;
  /** The guild that a channel is; its id is the same whatever the server's case mapping. */
  guildOf(channel: string): Guild;
  /** Forgets everybody, as after a lost connection. */
  begin(ownNick: string, fold: (name: string) => string): void;
  /** Forgets a channel's people, as when the bot comes in or is put out: what happened meanwhile was not told. */
  forget(channel: string): void;
  joined(channel: string, presence: Presence): void;
  /** Adds what NAMES or WHO tell of somebody. */
  listed(channel: string, presence: Presence, modes?: readonly string[]): void;
  left(channel: string, nick: string): void;
  quit(nick: string): void;
  renamed(nick: string, newNick: string): void;
  /** Somebody logged in to, or out of, the network's services. */
  identified(nick: string, account: string | false): void;
  mode(channel: string, nick: string, mode: string, given: boolean): void;
  /** The member behind a message in a channel. */
  memberOf(channel: string, presence: Presence): Member;
  userOf(presence: Presence): User;
  /** Who is here under an id, whatever their nick; never somebody whose nick is the same text. */
  byId(id: string): User | undefined;
  /** The nick of somebody by their id, who had `lastNick`; `undefined` where nobody of that id shares a channel. */
  nickOf(id: string, lastNick: string): string | undefined;
  /** Who has a nick now. */
  byNick(nick: string): User | undefined;
  /** Whether a word is the nick of somebody here who is not one of these ids. */
  rings(word: string, ids: readonly string[]): boolean;
}

/** Small letters where no server has told its case mapping yet, and in ids, which must not depend on it. */
function smallLetters(name: string): string {
  return name.replace(/[A-Z]/g, (letter) => letter.toLowerCase());
}

export function createRoster(
  modes: Readonly<Record<string, ModeMeaning>>,
  identity: Identity,
  wanted: readonly { readonly name: string }[] = [],
): Roster {
  const channels = new Map<string, Map<string, Entry>>();
  let own = '';
  let fold = smallLetters;

  function guildOf(channel: string): Guild {
    // As it is configured, since two spellings may be one channel.
    const name = wanted.find((one) => fold(one.name) === fold(channel))?.name ?? channel;
    return { id: smallLetters(name), name };
  }

  const peopleIn = (channel: string): Map<string, Entry> => {
    const people = channels.get(fold(channel)) ?? new Map<string, Entry>();
    channels.set(fold(channel), people);
    return people;
  };

  function entryOf(channel: string, presence: Presence): Entry {
    const people = peopleIn(channel);
    const known = people.get(fold(presence.nick));
    const entry = known ?? { presence, modes: new Set<string>() };
    entry.presence = merged(entry.presence, presence);
    people.set(fold(presence.nick), entry);
    return entry;
  }

  function memberFrom({ presence, modes: held }: Entry): Member {
    const meanings = [...held].flatMap((mode) => modes[mode] ?? []);
    return {
      kind: 'member',
      id: idOf(presence, identity),
      name: presence.nick,
      roles: meanings.flatMap(({ role }) => (role === undefined ? [] : [{ id: role, name: role }])),
      permissions: new Set(meanings.flatMap(({ permissions = [] }) => permissions)),
      rank: Math.max(0, ...meanings.map(({ rank }) => rank)),
      ownsGuild: false,
      ...guestOf(presence, identity),
    };
  }

  function userFrom(presence: Presence): User {
    return { kind: 'user', id: idOf(presence, identity), name: presence.nick, ...guestOf(presence, identity) };
  }

  /** Whoever has a nick, in any channel. */
  function presenceOf(nick: string): Presence | undefined {
    const folded = fold(nick);
    for (const people of channels.values()) {
      const entry = people.get(folded);
      if (entry !== undefined) return entry.presence;
    }
    return undefined;
  }

  function byNick(nick: string): User | undefined {
    const presence = presenceOf(nick);
    return presence === undefined ? undefined : userFrom(presence);
  }

  function byId(id: string): User | undefined {
    for (const people of channels.values())
      for (const { presence } of people.values()) if (idOf(presence, identity) === id) return userFrom(presence);
    return undefined;
  }

  return {
    fold: (name) => fold(name),
    guildOf,
    begin(ownNick, foldBy) {
      channels.clear();
      own = ownNick;
      fold = foldBy;
    },
    forget: (channel) => void channels.delete(fold(channel)),
    joined(channel, presence) {
      peopleIn(channel).delete(fold(presence.nick));
      entryOf(channel, presence);
    },
    listed(channel, presence, given = []) {
      const entry = entryOf(channel, presence);
      for (const mode of given) entry.modes.add(mode);
    },
    left: (channel, nick) => void peopleIn(channel).delete(fold(nick)),
    quit(nick) {
      for (const people of channels.values()) people.delete(fold(nick));
    },
    renamed(nick, newNick) {
      if (fold(nick) === fold(own)) own = newNick;
      for (const people of channels.values()) {
        const entry = people.get(fold(nick));
        if (entry === undefined) continue;
        people.delete(fold(nick));
        people.set(fold(newNick), { ...entry, presence: { ...entry.presence, nick: newNick } });
      }
    },
    identified(nick, account) {
      for (const people of channels.values()) {
        const entry = people.get(fold(nick));
        if (entry !== undefined) entry.presence = { ...entry.presence, account };
      }
    },
    mode(channel, nick, mode, given) {
      const held = peopleIn(channel).get(fold(nick))?.modes;
      if (given) held?.add(mode);
      else held?.delete(mode);
    },
    memberOf(channel, presence) {
      // Who speaks from outside of a channel is not in it, and would never leave it.
      const isThere = channels.get(fold(channel))?.has(fold(presence.nick)) === true;
      return memberFrom(isThere ? entryOf(channel, presence) : { presence, modes: new Set() });
    },
    userOf: userFrom,

    bot() {
      return byNick(own) ?? { kind: 'user', id: `nick ${own}`, name: own, isBot: true };
    },
    self(guild) {
      const entry = channels.get(fold(guild.id))?.get(fold(own));
      return entry === undefined ? undefined : memberFrom(entry);
    },
    mentioned: () => undefined,
    addressed(text) {
      // On IRC a bot is addressed as "Mallet: " or "Mallet, ".
      const after = text.charCodeAt(own.length);
      if ((after !== 0x3a && after !== 0x2c) || fold(text.slice(0, own.length)) !== fold(own)) return -1;
      const rest = /^\s*/.exec(text.slice(own.length + 1));
      return own.length + 1 + (rest?.[0].length ?? 0);
    },
    roles: () => Object.values(modes).flatMap(({ role }) => (role === undefined ? [] : [{ id: role, name: role }])),
    channels: (guild) => [guild],
    member(guild, id) {
      for (const entry of channels.get(fold(guild.id))?.values() ?? []) {
        if (idOf(entry.presence, identity) === id) return memberFrom(entry);
      }
      return undefined;
    },
    membersNamed: (guild, name) =>
      [...(channels.get(fold(guild.id))?.values() ?? [])]
        .filter(({ presence }) => fold(presence.nick).startsWith(fold(name)))
        .map(memberFrom),
    rings(word, ids) {
      const presence = presenceOf(word);
      return presence !== undefined && fold(word) !== fold(own) && !ids.includes(idOf(presence, identity));
    },
    nickOf(id, lastNick) {
      // Mostly they have the nick still.
      const presence = presenceOf(lastNick);
      return presence !== undefined && idOf(presence, identity) === id ? presence.nick : byId(id)?.name;
    },
    byId,
    byNick,
    // An account may be called as somebody else's nick.
    user: (idOrName) => byId(idOrName) ?? byNick(idOrName),
  };
}

/** What is told anew replaces what was known; what is not told stays. */
function merged(known: Presence, told: Presence): Presence {
  return {
    nick: told.nick,
    user: told.user ?? known.user,
    host: told.host ?? known.host,
    account: told.account ?? known.account,
  };
}

/** A user name with `~` was not verified, so anybody may have it. */
function guestOf({ user = '~', account }: Presence, identity: Identity): { readonly isGuest?: true } {
  const isProved = identity === 'user@host' ? !user.startsWith('~') : typeof account === 'string' && account !== '';
  return isProved ? {} : { isGuest: true };
}

function idOf({ user, host, account }: Presence, identity: Identity): string {
  const address = `${user ?? '?'}@${host ?? '?'}`;
  if (identity === 'user@host') return address;
  return typeof account === 'string' && account !== '' ? account : `guest ${address}`;
}
