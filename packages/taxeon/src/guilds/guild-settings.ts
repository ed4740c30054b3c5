/** The guilds' settings: kept in a store, read from a snapshot at once, changed while the bot runs. */
import { type CompiledSettings, compileSettings, noSettings } from '../access/rules.js';
import { checkSettings, type GuildSettings } from '../access/settings.js';
import { isThenable, type MaybePromise } from '../base/thenable.js';
import type { Call } from '../commands/call.js';
import type { Store, Versioned } from '../contract/store.js';
import { memoryStore } from '../memory/store.js';
import { consoleLog, type Log } from '../observe/log.js';
import { type PrefixMatcher, prefixMatcher } from '../reading/prefix.js';

export interface GuildSettingsOptions {
  /** What holds until a guild decides otherwise, by guild id. */
  readonly guilds?: Readonly<Record<string, GuildSettings>>;
  /** Where changes are kept; this process's memory by default. */
  readonly store?: Store;
  readonly log?: Log;
}

/** Thrown for a change that is not right; nothing of it was kept. */
export class SettingsError extends Error {
  override readonly name = 'SettingsError';

  constructor(readonly problems: readonly string[]) {
    super(`The settings are wrong: ${problems.join('; ')}`);
  }
}

/** One guild's settings as they stand. */
export interface GuildSnapshot {
  readonly compiled: CompiledSettings;
  /** The guild's own prefixes; `undefined` where it has none of its own. */
  readonly prefixes: PrefixMatcher | undefined;
}

export interface GuildSettingsBook {
  /** A guild's settings as they stand, at once; those of the store follow as soon as it has answered. */
  of(guildId: string): GuildSnapshot;
  /** A guild's settings, once the store has answered. */
  load(guildId: string): Promise<GuildSettings>;
  /**
   * Changes a guild's settings; tried again where somebody else changed them meanwhile.
   *
   * @throws SettingsError where the result is not right.
   */
  change(guildId: string, change: (settings: GuildSettings) => GuildSettings): Promise<GuildSettings>;
  /** The command of a name, alias or id. */
  findCommand(name: string): { readonly id: string; readonly name: string } | undefined;
  /** Whether whoever calls could no longer make the same call under other settings. */
  wouldLockOut(call: Call, settings: GuildSettings): boolean;
  /** Ties the book to the layer whose commands it is about. Called by the layer. */
  attach(layer: BookLayer): void;
}

/** What the book asks of its layer. */
export interface BookLayer {
  /** The same for every catalogue of one layer. */
  readonly owner: object;
  readonly commandIds: ReadonlySet<string>;
  findCommand(name: string): { readonly id: string; readonly name: string } | undefined;
  mayCall(call: Call, settings: CompiledSettings): boolean;
}

const ATTEMPTS = 20;
const CHANGED = 'settings';
const NOT_READ = 'A guild’s settings were not read';

/**
 * Makes the book of all guilds' settings, to be given to `createCommandLayer` and to `settingsCommands`.
 *
 * @example
 * const settings = guildSettings({ guilds: { pellbrook: { prefixes: ['?'], roles: { steward: 'fixer' } } } });
 */
export function guildSettings(options: GuildSettingsOptions = {}): GuildSettingsBook {
  const { guilds = {}, store = memoryStore(), log = consoleLog } = options;
  const snapshots = new Map<string, GuildSnapshot>();
  let layer: BookLayer | undefined;

  function keyOf(guildId: string): string {
    return `settings/${guildId}`;
  }

  /** Takes what is right, and tells what is not. */
  function take(guildId: string, data: unknown): GuildSettings {
    const { settings, problems } = checkSettings(data);
    for (const problem of problems) log.warn({ guild: guildId, problem }, 'A guild setting is broken and left out');
    tellUnknown(guildId, settings);
    const prefixes = settings.prefixes === undefined ? undefined : prefixMatcher(settings.prefixes);
    snapshots.set(guildId, { compiled: compileSettings(settings), prefixes });
    return settings;
  }

  /** They are kept: the command may come back. */
  function tellUnknown(guildId: string, { off = [], rules = [] }: GuildSettings): void {
    if (layer === undefined) return;
    for (const command of new Set([...off, ...rules.map((rule) => rule.command)])) {
      if (!layer.commandIds.has(command))
        log.warn({ guild: guildId, command }, 'A guild has settings for a command that there is not');
    }
  }

  function fromStore(guildId: string, stored: Versioned | undefined): GuildSettings {
    if (stored === undefined) return snapshots.get(guildId)?.compiled.settings ?? take(guildId, guilds[guildId] ?? {});
    try {
      return take(guildId, JSON.parse(stored.value));
    } catch (error) {
      log.warn({ guild: guildId, error }, 'A guild’s stored settings do not read and are left out');
      return take(guildId, guilds[guildId] ?? {});
    }
  }

  function load(guildId: string): MaybePromise<GuildSettings> {
    const stored = store.read(keyOf(guildId));
    return isThenable(stored) ? stored.then((value) => fromStore(guildId, value)) : fromStore(guildId, stored);
  }

  // What another process has changed is read again; what it changed in this one is known already.
  store.subscribe(CHANGED, (guildId) => {
    if (!snapshots.has(guildId)) return;
    try {
      const loading = load(guildId);
      if (isThenable(loading)) loading.then(undefined, (error) => log.error({ guild: guildId, error }, NOT_READ));
    } catch (error) {
      log.error({ guild: guildId, error }, NOT_READ);
    }
  });

  return {
    of(guildId) {
      const snapshot = snapshots.get(guildId);
      if (snapshot !== undefined) return snapshot;
      take(guildId, guilds[guildId] ?? {});
      try {
        const loading = load(guildId);
        if (isThenable(loading)) loading.then(undefined, (error) => log.error({ guild: guildId, error }, NOT_READ));
      } catch (error) {
        log.error({ guild: guildId, error }, NOT_READ);
      }
      return snapshots.get(guildId) ?? { compiled: noSettings, prefixes: undefined };
    },
    async load(guildId) {
      return load(guildId);
    },
    async change(guildId, change) {
      for (let attempt = 0; attempt < ATTEMPTS; attempt++) {
        const stored = await store.read(keyOf(guildId));
        const changed = change(fromStore(guildId, stored));
        const { problems } = checkSettings(changed);
        if (problems.length > 0) throw new SettingsError(problems);
        const written = await store.compareAndSet(keyOf(guildId), stored?.version ?? 0, JSON.stringify(changed));
        if (!written) continue;
        const taken = take(guildId, changed);
        await store.publish(CHANGED, guildId);
        return taken;
      }
      throw new Error(`The settings of ${guildId} are changed by too many at once`);
    },
    findCommand: (name) => layer?.findCommand(name),
    wouldLockOut: (call, settings) => layer?.mayCall(call, compileSettings(checkSettings(settings).settings)) === false,
    attach(attached) {
      if (layer !== undefined && layer.owner !== attached.owner) {
        throw new Error('These guild settings belong to another layer already');
      }
      layer = attached;
      for (const [guildId, { compiled }] of snapshots) tellUnknown(guildId, compiled.settings);
    },
  };
}
