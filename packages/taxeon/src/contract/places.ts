/** Where an input happened. */

/** A place of people and channels, which decides for itself: a server, a community, on IRC a channel. */
export interface Guild {
  readonly id: string;
  readonly name: string;
}

/** A channel of a guild, or a conversation with one person. */
export interface Channel {
  readonly id: string;
  readonly name: string;
}

/** A channel of a guild. */
export interface GuildPlace {
  readonly kind: 'guild';
  readonly guild: Guild;
  readonly channel: Channel;
  /**
   * Who hears what is said there, where not all do: as the platform writes it, such as `@` for operators. A reply is for
   * the same people; the channel is the channel, no matter who hears it.
   */
  readonly heardBy?: string;
}

/** A conversation with one person. */
export interface DirectPlace {
  readonly kind: 'direct';
  readonly channel: Channel;
}

/** The bot's own console, in no guild unless its input names a `GuildPlace`. */
export interface ConsolePlace {
  readonly kind: 'console';
}

/** Where an input happened. */
export type Place = GuildPlace | DirectPlace | ConsolePlace;
