/** People and bots on a real IRC server, who leave again after each test. */
import { type AddressInfo, connect, createServer, type Socket } from 'node:net';
import { type IrcOptions, irc } from '@taxeon/irc';
import { arg, type Command, command, createCommandLayer, type LayerOptions, type Log } from 'taxeon';
import { afterEach } from 'vitest';
import { silentLog } from '../../../../test/support/oddmere.js';
import { type IrcPerson, joinAs } from './ngircd.js';

export interface IrcStage {
  /** What is to be undone after the test. */
  readonly leaving: (() => Promise<unknown>)[];
  person(nick: string, channel: string, username?: string): Promise<IrcPerson>;
  bot(
    channels: IrcOptions['channels'],
    commands: readonly Command[],
    more?: Partial<IrcOptions>,
    layerOptions?: Partial<LayerOptions>,
  ): Promise<{ readonly layer: ReturnType<typeof createCommandLayer>; readonly platform: ReturnType<typeof irc> }>;
}

export function ircStage(ports: () => { readonly port: number; readonly peoplePort?: number }): IrcStage {
  const leaving: (() => Promise<unknown>)[] = [];
  afterEach(async () => {
    for (const leave of leaving.splice(0).reverse()) await leave();
  });
  return {
    leaving,
    async person(nick, channel, username) {
      const { port, peoplePort = port } = ports();
      const joined = await joinAs(nick, peoplePort, channel, undefined, username);
      leaving.push(() => joined.leave());
      return joined;
    },
    async bot(channels, commands, more = {}, layerOptions = {}) {
      const layer = createCommandLayer({ commands, prefixes: ['!'], log: silentLog, ...layerOptions });
      const platform = irc({
        host: '127.0.0.1',
        port: ports().port,
        nick: 'Mallet',
        channels,
        identity: 'user@host',
        pace: '1000 in 1s',
        pauses: { first: { ms: 30 }, most: { ms: 200 } },
        log: silentLog,
        ...more,
      });
      leaving.push(() => platform.close());
      await platform.serve(layer);
      return { layer, platform };
    },
  };
}

/** A command that counts its calls. */
export function counting(name = 'count') {
  const calls: (string | undefined)[] = [];
  const run = ({ inputId }: { readonly inputId: string | undefined }) => {
    calls.push(inputId);
    return `${calls.length} so far`;
  };
  return { calls, command: command({ name, description: 'Count', run }) };
}

export const jot = command({
  name: 'jot',
  description: 'Jot something down',
  args: { text: arg.tail() },
  run: ({ args }) => args.text,
});

/** A command whose answer comes when the test says. */
export function slow(name = 'slow', more: { readonly visibleTo?: 'caller' } = {}) {
  const finish: ((answer: string) => void)[] = [];
  const run = () => new Promise<string>((resolve) => void finish.push(resolve));
  return { finish, command: command({ name, description: 'Answers later', run, ...more }) };
}

export function listeningLog() {
  const warned: { readonly message: string; readonly fields: Readonly<Record<string, unknown>> }[] = [];
  const take = (fields: Readonly<Record<string, unknown>>, message: string) => void warned.push({ message, fields });
  const log: Log = { error: take, warn: take };
  return { log, warned, has: (message: string) => warned.some((one) => one.message === message) };
}

/** Passes bytes on, until those that it passes for are to have none any more. */
export async function passingTo(port: number) {
  const pairs: [Socket, Socket][] = [];
  const server = createServer((client) => {
    const there = connect(port, '127.0.0.1');
    pairs.push([client, there]);
    for (const [from, to] of [
      [client, there],
      [there, client],
    ] as const) {
      from.on('data', (data) => to.write(data));
      from.on('error', () => undefined);
    }
  });
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  return {
    port: (server.address() as AddressInfo).port,
    pause() {
      for (const sockets of pairs) for (const socket of sockets) socket.removeAllListeners('data').resume();
    },
    async stop() {
      for (const sockets of pairs) for (const socket of sockets) socket.destroy();
      await new Promise((resolve) => server.close(resolve));
    },
  };
}
