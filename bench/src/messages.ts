/** What both bots are fed: the members, the lines and a platform that only remembers what was said. */
import type { Guild, GuildPlace, Input, Member, Platform, Reply } from 'taxeon';

export const guild: Guild = { id: '900000000000000001', name: 'Oddmere Tool Library' };
export const place: GuildPlace = { kind: 'guild', guild, channel: { id: '900000000000000002', name: 'counter' } };

function makeMember(id: string, name: string, rank: number, permissions: readonly string[]): Member {
  return { kind: 'member', id, name, roles: [], permissions: new Set(permissions), rank, ownsGuild: false };
}

export const steward = makeMember('100000000000000001', 'Ines', 30, ['fine', 'certify', 'announce']);
export const borrower = makeMember('100000000000000002', 'Wren', 10, []);
export const bot = makeMember('100000000000000003', 'Mallet', 40, ['fine', 'give-badges']);
export const members: ReadonlyMap<string, Member> = new Map(
  [steward, borrower, bot].map((member) => [member.id, member]),
);

/** What the bots said, by the place they said it in. */
export interface Said {
  readonly replies: Reply[];
}

/** Answers from memory and delivers by a promise, as a real client does. */
export function rememberingPlatform(said: Said): Platform {
  const mention = /^<(\d{1,20})>$/;
  return {
    name: 'bench',
    capabilities: { privateReplies: 'never', eventIds: false },
    directory: {
      bot: () => undefined,
      self: () => bot,
      mentioned: (text) => mention.exec(text)?.[1],
      member: (_guild, id) => members.get(id),
      membersNamed: (_guild, name) => [...members.values()].filter((member) => member.name === name),
      user: () => undefined,
      roles: () => [],
      channels: () => [],
    },
    async deliver(reply) {
      said.replies.push(reply);
    },
    serve: () => Promise.reject(new Error('not served here')),
  };
}

export function message(text: string, caller: Member = steward): Input {
  return { surface: 'text', text, caller, place, at: 0 };
}
