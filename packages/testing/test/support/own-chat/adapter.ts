import { type Guild, type Member, type Place, plainText } from 'taxeon';
import type { DeliveryCode, Input, Person, Platform, Reply } from 'taxeon/platform';
import { emptyDirectory, keepNatives, PlatformError, plainMarkup } from 'taxeon/platform';
import { WebSocket } from 'ws';

interface Someone {
  readonly id: string;
  readonly name: string;
  readonly steward: boolean;
}

/** A line as the chat sends it: in a room, or to us alone. */
export interface Line {
  readonly id: string;
  readonly room?: string;
  readonly from: Someone;
  readonly text: string;
  readonly at: number;
}

const lines = keepNatives<Line>();
/** The line that a call came by, for handlers that need the chat's own object. */
export const nativeOf = lines.nativeOf;

const guild: Guild = { id: 'oddmere', name: 'Oddmere Tool Library' };
const codes: Readonly<Record<string, DeliveryCode>> = { gone: 'platform.gone', forbidden: 'platform.forbidden' };

export function ownChat({ url, name }: { readonly url: string; readonly name: string }): Platform {
  const people = new Map<string, Someone>();
  const waiting = new Map<number, { done(ok: Entered): void; failed(error: PlatformError): void }>();
  let socket: WebSocket | undefined;
  let me: Someone | undefined;
  let rooms: readonly string[] = [];
  let asks = 0;

  interface Entered {
    readonly id: string;
    readonly you: Someone;
    readonly people: readonly Someone[];
    readonly rooms: readonly string[];
  }

  /** Resolves with the chat's answer. What it refuses has a code; what is lost on the way may have arrived. */
  function ask(what: object): Promise<Entered> {
    const ask = ++asks;
    return new Promise((done, failed) => {
      if (socket?.readyState !== WebSocket.OPEN)
        throw new PlatformError('platform.unreachable', 'There is no connection');
      waiting.set(ask, { done, failed });
      socket.send(JSON.stringify({ ask, ...what }));
    });
  }

  const memberOf = ({ id, name: called, steward }: Someone): Member => ({
    kind: 'member',
    id,
    name: called,
    roles: steward ? [{ id: 'steward', name: 'steward' }] : [],
    permissions: new Set(steward ? ['borrow', 'fine'] : ['borrow']),
    rank: steward ? 30 : 10,
    ownsGuild: false,
  });

  function inputOf(line: Line): Input {
    const { id, room, from, text, at } = line;
    const place: Place =
      room === undefined
        ? { kind: 'direct', channel: { id: from.id, name: from.name } }
        : { kind: 'guild', guild, channel: { id: room, name: room } };
    const caller = room === undefined ? userOf(from) : memberOf(from);
    return lines.keep({ surface: 'text', id, caller, place, text, at }, line);
  }

  const userOf = ({ id, name: called }: Someone) => ({ kind: 'user', id, name: called }) as const;
  const inGuild = ({ id }: Guild) => (id === guild.id ? [...people.values()] : []);
  const hand = (to: object, { notice }: Reply) => ask({ ...to, text: plainMarkup(plainText(notice)) });

  const platform: Platform = {
    name: 'own-chat',
    capabilities: { privateReplies: 'always', eventIds: true, longestReply: 500 },
    directory: {
      ...emptyDirectory,
      bot: () => (me === undefined ? undefined : userOf(me)),
      self: () => (me === undefined ? undefined : memberOf(me)),
      mention: ({ id }: Person) => `@${id}`,
      mentioned: (text, what) => (what === 'person' ? /^@([a-z]+)$/.exec(text)?.[1] : undefined),
      addressed: (text) => (text.startsWith(`@${me?.id} `) ? text.indexOf(' ') + 1 : -1),
      member: (of, id) =>
        inGuild(of)
          .filter((one) => one.id === id)
          .map(memberOf)[0],
      membersNamed: (of, typed) =>
        inGuild(of)
          .filter((one) => one.id.startsWith(typed.toLowerCase()))
          .map(memberOf),
      user: (id) => [...people.values()].filter((one) => one.id === id).map(userOf)[0],
      channels: () => rooms.map((room) => ({ id: room, name: room })),
    },
    guilds: () => [guild],
    deliver(reply, { place, caller }) {
      const isAlone = place.kind !== 'guild' || reply.visibleTo === 'caller';
      return hand(isAlone ? { do: 'tell', person: caller.id } : { do: 'say', room: place.channel.id }, reply);
    },
    tell: async ({ id }, reply) => void (await hand({ do: 'tell', person: id }, reply)),
    post: ({ id }, reply) => hand({ do: 'say', room: id }, reply),
    async serve(layer) {
      const own = new WebSocket(url);
      socket = own;
      own.on('message', (data) => {
        const { answer, ok, why, event, person, ...line } = JSON.parse(String(data));
        if (event === 'came') people.set(person.id, person);
        else if (event === 'left') people.delete(person.id);
        else if (event === 'said' && line.from.id !== me?.id) void layer.handle(inputOf(line), platform);
        const asked = waiting.get(answer);
        waiting.delete(answer);
        if (ok === undefined) asked?.failed(new PlatformError(codes[why] ?? 'platform.failed', why));
        else asked?.done(ok);
      });
      own.on('close', () => {
        const error = new PlatformError('platform.unreachable', 'The connection was lost', { mayHaveArrived: true });
        for (const { failed } of waiting.values()) failed(error);
      });
      await new Promise((resolve, reject) => own.once('open', resolve).once('error', reject));
      const entered = await ask({ do: 'enter', name });
      for (const one of entered.people) people.set(one.id, one);
      ({ you: me, rooms } = entered);
      const serving = { close: async () => own.terminate() };
      await layer.connected?.(platform, serving);
      return serving;
    },
  };
  return platform;
}
