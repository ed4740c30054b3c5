/** How the bot stands, for health checks. */
import type { ChannelState } from './channels.js';

/** How a bot stands on its network. */
export interface IrcState {
  /** `'connecting'` until it was there once, `'lost'` when it was and is not. */
  readonly link: 'idle' | 'connecting' | 'connected' | 'lost' | 'closed';
  /** Since when, in milliseconds since 1970-01-01 UTC. */
  readonly since: number;
  /** Why it is not there, in the server's words. */
  readonly why?: string;
  /** Which it has now; the one that it wants may be taken. */
  readonly nick: string;
  /** The account that it is logged in to. */
  readonly account?: string;
  readonly channels: readonly ChannelState[];
}
