/** A small chat over WebSocket: rooms, people, and lines to one person alone. Text is plain; `@id` mentions somebody. */
import type { AddressInfo } from 'node:net';
import { type WebSocket, WebSocketServer } from 'ws';

interface Someone {
  readonly id: string;
  readonly name: string;
  readonly steward: boolean;
}

interface Asked {
  readonly ask: number;
  readonly do: 'enter' | 'say' | 'tell';
  readonly name?: string;
  readonly room?: string;
  readonly person?: string;
  readonly text?: string;
}

const rooms = ['counter', 'workshop'];
const LONGEST = 500;

export interface ChatServer {
  readonly url: string;
  /** Sends what somebody said last once more. */
  again(): void;
  close(): Promise<void>;
}

export async function startChat(): Promise<ChatServer> {
  const people = new Map<WebSocket, Someone>();
  const server = new WebSocketServer({ port: 0, host: '127.0.0.1' });
  await new Promise((resolve) => server.once('listening', resolve));
  let messages = 0;
  let latest: object = {};

  function answer(socket: WebSocket, { do: what, name = '', room = '', person, text = '' }: Asked): object {
    const from = people.get(socket);
    if (what === 'enter') {
      const you = { id: name.toLowerCase(), name, steward: name === 'Ines' };
      people.set(socket, you);
      tell({ event: 'came', person: you });
      return { ok: { you, people: [...people.values()], rooms } };
    }
    if (from === undefined || text.length > LONGEST) return { why: 'forbidden' };
    const id = `line-${++messages}`;
    if (what === 'say') {
      if (!rooms.includes(room)) return { why: 'gone' };
      tell({ event: 'said', id, room, from, text, at: Date.now() });
      return { ok: { id } };
    }
    const [to] = [...people].find(([, one]) => one.id === person) ?? [];
    if (to === undefined) return { why: 'gone' };
    to.send(JSON.stringify({ event: 'said', id, from, text, at: Date.now() }));
    return { ok: { id } };
  }

  function tell(event: { readonly event: string; readonly from?: Someone; readonly [name: string]: unknown }): void {
    if (event.event === 'said' && event.from?.name !== 'Mallet') latest = event;
    for (const socket of people.keys()) socket.send(JSON.stringify(event));
  }

  server.on('connection', (socket) => {
    socket.on('message', (data) => {
      const asked = JSON.parse(String(data)) as Asked;
      socket.send(JSON.stringify({ answer: asked.ask, ...answer(socket, asked) }));
    });
    socket.on('close', () => {
      const gone = people.get(socket);
      people.delete(socket);
      if (gone !== undefined) tell({ event: 'left', person: gone });
    });
  });
  return {
    url: `ws://127.0.0.1:${(server.address() as AddressInfo).port}`,
    again: () => tell(latest as { event: string }),
    async close() {
      for (const socket of server.clients) socket.terminate();
      await new Promise((resolve) => server.close(resolve));
    },
  };
}
