/** What the layer asks of the guilds' settings, and what holds where no guild decides anything. */
import type { AccessInput } from '../access/check.js';
import type { Rights } from '../access/context.js';
import { type CompiledSettings, compileSettings, noSettings } from '../access/rules.js';
import type { MaybePromise } from '../base/thenable.js';
import type { Clock } from '../base/time.js';
import type { Catalogue, CompiledCommand } from '../catalogue/catalogue.js';
import type { Call } from '../commands/call.js';
import type { Actor } from '../contract/actors.js';
import type { LayerEvents } from '../contract/events.js';
import type { Key } from '../contract/key.js';
import type { GuildSettings } from '../contract/settings.js';
import { type PrefixMatcher, prefixMatcher } from '../reading/prefix.js';
import type { Language } from '../replies/language.js';
import type { RuleTarget } from './rule-targets.js';

/** One guild's settings as they stand. */
export interface GuildSnapshot {
  readonly compiled: CompiledSettings;
  /** The guild's own prefixes; `undefined` where it has none of its own. */
  readonly prefixes: PrefixMatcher | undefined;
}

export function snapshotOf(settings: GuildSettings): GuildSnapshot {
  const prefixes = settings.prefixes === undefined ? undefined : prefixMatcher(settings.prefixes);
  return { compiled: compileSettings(settings), prefixes };
}

/** The settings of all guilds: read from the store once, changed with care, told to every process. */
export interface GuildSettingsBook {
  /** A guild's settings, where they are in memory. Hot path: bench/rows/calls. */
  known(platform: string, guildId: string): GuildSnapshot | undefined;
  /**
   * A guild's settings, at once where they are in memory; all who ask meanwhile share one look into the store.
   *
   * @throws UnreadSettings, or rejects with it, where the store did not give settings that are right.
   */
  read(platform: string, guildId: string): MaybePromise<GuildSnapshot>;
  /**
   * The settings of a guild, `irc/#oddmere`, as data.
   *
   * @throws UnreadSettings as `read` does.
   */
  load(guild: Key): Promise<GuildSettings>;
  /**
   * Changes a guild's settings; tried again where another process changed them meanwhile. Told as `settingsChanged`.
   *
   * @param by who does it, for those who listen
   * @throws SettingsError where the result, or what the store holds, is not right.
   */
  change(guild: Key, change: (settings: GuildSettings) => GuildSettings, by?: Actor): Promise<GuildSettings>;
  /** Takes out every rule about a person, `irc/odalys`, in all guilds of that platform; how many these were. */
  forget(person: Key): Promise<number>;
  /** A command or what is around some, by name, alias, id or heading. */
  findCommand(name: string): RuleTarget | undefined;
  /** Of the languages that its layer answers in; BCP 47. */
  locales(): readonly string[];
  /**
   * How access would see the caller under some settings, and all commands that settings may be about.
   *
   * @throws Error where no layer has this book
   */
  seenUnder(call: Call, settings: GuildSettings): SeenUnder;
  /** Ties the book to the layer whose commands it is about. Called by the layer. */
  attach(layer: BookLayer): void;
  /** Its layer has closed: nothing is looked at any more. Called by the layer. */
  detach?(owner: object): void;
}

/** A caller, and what there is to be called. */
export interface SeenUnder {
  readonly viewer: AccessInput & Pick<Call, 'surface'>;
  readonly commands: readonly CompiledCommand[];
}

/** What the book asks of its layer. */
export interface BookLayer {
  /** The same for every catalogue of one layer. */
  readonly owner: object;
  readonly clock: Clock;
  /** How long the store may take, in milliseconds. */
  readonly patienceMs: number;
  readonly reference: () => string;
  /** Besides English. */
  readonly languages: readonly Language[] | undefined;
  readonly catalogue: Catalogue;
  readonly rights: Rights;
  changed(event: LayerEvents['settingsChanged']): void;
}

/** Shared by all guilds that have decided nothing. */
export const undecided: GuildSnapshot = { compiled: noSettings, prefixes: undefined };

/** What a layer itself asks of them. */
export type Guilds = Pick<GuildSettingsBook, 'known' | 'read' | 'attach' | 'detach' | 'forget'>;

/** Of a layer that was given no `settings`. */
export const noGuildSettings: Guilds = {
  known: () => undecided,
  read: () => undecided,
  forget: async () => 0,
  attach: () => undefined,
};
