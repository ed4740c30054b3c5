/** What an adapter to one chat system gives, and what it may expect of a layer. */
import type { MaybePromise } from '../base/thenable.js';
import type { Member, Role, User } from './actors.js';
import type { DeliveryCode } from './codes.js';
import type { Input } from './input.js';
import type { Reply } from './notice.js';
import type { Outcome } from './outcome.js';
import type { Channel, Guild, Place } from './places.js';

/** What the platform can do; the layer degrades what it cannot. */
export interface Capabilities {
  /** Whether a private reply is possible, and to what. */
  readonly privateReplies: 'never' | 'slash' | 'always';
  /** How long a slash invocation may stay unanswered, in milliseconds; absent where there is no limit. */
  readonly replyDeadlineMs?: number;
  /** Whether every input carries the platform's event id. */
  readonly eventIds: boolean;
}

/** Who is where. Answers at once from memory where it can, and with a promise where it must ask. */
export interface Directory {
  /** The bot itself, as it stands in a guild. */
  self(guild: Guild): MaybePromise<Member | undefined>;
  /** The id inside a mention such as `@ines`; `undefined` where the text mentions nothing of the sort. */
  mentioned(text: string, what: 'person' | 'role' | 'channel'): string | undefined;
  /**
   * Where a text that begins by mentioning the bot goes on behind the mention, spaces aside; -1 where it does not.
   * Called for ordinary chat, so it should allocate nothing.
   */
  addressed?(text: string, place: Place): number;
  member(guild: Guild, id: string): MaybePromise<Member | undefined>;
  /** Members whose name is, or begins with, `name`, compared as the platform compares names. */
  membersNamed(guild: Guild, name: string): MaybePromise<readonly Member[]>;
  /** Somebody the platform knows by this id or exact name, in this guild or not. */
  user(idOrName: string): MaybePromise<User | undefined>;
  roles(guild: Guild): MaybePromise<readonly Role[]>;
  channels(guild: Guild): MaybePromise<readonly Channel[]>;
}

/** What adapters need of a layer: it takes inputs and tells outcomes. */
export interface InputHandler {
  handle(input: Input, platform?: Platform): Promise<Outcome>;
  /** Called once the platform is connected; what does not fit between the two is told in the layer's log. */
  connected?(platform: Platform): Promise<void>;
}

export interface Serving {
  /** Takes no more inputs and lets go of the connection. */
  close(): Promise<void>;
}

export interface Platform {
  readonly name: string;
  readonly capabilities: Capabilities;
  readonly directory: Directory;
  /** All permissions that the platform knows, where it has a list of them. */
  readonly permissions?: readonly string[];
  /** The guilds that the bot is in, where the platform tells. */
  guilds?(): MaybePromise<readonly Guild[]>;
  /**
   * Hands a reply over. Resolves once the platform has taken it.
   *
   * @throws PlatformError with the code that says why it was not taken.
   */
  deliver(reply: Reply, to: Input): MaybePromise<void>;
  serve(layer: InputHandler): Promise<Serving>;
}

/** Why a platform did not do what was asked. */
export class PlatformError extends Error {
  override readonly name = 'PlatformError';
  readonly code: DeliveryCode;

  constructor(code: DeliveryCode, message: string, options?: ErrorOptions) {
    super(message, options);
    this.code = code;
  }
}

/** Where a place is a guild's, the guild. */
export function guildOf(place: Place): Guild | undefined {
  return place.kind === 'guild' ? place.guild : undefined;
}
