/** A notice board over HTTP: it posts each event to the bot, knows people by ids alone, and has slash commands that are answered by a ticket. */
import { createServer, type IncomingMessage, type ServerResponse } from 'node:http';
import type { AddressInfo } from 'node:net';

export interface BoardPerson {
  readonly id: string;
  readonly name: string;
  readonly isSteward: boolean;
}

interface Note {
  readonly id: string;
  readonly room: string | undefined;
  readonly by: string;
  /** Who alone sees it. */
  readonly only: string | undefined;
  text: string;
}

interface Ticket {
  readonly room: string;
  readonly by: string;
  readonly until: number;
  isHeld: boolean;
  isAnswered: boolean;
}

export interface Board {
  readonly url: string;
  readonly notes: readonly Note[];
  person(name: string, isSteward?: boolean): BoardPerson;
  write(by: BoardPerson, text: string, room?: string): Promise<void>;
  invoke(by: BoardPerson, path: readonly string[], options: Readonly<Record<string, string>>): Promise<void>;
  /** Posts the latest event once more, as it does where it is not sure. */
  again(): Promise<void>;
  close(): Promise<void>;
}

const LONGEST = 400;
const DEADLINE_MS = 600;

/** @param bot the name of the bot */
export async function startBoard(bot: string): Promise<Board> {
  const people = new Map<string, BoardPerson>();
  const notes: Note[] = [];
  const tickets = new Map<string, Ticket>();
  let made = 0;
  let hook = '';
  let latest: object = {};
  const nextId = (what: string) => {
    made += 1;
    return `${what}${made}`;
  };
  const person = (name: string, isSteward = false) => {
    const one = { id: nextId('p'), name, isSteward };
    people.set(one.id, one);
    return one;
  };
  const me = person(bot, true);

  async function post(event: object): Promise<void> {
    latest = event;
    const response = await fetch(hook, { method: 'POST', body: JSON.stringify(event) });
    if (!response.ok) throw new Error(`the bot answers ${response.status}`);
  }

  /** The status, and what is told with it. */
  function answer(method: string, path: readonly string[], given: Record<string, unknown>): [number, object?] {
    const [what = '', id = '', more] = path;
    const text = String(given['text'] ?? '');
    if (text.length > LONGEST) return [413];
    switch (`${method} ${what}`) {
      case 'PUT hook':
        hook = String(given['url']);
        return [200, { me, rooms: ['counter', 'workshop'] }];
      case 'GET people': {
        const found = people.get(id);
        return found === undefined ? [404] : [200, found];
      }
      case 'POST find':
        return [200, [...people.values()].filter(({ name }) => name.toLowerCase().startsWith(text.toLowerCase()))];
      case 'POST rooms':
        return id === 'counter' || id === 'workshop' ? [200, added({ room: id, text, only: undefined })] : [404];
      case 'POST people':
        return people.has(id) ? [200, added({ room: undefined, text, only: id })] : [404];
      case 'PATCH notes':
      case 'DELETE notes': {
        const at = notes.findIndex((note) => note.id === id);
        if (at < 0) return [404];
        if (method === 'DELETE') notes.splice(at, 1);
        else (notes[at] as Note).text = text;
        return [200];
      }
      case 'POST tickets': {
        const ticket = tickets.get(id);
        if (ticket === undefined || ticket.isAnswered || (!ticket.isHeld && Date.now() > ticket.until)) return [410];
        if (more === 'hold') {
          ticket.isHeld = true;
          return [200];
        }
        ticket.isAnswered = true;
        return [200, added({ room: ticket.room, text, only: given['isPrivate'] === true ? ticket.by : undefined })];
      }
      default:
        return [404];
    }
  }

  function added(note: Pick<Note, 'room' | 'text' | 'only'>): Note {
    const kept = { id: nextId('n'), by: me.id, ...note };
    notes.push(kept);
    return kept;
  }

  const server = createServer(async (request: IncomingMessage, response: ServerResponse) => {
    let body = '';
    for await (const part of request) body += part;
    const [status, told = {}] = answer(
      request.method ?? '',
      (request.url ?? '').split('/').slice(1),
      JSON.parse(body || '{}'),
    );
    response.writeHead(status, { 'content-type': 'application/json' }).end(JSON.stringify(told));
  });
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));

  return {
    url: `http://127.0.0.1:${(server.address() as AddressInfo).port}`,
    notes,
    person,
    async write(by, text, room) {
      const note = { id: nextId('n'), room, by: by.id, only: undefined, text };
      notes.push(note);
      await post({ type: 'note', id: nextId('e'), by: by.id, room, text, note: note.id });
    },
    async invoke(by, path, options) {
      const ticket = nextId('t');
      tickets.set(ticket, {
        room: 'counter',
        by: by.id,
        until: Date.now() + DEADLINE_MS,
        isHeld: false,
        isAnswered: false,
      });
      await post({ type: 'command', id: nextId('e'), by: by.id, room: 'counter', path, options, ticket });
    },
    again: () => post(latest),
    async close() {
      server.closeAllConnections();
      await new Promise((resolve) => server.close(resolve));
    },
  };
}
