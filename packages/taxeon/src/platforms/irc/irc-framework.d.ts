/** The part of irc-framework 4 that the adapter uses; the package declares no types. */
declare module 'irc-framework' {
  import type { EventEmitter } from 'node:events';

  interface ClientOptions {
    host: string;
    port: number;
    tls: boolean;
    nick: string;
    username: string;
    gecos: string;
    password?: string;
    auto_reconnect: boolean;
    /** In bytes; what is longer is parted. */
    message_max_length?: number;
    /** In seconds. */
    ping_interval?: number;
    /** In seconds. */
    ping_timeout?: number;
    version: string | null;
  }

  class Client extends EventEmitter {
    readonly user: { nick: string };
    readonly connected: boolean;
    connect(options: ClientOptions): void;
    changeNick(nick: string): void;
    join(channel: string): void;
    who(target: string): void;
    say(target: string, message: string): void;
    notice(target: string, message: string): void;
    quit(message?: string): void;
    raw(...parts: string[]): void;
  }

  const framework: { Client: typeof Client };
  export default framework;
  export type { Client, ClientOptions };
}
