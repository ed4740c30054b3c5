/** Guild settings: what a guild's managers decide for it, as data. */

/** A role by its id; or by its name, on a platform that says which roles are protected. */
export type RoleSubject = string | { readonly name: string };

/** Who a rule is about: exactly one of them. */
export type RuleSubject =
  | { readonly member: string; readonly role?: never; readonly channel?: never }
  | { readonly role: RoleSubject; readonly member?: never; readonly channel?: never }
  | { readonly channel: string; readonly member?: never; readonly role?: never };

/** Grants or denies to a member, a role or a channel, each by id; to a role by `{ name }`, too. */
export type AccessRule = RuleSubject & {
  /** The id of a command or a group, or `section:` and the name of a section. The most specific decides. */
  readonly command: string;
  readonly verdict: 'grant' | 'deny';
};

/** What a guild decides for itself, as data. */
export interface GuildSettings {
  /** In place of the layer's. */
  readonly prefixes?: readonly string[];
  /** BCP 47. */
  readonly locale?: string;
  /** IANA name, in place of the layer's. */
  readonly timeZone?: string;
  /** Ids of commands and groups that are switched off here, or `section:` and the name of a section. */
  readonly off?: readonly string[];
  /** The guild's role for each of the bot's own role names that is not the id of one here. */
  readonly roles?: Readonly<Record<string, RoleSubject>>;
  readonly rules?: readonly AccessRule[];
}
