/** What all bots are fed: the members, the lines, and a platform that only remembers what was said. */
import type { Clock, Guild, GuildPlace, Log, Member } from 'taxeon';
import type { Input, Platform, Reply } from 'taxeon/platform';

export const guild: Guild = { id: 'guild-00000000000001', name: 'Oddmere Tool Library' };
export const place: GuildPlace = { kind: 'guild', guild, channel: { id: 'channel-000000000002', name: 'counter' } };

function makeMember(id: string, name: string, rank: number, permissions: readonly string[]): Member {
  return { kind: 'member', id, name, roles: [], permissions: new Set(permissions), rank, ownsGuild: false };
}

export const steward = makeMember('person-0000000000001', 'Ines', 30, ['fine', 'certify', 'announce']);
export const borrower = makeMember('person-0000000000002', 'Wren', 10, []);
export const bot = makeMember('person-0000000000003', 'Mallet', 40, ['fine', 'give-badges']);
const members: ReadonlyMap<string, Member> = new Map([steward, borrower, bot].map((member) => [member.id, member]));

export const CALLERS = 10_000;

/** Ids of 20 characters, each in one piece as a system's are: a joined one would be a rope. */
export function idsOf(count: number, from = 0): string[] {
  return Array.from({ length: count }, (_, index) => (36n ** 19n + BigInt(from + index) * 7n).toString(36));
}

/** Who call in turn. */
export function callersLike(member: Member): readonly Member[] {
  return idsOf(CALLERS, 1000).map((id) => ({ ...member, id, permissions: new Set(member.permissions) }));
}

/** The machine's clock, which can be moved on so that cooldowns end. */
export interface MovableClock extends Clock {
  moveOn(ms: number): void;
}

export function movableClock(): MovableClock {
  let ahead = 0;
  return {
    now: () => Date.now() + ahead,
    elapsed: () => performance.now() + ahead,
    moveOn(ms) {
      ahead += ms;
    },
  };
}

/** What the bots said. */
export interface Said {
  readonly replies: Reply[];
}

/** Answers from memory and delivers by a promise, as a real client does. */
export function rememberingPlatform(said: Said): Platform {
  const mention = /^\[p:([\w-]{1,24})\]$/;
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

export function message(text: string, caller: Member = steward, id?: string): Input {
  const input: Input = { surface: 'text', text, caller, place, at: 0 };
  return id === undefined ? input : { ...input, id };
}

export function invocation(options: Readonly<Record<string, unknown>>, caller: Member = steward): Input {
  return { surface: 'slash', path: ['fine'], options, caller, place, at: 0 };
}

/** What goes wrong shows in the outcomes, which are looked at. */
export const quiet: Log = { error() {}, warn() {}, info() {} };
