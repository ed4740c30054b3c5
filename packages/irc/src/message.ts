/** What a person has said, as IRC shows it: no type of the client's, which has none for its users. */
import type { Presence } from './roster.js';

/** A message from a person. */
export interface IrcMessage {
  readonly presence: Presence;
  /** The channel, or the bot's own nick for a direct message. */
  readonly target: string;
  /** The sign of those in the channel who see it, `@` for operators; `undefined` where all do. */
  readonly group?: string | undefined;
  readonly text: string;
  /** The server's own id for it, where it gives one. */
  readonly id?: string | undefined;
  /** The server says that a bot sent it. */
  readonly isBot?: boolean;
}
