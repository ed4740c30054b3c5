/** A connection of the store's own, made as the developer's: to one server or a cluster, by either of the two clients. */

/**
 * A client of the package `redis` or `ioredis`, or a cluster of one. The store makes two connections like it, and
 * leaves it alone.
 */
export interface RedisConnection {
  duplicate(...options: never[]): unknown;
}

type RedisCommand = readonly string[];

/** Sends one command. */
export type SendCommand = (words: RedisCommand) => Promise<unknown>;

export interface RedisLink {
  /** Once it may be asked; rejects where it never will. */
  readonly ready: Promise<unknown>;
  /** Sends a command to the server that has this key. */
  send(key: string, words: RedisCommand): Promise<unknown>;
  /** All servers that have keys. */
  servers(): Promise<readonly SendCommand[]>;
  subscribe(channel: string, listener: (message: string) => void): Promise<unknown>;
  /** What is not answered yet may reject, or never settle. */
  end(): void;
}

export interface Linking {
  readonly isCluster: boolean;
  /**
   * @param troubled told of what the client tells of its connection
   * @param lost told where what was sent is not answered any more, and the client does not say so
   */
  open(troubled: (error: unknown) => void, lost?: () => void): RedisLink;
}

interface Emitter {
  on(event: string, listener: (...given: readonly unknown[]) => void): unknown;
}

/** What the client of the package `redis` has. */
interface Plain extends Emitter {
  duplicate(options: object): Plain;
  connect(): Promise<unknown>;
  sendCommand(words: RedisCommand): Promise<unknown>;
  subscribe(channel: string, listener: (message: string) => void): Promise<unknown>;
  destroy(): void;
}

interface PlainCluster extends Emitter {
  duplicate(options: object): PlainCluster;
  connect(): Promise<unknown>;
  sendCommand(key: string, isReadonly: boolean, words: RedisCommand): Promise<unknown>;
  readonly masters: readonly unknown[];
  nodeClient(node: unknown): Promise<Plain> | Plain;
  subscribe(channel: string, listener: (message: string) => void): Promise<unknown>;
  destroy(): void;
}

/** What the client of the package `ioredis` has. */
interface Other extends Emitter {
  readonly status: string;
  connect(): Promise<unknown>;
  call(name: string, ...words: RedisCommand): Promise<unknown>;
  subscribe(channel: string): Promise<unknown>;
  disconnect(): void;
}

interface OtherSingle extends Other {
  duplicate(options: object): OtherSingle;
}

interface OtherCluster extends Other {
  readonly options: { readonly redisOptions?: object };
  duplicate(nodes: readonly never[], options: object): OtherCluster;
  nodes(role: 'master'): readonly OtherSingle[];
}

/** @throws TypeError for what is none of the four clients */
export function linking(connection: unknown): Linking {
  const has = (...names: readonly string[]) => names.every((name) => typeof Object(connection)[name] === 'function');
  if (has('duplicate', 'call', 'nodes')) return otherCluster(connection as OtherCluster);
  if (has('duplicate', 'call')) return otherSingle(connection as OtherSingle);
  if (has('duplicate', 'nodeClient', 'sendCommand')) return plainCluster(connection as PlainCluster);
  if (has('duplicate', 'sendCommand', 'connect')) return plainSingle(connection as Plain);
  throw new TypeError(
    `${typeof connection === 'string' ? JSON.stringify(connection) : String(connection)} is no client of Redis; give what createClient or createCluster of the package redis gives, or new Redis or new Cluster of ioredis`,
  );
}

/** What tells that messages may have been missed. */
const TROUBLES = ['error', 'reconnecting', 'end', 'close', 'node error', 'node-error', 'node-reconnecting', '-node'];

function watchErrors(emitter: Emitter, troubled: (error: unknown) => void): void {
  for (const event of TROUBLES) emitter.on(event, (error) => troubled(error));
}

/** Answers as they come; and the store has a patience of its own. */
const PLAIN_OPTIONS = { commandOptions: { timeout: undefined } };
/** A client that is ended while it connects leaves the connection behind: so long it is waited for. */
const CONNECTING_MS = 2000;

/** What is about to be opened, and ending the client once it is open. */
function connecting(client: { destroy(): void }) {
  const underWay = new Set<Promise<unknown>>();
  let isEnded = false;
  return {
    connects<T>(begin: () => Promise<T>): Promise<T> {
      if (isEnded) return Promise.reject(new Error('The connection is closed'));
      const doing = begin();
      underWay.add(doing);
      const over = () => void underWay.delete(doing);
      doing.then(over, over);
      return doing;
    },
    end(): void {
      isEnded = true;
      const end = () => quietly(() => client.destroy());
      if (underWay.size === 0) {
        end();
        return;
      }
      const patience = new Promise((resolve) => setTimeout(resolve, CONNECTING_MS).unref());
      void Promise.race([Promise.allSettled(underWay), patience]).then(end);
    },
  };
}

function plainSingle(connection: Plain): Linking {
  return {
    isCluster: false,
    open(troubled) {
      const client = connection.duplicate(PLAIN_OPTIONS);
      const { connects, end } = connecting(client);
      watchErrors(client, troubled);
      const send: SendCommand = (words) => client.sendCommand(words);
      return {
        ready: connects(() => client.connect()),
        send: (_, words) => send(words),
        servers: async () => [send],
        subscribe: (channel, listener) => connects(() => client.subscribe(channel, listener)),
        end,
      };
    },
  };
}

function plainCluster(connection: PlainCluster): Linking {
  return {
    isCluster: true,
    open(troubled) {
      const client = connection.duplicate(PLAIN_OPTIONS);
      const { connects, end } = connecting(client);
      watchErrors(client, troubled);
      const serverOf = async (node: unknown): Promise<SendCommand> => {
        const server = await client.nodeClient(node);
        return (words) => server.sendCommand(words);
      };
      return {
        ready: connects(() => client.connect()),
        send: (key, words) => client.sendCommand(key, false, words),
        servers: () => connects(() => Promise.all(client.masters.map(serverOf))),
        subscribe: (channel, listener) => connects(() => client.subscribe(channel, listener)),
        end,
      };
    },
  };
}

/** What was sent is not sent a second time by the client: the store does that, and knows what has arrived. */
const OTHER_OPTIONS = { keyPrefix: '', autoResendUnfulfilledCommands: false, stringNumbers: false };

function otherSingle(connection: OtherSingle): Linking {
  return {
    isCluster: false,
    open(troubled, lost) {
      const client = connection.duplicate(OTHER_OPTIONS);
      if (lost !== undefined) client.on('close', lost);
      return other(client, troubled, () => [client]);
    },
  };
}

function otherCluster(connection: OtherCluster): Linking {
  return {
    isCluster: true,
    open(troubled) {
      const redisOptions = { ...connection.options.redisOptions, ...OTHER_OPTIONS };
      const client = connection.duplicate([], { keyPrefix: '', retryDelayOnFailover: 0, redisOptions });
      return other(client, troubled, () => client.nodes('master'));
    },
  };
}

function other<Client extends Other>(
  client: Client,
  troubled: (error: unknown) => void,
  serversOf: (client: Client) => readonly Other[],
): RedisLink {
  watchErrors(client, troubled);
  if (client.status === 'wait') client.connect().catch(troubled);
  return {
    ready: Promise.resolve(),
    send: (_, [name = '', ...words]) => client.call(name, ...words),
    servers: async () =>
      serversOf(client).map(
        (server) =>
          ([name = '', ...words]) =>
            server.call(name, ...words),
      ),
    subscribe(channel, listener) {
      client.on('message', (from, message) => {
        if (from === channel) listener(String(message));
      });
      return client.subscribe(channel);
    },
    end: () => quietly(() => client.disconnect()),
  };
}

/** A client that is closed already throws. */
function quietly(what: () => void): void {
  try {
    what();
  } catch {
    // It is closed.
  }
}
