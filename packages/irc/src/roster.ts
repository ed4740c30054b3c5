/** Who is in which channel, with which modes, as the server tells it. Knows nothing of connections. */

import type { Guild, Member, Role, User } from 'taxeon';
import type { Directory, Person } from 'taxeon/platform';
/** What a channel mode such as `o` stands for. */
export interface ModeMeaning {
  /** Higher is above. */
  readonly rank: number;
  /** The role of people with the mode. */
  readonly role?: string;
  readonly permissions?: readonly string[];
}

/**
 * What proves who a person is: the services account, or user@host. Never the nick, which anybody may take.
 * With `'account'`, a person without an account is told apart by user@host, marked as a guest.
 */
export type Identity = 'account' | 'user@host';

/** A person on the network, as far as the server told. */
export interface Presence {
  readonly nick: string;
  readonly user?: string | undefined;
  readonly host?: string | undefined;
  readonly account?: string | false | undefined;
}

/** A person in the bot's channels: the same object for as long as they are there, whatever their nick. */
interface Someone {
  presence: Presence;
  /** Nobody who was seen only in passing is known to have left. */
  hasBeenHere: boolean;
}

interface RosterEntry {
  readonly someone: Someone;
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
  /** Adds what NAMES or WHO tell of a person. */
  listed(channel: string, presence: Presence, modes?: readonly string[]): void;
  left(channel: string, nick: string): void;
  quit(nick: string): void;
  renamed(nick: string, newNick: string): void;
  /** A person logged in to, or out of, the network's services. */
  identified(nick: string, account: string | false): void;
  mode(channel: string, nick: string, mode: string, given: boolean): void;
  /** The member behind a message in a channel. */
  memberOf(channel: string, presence: Presence): Member;
  userOf(presence: Presence): User;
  /**
   * The nick that exactly this person has now, be it another than before; `'gone'` where they cannot be told from
   * others, and `'unseen'` where they share no channel with the bot, so that only the server knows who has their nick.
   */
  nickOf(person: Person): { readonly nick: string } | 'gone' | 'unseen';
  /** Whether a word is the nick of a person here who is not one of these ids. */
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
  const channels = new Map<string, Map<string, RosterEntry>>();
  /** All who share a channel with the bot, by their nick in small letters. */
  const people = new Map<string, Someone>();
  /** Who is behind a person that was given out: an id may stand for several. */
  const behind = new WeakMap<Person, Someone>();
  let own = '';
  let fold = smallLetters;

  function guildOf(channel: string): Guild {
    // As it is configured, since two spellings may be one channel.
    const name = wanted.find((one) => fold(one.name) === fold(channel))?.name ?? channel;
    return { id: smallLetters(name), name };
  }

  const entriesOf = (channel: string) => channels.get(fold(channel)) ?? new Map<string, RosterEntry>();
  const isHere = (someone: Someone) => people.get(fold(someone.presence.nick)) === someone;
  const idIs = (id: string) => (someone: Someone) => identityOf(someone.presence, identity) === id;
  const byNick = (nick: string) => people.get(fold(nick));
  const byId = (id: string) => [...people.values()].find(idIs(id));

  function entryOf(channel: string, presence: Presence): RosterEntry {
    const entries = entriesOf(channel);
    channels.set(fold(channel), entries);
    const someone = told(presence);
    someone.hasBeenHere = true;
    people.set(fold(presence.nick), someone);
    const entry = entries.get(fold(presence.nick)) ?? { someone, modes: new Set<string>() };
    entries.set(fold(presence.nick), entry);
    return entry;
  }

  /** A person who is here with a nick, with what was told of them now; else a person of whom no more is known. */
  function told(presence: Presence): Someone {
    const someone = byNick(presence.nick) ?? { presence, hasBeenHere: false };
    someone.presence = merged(someone.presence, presence);
    return someone;
  }

  function leave(channel: string, nick: string): void {
    channels.get(fold(channel))?.delete(fold(nick));
    if (![...channels.values()].some((entries) => entries.has(fold(nick)))) people.delete(fold(nick));
  }

  /** Whether another person is here with the same id. Called for each line of a guest's: ids are not joined for it. */
  function isShared(someone: Someone): boolean {
    const { user, host } = someone.presence;
    for (const other of people.values()) {
      const { presence } = other;
      if (other === someone || presence.host !== host || presence.user !== user) continue;
      if (identity === 'user@host' || !presence.account) return true;
    }
    return false;
  }

  /** What the network tells of a person, for both kinds of persons. */
  function factsOf(someone: Someone) {
    const { presence } = someone;
    const id = identityOf(presence, identity);
    const isGuest = isGuestId(id, identity);
    const sharesId = mayBeSeveral(id, identity) && isShared(someone);
    return {
      id,
      name: presence.nick,
      ...(isGuest ? ({ isGuest } as const) : {}),
      ...(sharesId ? ({ sharesId } as const) : {}),
    };
  }

  function memberFrom({ someone, modes: held }: RosterEntry): Member {
    const meanings = [...held].flatMap((mode) => modes[mode] ?? []);
    const member: Member = {
      kind: 'member',
      ...factsOf(someone),
      roles: rolesOf(meanings),
      permissions: new Set(meanings.flatMap(({ permissions = [] }) => permissions)),
      rank: Math.max(0, ...meanings.map(({ rank }) => rank)),
      ownsGuild: false,
    };
    behind.set(member, someone);
    return member;
  }

  function userFrom(someone: Someone): User {
    const user: User = { kind: 'user', ...factsOf(someone) };
    behind.set(user, someone);
    return user;
  }

  return {
    fold: (name) => fold(name),
    guildOf,
    begin(ownNick, foldBy) {
      channels.clear();
      people.clear();
      own = ownNick;
      fold = foldBy;
    },
    forget(channel) {
      for (const nick of entriesOf(channel).keys()) leave(channel, nick);
      channels.delete(fold(channel));
    },
    joined(channel, presence) {
      leave(channel, presence.nick);
      entryOf(channel, presence);
    },
    listed(channel, presence, given = []) {
      const entry = entryOf(channel, presence);
      for (const mode of given) entry.modes.add(mode);
    },
    left: leave,
    quit(nick) {
      for (const entries of channels.values()) entries.delete(fold(nick));
      people.delete(fold(nick));
    },
    renamed(nick, newNick) {
      if (fold(nick) === fold(own)) own = newNick;
      const someone = byNick(nick);
      if (someone === undefined) return;
      people.delete(fold(nick));
      people.set(fold(newNick), someone);
      someone.presence = { ...someone.presence, nick: newNick };
      for (const entries of channels.values()) {
        const entry = entries.get(fold(nick));
        if (entry === undefined) continue;
        entries.delete(fold(nick));
        entries.set(fold(newNick), entry);
      }
    },
    identified(nick, account) {
      const someone = byNick(nick);
      if (someone !== undefined) someone.presence = { ...someone.presence, account };
    },
    mode(channel, nick, mode, given) {
      const held = channels.get(fold(channel))?.get(fold(nick))?.modes;
      if (given) held?.add(mode);
      else held?.delete(mode);
    },
    memberOf(channel, presence) {
      // Who speaks from outside of a channel is not in it, and would never leave it.
      const entry = channels.get(fold(channel))?.get(fold(presence.nick));
      return memberFrom({ someone: told(presence), modes: entry?.modes ?? new Set() });
    },
    userOf: (presence) => userFrom(told(presence)),

    bot() {
      const self = byNick(own);
      return self === undefined ? { kind: 'user', id: `nick ${own}`, name: own, isBot: true } : userFrom(self);
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
    roles: () => rolesOf(Object.values(modes)),
    channels: (guild) => [guild],
    member(guild, id) {
      const entry = [...entriesOf(guild.id).values()].find(({ someone }) => idIs(id)(someone));
      return entry === undefined ? undefined : memberFrom(entry);
    },
    membersNamed: (guild, name) =>
      [...entriesOf(guild.id)].filter(([nick]) => nick.startsWith(fold(name))).map(([, entry]) => memberFrom(entry)),
    user(idOrName) {
      // An account may be called as another person's nick.
      const someone = byId(idOrName) ?? byNick(idOrName);
      return someone === undefined ? undefined : userFrom(someone);
    },
    rings(word, ids) {
      const someone = byNick(word);
      if (someone === undefined || fold(word) === fold(own)) return false;
      const { id, sharesId } = factsOf(someone);
      return sharesId === true || !ids.includes(id);
    },
    nickOf(person) {
      const { id, name } = person;
      const meant = behind.get(person);
      if (meant !== undefined && isHere(meant)) return meant.presence;
      const named = byNick(name);
      const isNamed = named !== undefined && idIs(id)(named);
      if (mayBeSeveral(id, identity)) {
        // A person who has the nick of one who has gone may be another one behind the same address.
        if (named === undefined) return meant?.hasBeenHere === true ? 'gone' : 'unseen';
        return isNamed && meant === undefined && factsOf(named).sharesId !== true ? named.presence : 'gone';
      }
      const found = isNamed ? named : byId(id);
      return found?.presence ?? (named === undefined ? 'unseen' : 'gone');
    },
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
function isGuestId(id: string, identity: Identity): boolean {
  return identity === 'account' ? id.startsWith('guest ') : /^[~?]/.test(id);
}

/** Only an account is one person's: behind an address there may be several. */
function mayBeSeveral(id: string, identity: Identity): boolean {
  return identity === 'user@host' || isGuestId(id, identity);
}

function identityOf({ user, host, account }: Presence, identity: Identity): string {
  const address = `${user ?? '?'}@${host ?? '?'}`;
  if (identity === 'user@host') return address;
  return typeof account === 'string' && account !== '' ? account : `guest ${address}`;
}

function rolesOf(meanings: readonly ModeMeaning[]): readonly Role[] {
  return meanings.flatMap(({ role, rank }) => (role === undefined ? [] : [{ id: role, name: role, rank }]));
}
