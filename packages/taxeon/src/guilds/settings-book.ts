/** The guilds' settings: read from a store when a guild is first heard of, kept while it is in use, changed while the bot runs. */

import { type CompiledSettings, compileSettings } from '../access/rules.js';
import { checkSettings } from '../access/settings.js';
import { anObject, checkFields, type Fields } from '../base/fields.js';
import { randomReference } from '../base/reference.js';
import { atOnce, inTime, isThenable, type MaybePromise, patiently } from '../base/thenable.js';
import { type Clock, inBackground, systemClock } from '../base/time.js';
import type { Actor } from '../contract/actors.js';
import { isKey, type Key, keyOf, partsOf } from '../contract/key.js';
import type { Log } from '../contract/log.js';
import type { GuildSettings } from '../contract/settings.js';
import type { Store, Versioned } from '../contract/store.js';
import { memoryStore } from '../memory/store.js';
import { consoleLog } from '../observe/log.js';
import { sparseLog } from '../observe/sparse-log.js';
import { type BookLayer, type GuildSettingsBook, type GuildSnapshot, snapshotOf, undecided } from './book.js';
import { SettingsError, UnreadSettings } from './errors.js';
import { type KeptGuild, noGuildsKept } from './kept-guilds.js';
import { roundsOver } from './rounds.js';
import { type RuleTargets, ruleTargetsIn } from './rule-targets.js';

export interface GuildSettingsOptions {
  /** What holds until a guild decides otherwise: `{ 'irc/#oddmere': { prefixes: ['?'] } }`. */
  readonly guilds?: Readonly<Record<Key, GuildSettings>>;
  /** Where changes are kept; this process's memory by default. */
  readonly store?: Store;
  readonly log?: Log;
}

const ATTEMPTS = 20;
const CHANGED = 'settings';
const PATIENCE_MS = 2000;
const FIRST_PAUSE_MS = 1000;
const LONGEST_PAUSE_MS = 60_000;

/**
 * Makes the book of all guilds' settings, to be given to `createCommandLayer` and to `settingsCommands`.
 *
 * @throws SettingsError where the settings of `guilds` are not right.
 *
 * @example
 * const settings = guildSettings({ guilds: { 'irc/#pellbrook': { prefixes: ['?'], roles: { steward: 'fixer' } } } });
 */
export function guildSettings(options: GuildSettingsOptions = {}): GuildSettingsBook {
  checkFields(options, fields, (field, problem) => {
    throw new SettingsError([field === '' ? problem : `${field}: ${problem}`]);
  });
  const { guilds = {}, store = memoryStore(), log = consoleLog } = options;
  const declared = new Map(
    Object.entries(guilds).map(([guild, settings]) => [mustBeKey(guild), snapshotOf(mustBeRight(settings, guild))]),
  );
  const { keptOf, inMemory, keptBy } = noGuildsKept();
  let layer: BookLayer | undefined;
  let targets: RuleTargets | undefined;
  let clock: Clock = systemClock;
  let outages = sparseLog(log, clock, UNREAD);

  /** Where nobody else can reach the store, nothing is to be seen there. */
  const rounds =
    options.store === undefined
      ? undefined
      : roundsOver(
          () => clock,
          () => Array.from(inMemory(), ([guild]) => guild),
          seeIfChanged,
        );

  /** Hot path: bench/rows/calls. */
  function known(platform: string, guildId: string): GuildSnapshot | undefined {
    const found = keptBy(platform, guildId)?.snapshot;
    if (rounds === undefined || found === undefined) return found;
    rounds.isUsed = true;
    if (!rounds.isOn) rounds.begin();
    return found;
  }
  /** Never rejects; whether the store has answered. */
  async function seeIfChanged(guild: Key): Promise<boolean> {
    const one = keptOf(guild);
    if (one.rereadMs !== undefined || one.loading !== undefined) return true;
    try {
      const stored = await asked(() => store.read(storedAt(guild)));
      if ((stored?.version ?? 0) !== one.version) beginReread(guild);
      return true;
    } catch (error) {
      outages.tell({ ...guildFields(guild), error });
      return false;
    }
  }

  function beginReread(guild: Key): void {
    const { platform, id } = partsOf(guild);
    const one = keptBy(platform, id);
    if (one === undefined || one.rereadMs !== undefined || (one.snapshot ?? one.loading) === undefined) return;
    one.rereadMs = 0;
    void reread(guild);
  }

  /** They are kept: the command may come back. */
  function tellUnknown(guild: Key, { settings: { off = [], rules = [] } }: CompiledSettings): void {
    if (targets === undefined) return;
    for (const command of new Set([...off, ...rules.map((rule) => rule.command)])) {
      if (!targets.has(command))
        log.warn({ ...guildFields(guild), command }, 'A guild has settings for a command that there is not');
    }
  }

  function parsed(guild: Key, stored: Versioned | undefined): GuildSnapshot {
    if (stored === undefined) return declared.get(guild) ?? undecided;
    const { settings, problems } = checkSettings(JSON.parse(stored.value));
    if (problems.length > 0) throw new SettingsError(problems);
    return snapshotOf(settings);
  }

  function take(guild: Key, snapshot: GuildSnapshot, version: number): GuildSnapshot {
    Object.assign(keptOf(guild), { snapshot, version, failure: undefined });
    if (snapshot !== declared.get(guild)) tellUnknown(guild, snapshot.compiled);
    return snapshot;
  }

  function failed(guild: Key, cause: unknown): UnreadSettings {
    const one = keptOf(guild);
    const error = new UnreadSettings((layer?.reference ?? randomReference)(), cause);
    const pauseMs = nextPause(one.failure?.pauseMs);
    one.failure = { error, pauseMs, until: clock.now() + pauseMs };
    outages.tell({ reference: error.reference, ...guildFields(guild), error: cause });
    return error;
  }

  function begin(guild: Key, one: KeptGuild): MaybePromise<GuildSnapshot> {
    try {
      const stored = store.read(storedAt(guild));
      if (!isThenable(stored)) return take(guild, parsed(guild, stored), stored?.version ?? 0);
      one.loading = patiently(clock, stored, layer?.patienceMs ?? PATIENCE_MS)
        // What was changed meanwhile is newer.
        .then((value) => one.snapshot ?? take(guild, parsed(guild, value), value?.version ?? 0))
        .catch((error) => {
          throw failed(guild, error);
        })
        .finally(() => {
          one.loading = undefined;
        });
      return one.loading;
    } catch (error) {
      throw failed(guild, error);
    }
  }

  function read(platform: string, guildId: string): MaybePromise<GuildSnapshot> {
    const inMemory = known(platform, guildId);
    if (inMemory !== undefined) return inMemory;
    const guild = keyOf(platform, guildId);
    const one = keptOf(guild);
    const { loading, failure } = one;
    if (loading !== undefined) return loading;
    // A clock that was ahead for a moment must not keep a guild unread for as long.
    const restMs = failure === undefined ? 0 : failure.until - clock.now();
    if (failure !== undefined && restMs > 0 && restMs <= failure.pauseMs) throw failure.error;
    return begin(guild, one);
  }

  /** What another process has changed: what was read last holds while the store is away, and not where it is broken. */
  async function reread(guild: Key): Promise<void> {
    const one = keptOf(guild);
    await one.loading?.catch(() => undefined);
    const before = one.snapshot;
    try {
      const stored = before === undefined ? undefined : await asked(() => store.read(storedAt(guild)));
      // What was changed meanwhile is newer.
      if (one.snapshot !== before) return await reread(guild);
      one.rereadMs = undefined;
      if (before !== undefined) takeOrRefuse(guild, stored);
    } catch (error) {
      outages.tell({ ...guildFields(guild), error });
      const pauseMs = nextPause(one.rereadMs);
      one.rereadMs = pauseMs;
      inBackground(clock, pauseMs, () => void reread(guild));
    }
  }

  function takeOrRefuse(guild: Key, stored: Versioned | undefined): void {
    try {
      take(guild, parsed(guild, stored), stored?.version ?? 0);
    } catch (error) {
      keptOf(guild).snapshot = undefined;
      failed(guild, error);
    }
  }

  const unsubscribe: unknown = atOnce(
    store.subscribe(
      CHANGED,
      (message) => beginReread(message as Key),
      () => void rounds?.hurry(),
    ),
  );

  function asked<T>(what: () => MaybePromise<T>): Promise<T> {
    return inTime(clock, layer?.patienceMs ?? PATIENCE_MS, what);
  }

  async function change(guild: Key, changes: Change, by?: Actor): Promise<GuildSettings> {
    mustBeKey(guild);
    for (let attempt = 0; attempt < ATTEMPTS; attempt++) {
      const stored = await asked(() => store.read(storedAt(guild)));
      const before = parsed(guild, stored).compiled.settings;
      const wanted = mustBeRight(changes(before));
      if (!(await written(guild, stored?.version ?? 0, JSON.stringify(wanted)))) continue;
      const after = take(guild, snapshotOf(wanted), -1).compiled.settings;
      await asked(() => store.publish(CHANGED, guild)).catch((error) => outages.tell({ ...guildFields(guild), error }));
      const changed = changedSettings(before, after);
      if (changed.length > 0) layer?.changed({ ...guildFields(guild), by, changed, before, after });
      return after;
    }
    throw new Error(`The settings of ${guild} are changed by too many at once`);
  }

  /** Where the answer is lost it may be written all the same: what stands there is looked at. */
  async function written(guild: Key, version: number, value: string): Promise<boolean> {
    try {
      return await asked(() => store.compareAndSet(storedAt(guild), version, value));
    } catch (error) {
      void reread(guild);
      throw error;
    }
  }

  return {
    known,
    read,
    change,
    async load(guild) {
      const { platform, id } = partsOf(mustBeKey(guild));
      return (await read(platform, id)).compiled.settings;
    },
    async forget(person) {
      const { platform, id } = partsOf(mustBeKey(person));
      const stored = await asked(() => store.entries(storedAt(keyOf(platform, ''))));
      const guilds = new Set([...stored.map(([key]) => key.slice(STORED.length) as Key), ...declared.keys()]);
      let forgotten = 0;
      for (const guild of guilds) {
        if (partsOf(guild).platform !== platform) continue;
        const { rules = [] } = parsed(guild, await asked(() => store.read(storedAt(guild)))).compiled.settings;
        const about = rules.filter(({ member }) => member === id).length;
        if (about === 0) continue;
        await change(guild, (settings) => ({
          ...settings,
          rules: (settings.rules ?? []).filter(({ member }) => member !== id),
        }));
        forgotten += about;
      }
      return forgotten;
    },
    findCommand: (name) => targets?.find(name),
    locales: () => ['en', ...(layer?.languages ?? []).map(({ locale }) => locale)],
    seenUnder(call, settings) {
      if (layer === undefined) throw new Error('No layer has these settings');
      const { catalogue, rights } = layer;
      const compiled = compileSettings(checkSettings(settings).settings);
      return {
        commands: catalogue.commands,
        viewer: { ...call, platformName: call.platform, rights, settings: compiled },
      };
    },
    detach(owner) {
      if (layer?.owner !== owner) return;
      rounds?.stop();
      if (typeof unsubscribe === 'function') unsubscribe();
    },
    attach(attached) {
      if (layer !== undefined && layer.owner !== attached.owner) {
        throw new Error('Another layer has these settings');
      }
      if (clock !== attached.clock) outages = sparseLog(log, attached.clock, UNREAD);
      layer = attached;
      targets = ruleTargetsIn(attached.catalogue);
      clock = attached.clock;
      for (const [guild, { compiled }] of new Map([...declared, ...inMemory()])) tellUnknown(guild, compiled);
    },
  };
}

const UNREAD = 'A guild’s settings were not read';

function nextPause(pauseMs: number | undefined): number {
  return Math.min(LONGEST_PAUSE_MS, pauseMs === undefined || pauseMs === 0 ? FIRST_PAUSE_MS : pauseMs * 2);
}

const fields: Fields<GuildSettingsOptions> = { guilds: anObject, store: anObject, log: anObject };

type Change = (settings: GuildSettings) => GuildSettings;

const STORED = 'settings/';

function storedAt(guild: Key): string {
  return `${STORED}${guild}`;
}

function changedSettings(before: GuildSettings, after: GuildSettings): readonly (keyof GuildSettings)[] {
  const names = new Set([...Object.keys(before), ...Object.keys(after)] as (keyof GuildSettings)[]);
  return [...names].filter((name) => JSON.stringify(before[name]) !== JSON.stringify(after[name]));
}

/** As all lines of the log have it. */
function guildFields(guild: Key) {
  const { platform, id } = partsOf(guild);
  return { platform, guild: id };
}

function mustBeKey(guild: string): Key {
  if (isKey(guild)) return guild;
  throw new SettingsError([`${JSON.stringify(guild)} names no platform; write the platform’s name, a / and the guild`]);
}

function mustBeRight(data: unknown, of?: string): GuildSettings {
  const { settings, problems } = checkSettings(data);
  if (problems.length === 0) return settings;
  throw new SettingsError(of === undefined ? problems : problems.map((problem) => `${of}, ${problem}`));
}
