/** The adapter to the notice board, as somebody writes it who has read docs/platforms.md. */
import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import { type Guild, type Member, type Place, plainText, type User } from 'taxeon';
import {
  type Delivered,
  type DeliveryCode,
  emptyDirectory,
  type Input,
  type InputHandler,
  keepNatives,
  type Platform,
  PlatformError,
  plainMarkup,
  type Reply,
} from 'taxeon/platform';
import type { BoardPerson } from './server.js';

export interface BoardEvent {
  readonly type: 'note' | 'command';
  readonly id: string;
  readonly by: string;
  readonly room?: string;
  readonly text?: string;
  readonly note?: string;
  readonly path?: readonly string[];
  readonly options?: Readonly<Record<string, string>>;
  readonly ticket?: string;
}

const events = keepNatives<BoardEvent>();
export const nativeOf = events.nativeOf;

const guild: Guild = { id: 'board', name: 'Notice board' };
const codes: Readonly<Record<number, DeliveryCode>> = {
  403: 'platform.forbidden',
  404: 'platform.gone',
  410: 'platform.gone',
  429: 'platform.slowed',
};

export function boardChat(url: string): Platform {
  /** Those that were asked for; the board tells ids alone. */
  const known = new Map<string, BoardPerson>();
  const answered = new WeakSet<BoardEvent>();
  let me: BoardPerson | undefined;
  let rooms: readonly string[] = [];

  async function ask<Answer>(method: string, path: string, body?: object): Promise<Answer> {
    const response = await fetch(`${url}/${path}`, {
      method,
      ...(body === undefined ? {} : { body: JSON.stringify(body) }),
    }).catch((cause: unknown) => {
      throw new PlatformError('platform.unreachable', 'The board does not answer', {
        cause,
        mayHaveArrived: method !== 'GET',
      });
    });
    if (!response.ok)
      throw new PlatformError(codes[response.status] ?? 'platform.failed', `The board says ${response.status}`);
    return (await response.json()) as Answer;
  }

  async function personOf(id: string): Promise<BoardPerson | undefined> {
    const found = known.get(id) ?? (await ask<BoardPerson>('GET', `people/${id}`).catch(() => undefined));
    if (found !== undefined) known.set(id, found);
    return found;
  }

  const userOf = ({ id, name }: BoardPerson): User => ({ kind: 'user', id, name });
  const memberOf = ({ id, name, isSteward }: BoardPerson): Member => ({
    kind: 'member',
    id,
    name,
    roles: isSteward ? [{ id: 'steward', name: 'steward' }] : [],
    permissions: new Set(isSteward ? ['borrow', 'fine'] : ['borrow']),
    rank: isSteward ? 30 : 10,
    ownsGuild: false,
  });

  async function inputOf(event: BoardEvent): Promise<Input> {
    const { id, by, room, text, path, options, type } = event;
    const person = (await personOf(by)) ?? { id: by, name: by, isSteward: false };
    const place: Place =
      room === undefined
        ? { kind: 'direct', channel: { id: by, name: person.name } }
        : { kind: 'guild', guild, channel: { id: room, name: room } };
    const caller = room === undefined ? userOf(person) : memberOf(person);
    const at = Date.now();
    const input: Input =
      type === 'command'
        ? { surface: 'slash', id, caller, place, path: path ?? [], options: options ?? {}, at }
        : { surface: 'text', id, caller, place, text: text ?? '', at };
    return events.keep(input, event);
  }

  const textOf = ({ notice }: Reply) => plainMarkup(plainText(notice));

  const platform: Platform = {
    name: 'board',
    capabilities: { privateReplies: 'slash', replyDeadlineMs: 600, eventIds: true, longestReply: 400 },
    directory: {
      ...emptyDirectory,
      bot: () => me && userOf(me),
      self: () => me && memberOf(me),
      mention: ({ id }) => `[p:${id}]`,
      mentioned: (text, what) => (what === 'person' ? /^\[p:(\w+)\]$/.exec(text)?.[1] : undefined),
      addressed(text) {
        const mention = `[p:${me?.id}] `;
        return text.startsWith(mention) ? mention.length : -1;
      },
      member: async (of, id) => {
        const found = of.id === guild.id ? await personOf(id) : undefined;
        return found && memberOf(found);
      },
      membersNamed: async (of, name) =>
        of.id === guild.id ? (await ask<BoardPerson[]>('POST', 'find', { text: name })).map(memberOf) : [],
      user: async (id) => {
        const found = await personOf(id);
        return found && userOf(found);
      },
      channels: () => rooms.map((room) => ({ id: room, name: room })),
    },
    guilds: () => [guild],
    async deliver(reply, to): Promise<Delivered> {
      const text = textOf(reply);
      const event = events.of(to);
      if (event?.ticket !== undefined && !answered.has(event)) {
        answered.add(event);
        return ask('POST', `tickets/${event.ticket}`, { text, isPrivate: reply.visibleTo === 'caller' });
      }
      const { place, caller } = to;
      return place.kind === 'guild'
        ? ask('POST', `rooms/${place.channel.id}`, { text })
        : ask('POST', `people/${caller.id}`, { text });
    },
    hold: async (to) => void (await ask('POST', `tickets/${events.of(to)?.ticket}/hold`, {})),
    edit: async ({ id }, reply) => void (await ask('PATCH', `notes/${id}`, { text: textOf(reply) })),
    remove: async ({ id }) => void (await ask('DELETE', `notes/${id}`)),
    tell: async ({ id }, reply) => void (await ask('POST', `people/${id}`, { text: textOf(reply) })),
    post: ({ id }, reply) => ask('POST', `rooms/${id}`, { text: textOf(reply) }),
    removeInput: async (input) => void (await ask('DELETE', `notes/${events.of(input)?.note}`)),
    async serve(layer: InputHandler) {
      const server = createServer(async (request, response) => {
        let body = '';
        for await (const part of request) body += part;
        // At once, since the board posts again what it is not sure of.
        response.end();
        const event = JSON.parse(body) as BoardEvent;
        if (event.by !== me?.id) void layer.handle(await inputOf(event), platform);
      });
      await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
      const { port } = server.address() as AddressInfo;
      ({ me, rooms } = await ask<{ me: BoardPerson; rooms: readonly string[] }>('PUT', 'hook', {
        url: `http://127.0.0.1:${port}/`,
      }));
      const serving = {
        close: async () => {
          server.closeAllConnections();
          await new Promise((resolve) => server.close(resolve));
        },
      };
      await layer.connected?.(platform, serving);
      return serving;
    },
  };
  return platform;
}
