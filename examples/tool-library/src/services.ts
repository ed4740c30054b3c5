/** What Mallet's commands are given. */
import type { Channel, Guild } from 'taxeon';
import type { ToolLibrary } from './library.js';

/** A channel where Mallet posts what is late each morning. */
export interface Board {
  /** The platform's name. */
  readonly platform: string;
  readonly guild: Guild;
  readonly channel: Channel;
}

export interface Services {
  readonly library: ToolLibrary;
  /** The id of the main guild: its shelf is shown where a person asks in a direct message. */
  readonly home: string;
  readonly boards: readonly Board[];
}
