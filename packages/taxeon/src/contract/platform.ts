/** What an adapter to one chat system gives, and what it may expect of a layer. */
import { bears, mark } from '../base/mark.js';
import type { MaybePromise } from '../base/thenable.js';
import type { Clock } from '../base/time.js';
import type { Member, Person, Role, User } from './actors.js';
import type { DeliveryCode } from './codes.js';
import type { Form } from './form.js';
import type { Input } from './input.js';
import type { Notice, Reply, Visibility } from './notice.js';
import type { Outcome } from './outcome.js';
import type { Channel, Guild, Place } from './places.js';
import type { Registrar } from './registrar.js';

/** What the platform can do; the layer degrades what it cannot, as docs/replies.md says. */
export interface Capabilities {
  /** Whether a private reply is possible, and to what. */
  readonly privateReplies: 'never' | 'slash' | 'always';
  /**
   * Whether refusals on text are said in the place even where they could be said to the caller alone, since people may
   * not see what is said elsewhere. What a bot's `manners` say, and commands whose replies are private, stand above it.
   */
  readonly refusalsInPlace?: boolean;
  /** How long a slash invocation may stay unanswered, in milliseconds; absent where there is no limit. */
  readonly replyDeadlineMs?: number;
  /** Whether every input carries the platform's event id. */
  readonly eventIds: boolean;
  /** How long one message may be, as `measure` counts; longer ones are split. Absent where there is no limit. */
  readonly longestReply?: number;
  /**
   * How long a reply may be where others talk, as `measure` counts. The rest is told to the caller alone, or left out
   * where nobody can be told anything. Absent where a place takes all of it.
   */
  readonly longestAmongOthers?: number;
  /** How much it takes in how long, made by `paced`; what is more waits for its turn. */
  readonly pace?: Pace;
  /** Whether the platform takes expiring messages away by itself. */
  readonly expires?: boolean;
  /** Whether a delivery under the same key is taken only once. */
  readonly idempotencyKeys?: boolean;
  /** How many suggestions it shows; 20 by default. */
  readonly mostSuggestions?: number;
  /** How long a sign of typing is shown, in milliseconds, after which it is given again; once where it is absent. */
  readonly typingMs?: number;
}

/** Lets what is said wait for its turn; `paced` makes one. */
export interface Pace {
  /** Nothing where it may be said now; otherwise resolves when its turn has come. `'full'` where too much waits for it to be said. */
  turn(turn: Turn): Promise<void> | 'full' | undefined;
}

/** What wants to be said. */
export interface Turn {
  /** The id of the channel, or of the person who is told alone. */
  readonly channel: string;
  /** The id of the person whose call it is. */
  readonly person: string;
  /** The same object for all that one call says. */
  readonly call: unknown;
  readonly reply?: Reply;
  readonly clock: Clock;
  /** It says that more is left out. It comes before all else that waits for this person, and once until nothing does. */
  readonly isWarning?: boolean;
}

/** Who is where. Answers at once from memory where it can, and with a promise where it must ask. */
export interface Directory {
  /** Who the bot is on this platform. */
  bot(): MaybePromise<User | undefined>;
  /** The bot itself, as it stands in a guild. */
  self(guild: Guild): MaybePromise<Member | undefined>;
  /** The id inside a mention such as `@ines`; `undefined` where the text mentions nothing of the sort. */
  mentioned(text: string, what: 'person' | 'role' | 'channel'): string | undefined;
  /**
   * Where a text that begins by mentioning the bot goes on behind the mention, spaces aside: its end where nothing does.
   * -1 where it does not begin so.
   * Called for ordinary chat, so it should allocate nothing.
   */
  addressed?(text: string, place: Place): number;
  member(guild: Guild, id: string): MaybePromise<Member | undefined>;
  /** Members whose name is, or begins with, `name`, compared as the platform compares names. */
  membersNamed(guild: Guild, name: string): MaybePromise<readonly Member[]>;
  /** A person the platform knows by this id or exact name, in this guild or not. */
  user(idOrName: string): MaybePromise<User | undefined>;
  roles(guild: Guild): MaybePromise<readonly Role[]>;
  channels(guild: Guild): MaybePromise<readonly Channel[]>;
  /** The text that mentions a person, such as `@ines`; their name where it is absent. */
  mention?(person: Person): string;
}

/** What adapters need of a layer: it takes inputs and tells outcomes. */
export interface InputHandler {
  handle(input: Input, platform?: Platform): Promise<Outcome>;
  /**
   * Called once the platform is connected; what does not fit between the two is told in the layer's log.
   *
   * @param serving what the platform's `serve` gives; closed when the layer is
   */
  connected?(platform: Platform, serving?: Serving): Promise<void>;
}

/** A platform that is connected to a layer. */
export interface Serving {
  /** Takes no more inputs and lets go of the connection; a second time does nothing. */
  close(): Promise<void>;
}

/** The adapter to one chat system. docs/platforms.md builds one. */
export interface Platform {
  readonly name: string;
  readonly capabilities: Capabilities;
  readonly directory: Directory;
  /** All permissions that the platform knows, where it has a list of them. */
  readonly permissions?: readonly string[];
  /** The guilds that the bot is in, where the platform tells. */
  guilds?(): MaybePromise<readonly Guild[]>;
  /**
   * Hands a reply over. Resolves once the platform has taken it; the first answers a slash invocation,
   * held or not, and all that follow are messages of their own.
   *
   * @param key the same for every attempt at the same reply
   * @returns what `edit` and `remove` need, where the platform has them
   * @throws PlatformError with the code that says why it was not taken.
   */
  deliver(reply: Reply, to: Input, key: string): MaybePromise<Delivered | void>;
  /** How long the platform's form of a notice is; the length of its plain text by default. */
  measure?(notice: Notice): number;
  /** Keeps a slash invocation open past its deadline, until `deliver` answers it. */
  hold?(to: Input, visibleTo: Visibility): MaybePromise<void>;
  edit?(delivered: Delivered, reply: Reply, to: Input): MaybePromise<void>;
  remove?(delivered: Delivered, to: Input): MaybePromise<void>;
  /** Shows in the place of an input that an answer is being made. */
  typing?(to: Input): MaybePromise<void>;
  /** Says something to a person alone, in a conversation of their own. */
  tell?(person: Person, reply: Reply): MaybePromise<void>;
  /** Says something in a channel, as an answer to nothing. */
  post?(channel: Channel, reply: Reply): MaybePromise<Delivered | void>;
  /** Takes away the message that an input was; `attribution` is for the platform's own record of it. */
  removeInput?(input: Input, attribution: string): MaybePromise<void>;
  /** Shows a form in answer to a slash command. Without it, what is missing there is refused. */
  form?(form: Form, to: Input): MaybePromise<void>;
  serve(layer: InputHandler): Promise<Serving>;
  /** Where slash commands are held, on platforms that want them registered. */
  readonly registrar?: Registrar;
}

/** What a platform needs to find again what it has delivered. */
export interface Delivered {
  readonly id: string;
}

/** What a platform’s error tells besides its code. */
export interface PlatformErrorOptions extends ErrorOptions {
  /** After how long the platform asks to be tried again. */
  readonly retryAfterMs?: number;
  /** The platform may have done it all the same, so that a second attempt could do it twice. */
  readonly mayHaveArrived?: boolean;
}

/** Why a platform did not do what was asked. */
export class PlatformError extends Error {
  override readonly name = 'PlatformError';
  readonly [mark] = 'platform-error';
  readonly code: DeliveryCode;
  readonly retryAfterMs: number | undefined;
  readonly mayHaveArrived: boolean;

  constructor(code: DeliveryCode, message: string, options: PlatformErrorOptions = {}) {
    super(message, options);
    this.code = code;
    this.retryAfterMs = options.retryAfterMs;
    this.mayHaveArrived = options.mayHaveArrived ?? false;
  }
}

/**
 * Whether something is a platform’s error, also of another copy of the library.
 *
 * @example
 * const unreachable = (error: unknown) => isPlatformError(error) && error.code === 'platform.unreachable';
 */
export function isPlatformError(error: unknown): error is PlatformError {
  return bears(error, 'platform-error');
}

/** Where a place is a guild's, the guild. */
export function guildOf(place: Place): Guild | undefined {
  return place.kind === 'guild' ? place.guild : undefined;
}
