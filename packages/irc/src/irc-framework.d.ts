/** The part of irc-framework 4 that the adapter uses; the package declares no types. */
declare module 'irc-framework' {
  import type { EventEmitter } from 'node:events';

  interface ClientOptions {
    host: string;
    port: number;
    tls: boolean;
    /** Whether a certificate that no known authority has signed ends the connection. */
    rejectUnauthorized?: boolean;
    client_certificate?: { private_key: string; certificate: string };
    nick: string;
    username: string;
    gecos: string;
    password?: string;
    /** For SASL PLAIN; an empty one, or the server's password would be sent in its place. */
    account: { account?: string; password?: string };
    sasl_mechanism?: 'PLAIN' | 'EXTERNAL';
    sasl_disconnect_on_fail?: boolean;
    enable_echomessage?: boolean;
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
    readonly network: {
      supports(name: string): unknown;
      readonly options: { PREFIX: readonly { readonly symbol: string; readonly mode: string }[] };
      readonly cap: { isEnabled(name: string): boolean };
    };
    readonly connection: {
      /** Takes one line from the server. */
      addReadBuffer(line: string): void;
      end(lastLine: string | null, isLost?: boolean): void;
    };
    readonly whox_token: { next(): number };
    connect(options: ClientOptions): void;
    changeNick(nick: string): void;
    /** Small letters as the server's case mapping makes them. */
    caseLower(text: string): string;
    join(channel: string): void;
    say(target: string, message: string): void;
    notice(target: string, message: string): void;
    quit(message?: string): void;
    raw(...parts: string[]): void;
  }

  const framework: { Client: typeof Client };
  export default framework;
  export type { Client, ClientOptions };
}
