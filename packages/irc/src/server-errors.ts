/** What an IRC server says that goes wrong, and what it means for the connection, a channel, or what was said. */

import type { Client } from 'irc-framework';
import type { DeliveryCode } from 'taxeon/platform';
import type { Channels } from './channels.js';

export function listenForTroubles(client: Client, channels: Channels) {
  let last: string | undefined;
  /** The server's last word, which says more than the state of the socket. */
  let farewell: string | undefined;
  /** Why the bot itself left. */
  let cause: string | undefined;
  let isHopeless = false;
  let refused: (target: string, code: DeliveryCode, why: string) => void = () => undefined;
  client.on('irc error', ({ error, reason = error, channel, nick }: IrcError) => {
    if (error === 'irc') farewell = reason;
    else last = [error, channel, reason].filter((part) => part !== undefined).join(', ');
    if (error === 'password_mismatch' || (error === 'irc' && /password/i.test(reason))) isHopeless = true;
    if (channel !== undefined && joinErrors.has(error)) channels.shut(channel, 'shut', reason);
    const code = refusals[error];
    const target = channel ?? nick;
    if (code !== undefined && target !== undefined) refused(target, code, reason);
  });
  // Some refusals come as numerics that the client has no name for.
  client.on('unknown command', ({ command, params = [] }: { command: string; params?: readonly string[] }) => {
    const why = params.at(-1) ?? command;
    const channel = joinNumerics.has(command) ? params.find(channels.isWanted) : undefined;
    if (channel !== undefined) channels.shut(channel, 'shut', why);
    const target = params[1];
    if (sayNumerics.has(command) && target !== undefined) refused(target, 'platform.forbidden', why);
  });
  client.on('nick invalid', () => {
    isHopeless = true;
  });
  client.on('sasl failed', ({ reason, message = reason }: { reason: string; message?: string }) => {
    cause = `logging in failed: ${message}`;
    isHopeless = reason === 'fail' || reason === 'nick_locked';
  });
  client.on('socket close', (error?: Error | string | boolean) => {
    if (!(error instanceof Error)) return;
    last = error.message;
    isHopeless ||= 'code' in error && certificateErrors.test(String(error.code));
  });
  return {
    last: () => cause ?? farewell ?? last,
    isHopeless: () => isHopeless,
    onRefused(listener: typeof refused) {
      refused = listener;
    },
  };
}

interface IrcError {
  readonly error: string;
  readonly reason?: string;
  readonly channel?: string;
  readonly nick?: string;
}

/** As the client names the numerics by which a channel does not let a person in. */
const joinErrors = new Set([
  'no_such_channel',
  'too_many_channels',
  'channel_is_full',
  'invite_only_channel',
  'banned_from_channel',
  'bad_channel_key',
]);
/** Those that it has no name for: no such channel, unavailable, a bad name, only with an account or TLS, and others. */
const joinNumerics = new Set(['403', '407', '437', '470', '476', '477', '479', '485', '489', '520']);
/** What was said and is not passed on. */
const refusals: Readonly<Record<string, DeliveryCode>> = {
  cannot_send_to_channel: 'platform.forbidden',
  cannot_send_to_user: 'platform.forbidden',
  no_such_nick: 'platform.gone',
};
const sayNumerics = new Set(['404', '408', '415', '477', '486', '531', '716']);
const certificateErrors = /CERT|SIGNATURE|SELF_SIGNED/;
