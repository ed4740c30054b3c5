/** The guilds' settings: read from a store when a guild is first heard of, kept while it is in use, changed while the bot runs. */

import { type CompiledSettings, compileSettings } from '../access/rules.js';
import { checkSettings, type GuildSettings } from '../access/settings.js';
import { BoundedMap } from '../base/bounded-map.js';
import { randomReference } from '../base/reference.js';
import { isThenable, type MaybePromise, patiently } from '../base/thenable.js';
import { after, type Clock, systemClock } from '../base/time.js';
import type { Log } from '../contract/log.js';
import type { Store, Versioned } from '../contract/store.js';
import { memoryStore } from '../memory/store.js';
import { consoleLog } from '../observe/log.js';
import { SparseLog } from '../observe/sparse-log.js';
import { prefixMatcher } from '../reading/prefix.js';
import { type BookLayer, type GuildSettingsBook, type GuildSnapshot, undecided } from './book.js';
import { SettingsError, UnreadSettings } from './errors.js';

export interface GuildSettingsOptions {
  /** What holds until a guild decides otherwise, by guild id. */
  readonly guilds?: Readonly<Record<string, GuildSettings>>;
  /** Where changes are kept; this process's memory by default. */
  readonly store?: Store;
  readonly log?: Log;
}

const ATTEMPTS = 20;
const CHANGED = 'settings';
const PATIENCE_MS = 2000;
const FIRST_PAUSE_MS = 1000;
const LONGEST_PAUSE_MS = 60_000;
/** Guilds whose settings are kept in memory; those not heard of for longest are let go. */
const MOST_GUILDS = 20_000;

/** A guild whose settings could not be read, and when they are looked for again. */
interface Failed {
  readonly error: UnreadSettings;
  readonly pauseMs: number;
  readonly until: number;
}

/**
 * Makes the book of all guilds' settings, to be given to `createCommandLayer` and to `settingsCommands`.
 *
 * @throws SettingsError where the settings of `guilds` are not right.
 *
 * @example
 * const settings = guildSettings({ guilds: { pellbrook: { prefixes: ['?'], roles: { steward: 'fixer' } } } });
 */
export function guildSettings(options: GuildSettingsOptions = {}): GuildSettingsBook {
  const { guilds = {}, store = memoryStore(), log = consoleLog } = options;
  const declared = new Map(
    Object.entries(guilds).map(([guildId, settings]) => [guildId, snapshotOf(mustBeRight(settings, guildId))]),
  );
  const snapshots = new BoundedMap<string, GuildSnapshot>(MOST_GUILDS);
  const failures = new BoundedMap<string, Failed>(MOST_GUILDS);
  const loads = new Map<string, Promise<GuildSnapshot>>();
  /** Guilds that were changed elsewhere and are read again, with how long to wait where that fails. */
  const rereads = new Map<string, number>();
  let layer: BookLayer | undefined;
  let clock: Clock = systemClock;
  let outages = new SparseLog(log, clock, UNREAD);

  const keyOf = (guildId: string) => `settings/${guildId}`;

  /** They are kept: the command may come back. */
  function tellUnknown(guildId: string, { settings: { off = [], rules = [] } }: CompiledSettings): void {
    if (layer === undefined) return;
    for (const command of new Set([...off, ...rules.map((rule) => rule.command)])) {
      if (!layer.commandIds.has(command))
        log.warn({ guild: guildId, command }, 'A guild has settings for a command that there is not');
    }
  }

  function parsed(guildId: string, stored: Versioned | undefined): GuildSnapshot {
    if (stored === undefined) return declared.get(guildId) ?? undecided;
    const { settings, problems } = checkSettings(JSON.parse(stored.value));
    if (problems.length > 0) throw new SettingsError(problems);
    return snapshotOf(settings);
  }

  function take(guildId: string, snapshot: GuildSnapshot): GuildSnapshot {
    snapshots.set(guildId, snapshot);
    failures.delete(guildId);
    if (snapshot !== declared.get(guildId)) tellUnknown(guildId, snapshot.compiled);
    return snapshot;
  }

  function failed(guildId: string, cause: unknown): UnreadSettings {
    const error = new UnreadSettings((layer?.reference ?? randomReference)(), cause);
    const pauseMs = nextPause(failures.get(guildId)?.pauseMs);
    failures.set(guildId, { error, pauseMs, until: clock.now() + pauseMs });
    outages.tell({ reference: error.reference, guild: guildId, error: cause });
    return error;
  }

  function begin(guildId: string): MaybePromise<GuildSnapshot> {
    try {
      const stored = store.read(keyOf(guildId));
      if (!isThenable(stored)) return take(guildId, parsed(guildId, stored));
      const loading = patiently(stored, layer?.patienceMs ?? PATIENCE_MS)
        // What was changed meanwhile is newer.
        .then((value) => snapshots.get(guildId) ?? take(guildId, parsed(guildId, value)))
        .catch((error) => {
          throw failed(guildId, error);
        })
        .finally(() => void loads.delete(guildId));
      loads.set(guildId, loading);
      return loading;
    } catch (error) {
      throw failed(guildId, error);
    }
  }

  function read(guildId: string): MaybePromise<GuildSnapshot> {
    const known = snapshots.get(guildId) ?? loads.get(guildId);
    if (known !== undefined) return known;
    const failure = failures.get(guildId);
    if (failure !== undefined && clock.now() < failure.until) throw failure.error;
    return begin(guildId);
  }

  /** What another process has changed: the last good state is kept for as long as it does not read. */
  async function reread(guildId: string): Promise<void> {
    await loads.get(guildId)?.catch(() => undefined);
    const before = snapshots.get(guildId);
    if (before === undefined) return void rereads.delete(guildId);
    try {
      const stored = await patiently(Promise.resolve(store.read(keyOf(guildId))), layer?.patienceMs ?? PATIENCE_MS);
      const snapshot = parsed(guildId, stored);
      if (snapshots.get(guildId) !== before) return await reread(guildId);
      take(guildId, snapshot);
      rereads.delete(guildId);
    } catch (error) {
      outages.tell({ guild: guildId, error });
      const pauseMs = nextPause(rereads.get(guildId));
      rereads.set(guildId, pauseMs);
      after(clock, pauseMs, () => void reread(guildId));
    }
  }

  store.subscribe(CHANGED, (guildId) => {
    if (rereads.has(guildId) || (snapshots.get(guildId) === undefined && !loads.has(guildId))) return;
    rereads.set(guildId, 0);
    void reread(guildId);
  });

  return {
    known: (guildId) => snapshots.get(guildId),
    read,
    load: async (guildId) => (await read(guildId)).compiled.settings,
    async change(guildId, change) {
      for (let attempt = 0; attempt < ATTEMPTS; attempt++) {
        const stored = await store.read(keyOf(guildId));
        const changed = mustBeRight(change(parsed(guildId, stored).compiled.settings));
        if (!(await store.compareAndSet(keyOf(guildId), stored?.version ?? 0, JSON.stringify(changed)))) continue;
        const taken = take(guildId, snapshotOf(changed));
        await store.publish(CHANGED, guildId);
        return taken.compiled.settings;
      }
      throw new Error(`The settings of ${guildId} are changed by too many at once`);
    },
    findCommand: (name) => layer?.findCommand(name),
    wouldLockOut: (call, settings) => layer?.mayCall(call, compileSettings(checkSettings(settings).settings)) === false,
    attach(attached) {
      if (layer !== undefined && layer.owner !== attached.owner) {
        throw new Error('These guild settings belong to another layer already');
      }
      if (clock !== attached.clock) outages = new SparseLog(log, attached.clock, UNREAD);
      layer = attached;
      clock = attached.clock;
      for (const [guildId, { compiled }] of new Map([...declared, ...snapshots.entries()])) {
        tellUnknown(guildId, compiled);
      }
    },
  };
}

const UNREAD = 'A guild’s settings were not read';

function nextPause(pauseMs: number | undefined): number {
  return Math.min(LONGEST_PAUSE_MS, pauseMs === undefined || pauseMs === 0 ? FIRST_PAUSE_MS : pauseMs * 2);
}

function mustBeRight(data: unknown, of?: string): GuildSettings {
  const { settings, problems } = checkSettings(data);
  if (problems.length === 0) return settings;
  throw new SettingsError(of === undefined ? problems : problems.map((problem) => `${of}, ${problem}`));
}

function snapshotOf(settings: GuildSettings): GuildSnapshot {
  const prefixes = settings.prefixes === undefined ? undefined : prefixMatcher(settings.prefixes);
  return { compiled: compileSettings(settings), prefixes };
}
