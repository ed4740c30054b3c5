/** The words that a bot has of its own. */

/** What a bot calls its permissions, roles, sets of guilds and codes, declared once. */
export interface Vocabulary {
  readonly permissions?: readonly string[];
  /** The bot's own names for roles. */
  readonly roles?: readonly string[];
  /** Names of sets of guilds, as the layer has them in `scopes`. */
  readonly scopes?: readonly string[];
  /** Codes with which handlers refuse. */
  readonly codes?: readonly `${string}.${string}`[];
}

/** Any text for each sort of word. */
export interface AnyWords {
  readonly permission: string;
  readonly role: string;
  readonly scope: string;
}
