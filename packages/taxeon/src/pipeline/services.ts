/** What all inputs of a layer share. */
import type { Rights } from '../access/scene.js';
import type { NameTable } from '../base/name-table.js';
import type { MaybePromise } from '../base/thenable.js';
import type { Clock } from '../base/time.js';
import type { Catalogue, CompiledCommand } from '../catalogue/catalogue.js';
import type { Answer, Call, RefusalHook } from '../commands/call.js';
import type { OutagePolicy } from '../commands/cooldowns.js';
import type { Manners, MessageOverrides } from '../contract/codes.js';
import type { Log } from '../contract/log.js';
import type { Limit, Store } from '../contract/store.js';
import type { DeliveryServices } from '../delivery/conversation.js';
import type { GuildSettingsBook } from '../guilds/book.js';
import type { Events } from '../observe/events.js';
import type { SparseLog } from '../observe/sparse-log.js';
import type { UsageCounter } from '../observe/usage.js';
import type { PrefixMatcher } from '../reading/prefix.js';
import type { Language } from '../replies/language.js';
import type { Damping } from './damping.js';
import type { Edits } from './edits.js';
import type { GiveBacks } from './give-backs.js';
import type { Handlers } from './handlers.js';
import type { Leases } from './leases.js';
import type { RecentIds } from './recent.js';
import type { Waiting } from './waiting.js';

export interface Services {
  /** As it is now; an input keeps to the one it began with. */
  catalogue: Catalogue;
  /** Names of commands and groups that catalogues before this one had: people may still see them somewhere. */
  readonly formerNames: NameTable<true>;
  /** Told of what a platform gave that is no input. */
  malformed(problem: unknown): void;
  /** The layer takes no more inputs. */
  isClosing: boolean;
  readonly clock: Clock;
  /** The same, but it never goes back: for what must not stand still when the other is set back. */
  readonly steady: Clock;
  readonly log: Log;
  readonly reference: () => string;
  readonly delivery: DeliveryServices;
  readonly events: Events;
  readonly usage: UsageCounter | undefined;
  /** How long a function of the developer's may take to settle, in milliseconds; handlers aside. */
  readonly patienceMs: number;

  /** What the layer hears. */
  readonly prefixes: PrefixMatcher;
  readonly mentionIsPrefix: boolean;
  readonly prefixInDirect: 'required' | 'optional';
  readonly recent: RecentIds;
  /** Where deliveries are recognised that come a second time, besides in memory. */
  readonly repeats: 'memory' | 'store';
  readonly guilds: Pick<GuildSettingsBook, 'known' | 'read' | 'attach' | 'detach' | 'forget'>;
  /** Where messages that did not read may be edited. */
  readonly edits: Edits | undefined;
  /** Lines that wait for their guild's settings. */
  readonly waiting: Waiting;
  /** Who was told that a guild's settings do not read. */
  readonly unread: SparseReplies;

  readonly rights: Rights;
  readonly onUnknown: UnknownHook | undefined;
  readonly onRefusal: RefusalHook | undefined;
  /** Told of names that no command has. */
  readonly unknown: SparseLog;

  readonly store: Store;
  readonly storePatienceMs: number;
  /** A command's limits as they are counted on a platform. */
  limitsOf(command: CompiledCommand, platform: string): readonly Limit[];
  /** What is done while the store does not answer, and who is told of it. */
  readonly outagePolicy: OutagePolicy;
  readonly outages: SparseLog;
  readonly giveBacks: GiveBacks;
  readonly leases: Leases;

  /** How long a handler may take whose command does not say, in milliseconds. */
  readonly timeoutMs: number;
  /** How many inputs are on their way, and who is told once there are none. */
  readonly open: { inputs: number; none: (() => void) | undefined };
  /** Handlers that are waited for. */
  readonly handlers: Handlers;

  /** The language of a caller, of a guild, or the layer's own, whichever is there first. */
  languageOf(asked: string | undefined, guilds: string | undefined): Language;
  /** Where a guild has none of its own; an IANA name. */
  readonly timeZone: string;
  /** Besides English. */
  readonly languages: readonly Language[] | undefined;
  /** The layer's own, where it says one. */
  readonly locale: string | undefined;
  /** The layer's own words for codes. */
  readonly messages: MessageOverrides;
  /** Who sees what is said for a code, and for how long. */
  readonly manners: Manners | undefined;
  readonly damping: Damping | undefined;
  /** Told of refusals that are not told to people any more. */
  readonly heldBack: SparseLog;
}

/** Says a thing once in a while for each key. */
export interface SparseReplies {
  /** Whether it is time to say it, which counts as said. */
  mayTell(key: string): boolean;
}

/**
 * Called for a name that no command has: what it gives is said, and where it gives nothing the name is unknown.
 *
 * @param rest what stands behind the name, verbatim; empty for a slash command
 */
export type UnknownHook = (name: string, rest: string, call: Call) => MaybePromise<Answer>;
