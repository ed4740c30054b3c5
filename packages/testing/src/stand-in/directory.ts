/** Who is who in a simulated world. Everything is answered at once. */

import type { Channel, Guild, Member, Role, User } from 'taxeon';
import { type Directory, foldName } from 'taxeon/platform';
import { type CheckedWorld, WorldError } from './world.js';

export interface StandInGuild extends Guild {
  readonly channels: ReadonlyMap<string, Channel>;
  readonly members: ReadonlyMap<string, Member>;
  readonly roles: readonly Role[];
}

export interface StandInDirectory extends Directory {
  readonly guilds: ReadonlyMap<string, StandInGuild>;
  readonly people: ReadonlyMap<string, User>;
  /**
   * Gives a member other roles, by name; whatever they do from then on is with these.
   *
   * @throws WorldError where there is no such guild, member or role.
   */
  giveRoles(guildId: string, memberId: string, roles: readonly string[]): void;
}

type GuildData = CheckedWorld['guilds'][number];

export function standInDirectory(world: CheckedWorld): StandInDirectory {
  const people = new Map<string, User>();
  for (const { id, name, bot } of [world.bot, ...world.people]) {
    people.set(id, { kind: 'user', id, name, isBot: bot || id === world.bot.id });
  }
  const data = new Map(world.guilds.map((one) => [one.id, one]));
  const guilds = new Map(world.guilds.map((one) => [one.id, guildFrom(one, people)]));
  const membersOf = (guild: Guild) => guilds.get(guild.id)?.members;
  return {
    guilds,
    people,
    giveRoles(guildId, memberId, roles) {
      const known = data.get(guildId);
      if (known?.members[memberId] === undefined) throw new WorldError([`${memberId} is no member of ${guildId}`]);
      const changed = { ...known, members: { ...known.members, [memberId]: [...roles] } };
      const problems = roles.filter((role) => !known.roles.some(({ name }) => name === role));
      if (problems.length > 0) throw new WorldError(problems.map((role) => `there is no role "${role}" in ${guildId}`));
      data.set(guildId, changed);
      guilds.set(guildId, guildFrom(changed, people));
    },
    bot: () => people.get(world.bot.id),
    self: (guild) => membersOf(guild)?.get(world.bot.id),
    mention: ({ id }) => `@${id}`,
    mentioned: (text, what) => (text.length > 1 && text[0] === signs[what] ? text.slice(1) : undefined),
    addressed(text) {
      const mention = `@${world.bot.id}`;
      if (text.charCodeAt(0) !== 0x40 || text.slice(0, mention.length).toLowerCase() !== mention.toLowerCase())
        return -1;
      const rest = /^(?:[,:]?\s+|[,:?]?$)/.exec(text.slice(mention.length));
      return rest === null ? -1 : mention.length + rest[0].length;
    },
    member: (guild, id) => membersOf(guild)?.get(id),
    membersNamed: (guild, name) => namesThatBegin(membersOf(guild)?.values() ?? [], name),
    roles: (guild) => guilds.get(guild.id)?.roles ?? [],
    channels: (guild) => [...(guilds.get(guild.id)?.channels.values() ?? [])],
    user(idOrName) {
      const folded = foldName(idOrName);
      return people.get(idOrName) ?? [...people.values()].find(({ name }) => foldName(name) === folded);
    },
  };
}

/** A person is mentioned as `@ines`, a role as `&steward`; a channel's name begins with `#` by itself. */
const signs = { person: '@', role: '&', channel: '' };

function namesThatBegin<Somebody extends { readonly name: string }>(all: Iterable<Somebody>, name: string): Somebody[] {
  const folded = foldName(name);
  return Array.from(all).filter((somebody) => foldName(somebody.name).startsWith(folded));
}

function guildFrom(data: GuildData, people: ReadonlyMap<string, User>): StandInGuild {
  const members = new Map<string, Member>();
  for (const [id, held] of Object.entries(data.members)) {
    const user = people.get(id) as User;
    const roles = data.roles.filter((role) => held.includes(role.name));
    members.set(id, {
      ...user,
      kind: 'member',
      roles: roles.map(asHeld),
      permissions: new Set(roles.flatMap(({ permissions }) => permissions)),
      rank: Math.max(0, ...roles.map(({ rank }) => rank)),
      ownsGuild: data.owner === id,
    });
  }
  const channels = new Map(data.channels.map((id) => [id, { id: `${data.id}/${id}`, name: `#${id}` }]));
  const roles = data.roles.map((role) => ({
    ...asHeld(role),
    rank: role.rank,
    permissions: new Set(role.permissions),
  }));
  return { id: data.id, name: data.name, channels, members, roles };
}

function asHeld({ id, name, protected: isProtected }: GuildData['roles'][number]): Role {
  return { id: id ?? name, name, isProtected };
}
