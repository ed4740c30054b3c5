/** Making what all runs of a layer share. */
import { checkCaller } from '../access/check.js';
import type { Rights } from '../access/decide.js';
import { noSettings } from '../access/rules.js';
import { foldName } from '../base/text.js';
import { type Clock, durationMs, systemClock } from '../base/time.js';
import type { Catalogue, CompiledCommand } from '../catalogue/compile.js';
import { sectionId } from '../catalogue/inherit.js';
import { parseAllowance } from '../commands/cooldowns.js';
import type { Limit } from '../contract/store.js';
import { Expiring, Pacers } from '../delivery/deliver.js';
import { type BookLayer, type GuildSettingsBook, guildSettings } from '../guilds/guild-settings.js';
import { memoryStore } from '../memory/store.js';
import { Events } from '../observe/events.js';
import { consoleLog, randomReference, safeLog } from '../observe/log.js';
import { Outages } from '../observe/outages.js';
import { UsageCounter } from '../observe/usage.js';
import { Damping } from '../pipeline/damping.js';
import type { Services } from '../pipeline/run-object.js';
import { answered } from '../pipeline/stages.js';
import { english } from '../replies/english.js';
import { languageFinder } from '../replies/language.js';
import { mannersWith } from '../replies/manners.js';
import type { LayerOptions } from './options.js';

/** What the layer itself keeps and the services look at. */
export interface Keeping {
  /** The catalogue as it is now. */
  catalogue(): Catalogue;
  wasThere(name: string): boolean;
  runEnded(): void;
}

/** The services of a layer, with the book of its guilds' settings. */
export function makeServices(
  options: LayerOptions,
  keeping: Keeping,
): { readonly services: Services; readonly settings: GuildSettingsBook } {
  const { clock = systemClock, timeZone = 'UTC' } = options;
  const log = safeLog(options.log ?? consoleLog);
  const store = options.store ?? memoryStore({ clock });
  const settings = options.settings ?? guildSettings({ guilds: options.guilds ?? {}, store, log });
  const services: Services = {
    get catalogue() {
      return keeping.catalogue();
    },
    wasThere: (name) => keeping.wasThere(name),
    onUnknown: options.onUnknown,
    stopOf: answered,
    rights: rightsOf(options),
    store,
    clock,
    log,
    reference: options.reference ?? randomReference,
    limitsOf: limitsByPlatform(durationMs(options.lease ?? '10m') ?? 0),
    timeZoneOf: (place) => services.settingsOf(place).settings.timeZone ?? timeZone,
    settingsOf: (place) => (place.kind === 'guild' ? settings.of(place.guild.id).compiled : noSettings),
    settingsOfGuild: (guildId) => settings.of(guildId).compiled,
    onRefusal: options.onRefusal,
    outagePolicy: options.outage ?? 'refuse',
    outages: new Outages(log, clock),
    storePatienceMs: durationMs(options.storePatience ?? '2s') ?? 0,
    damping: dampingOf(options, clock),
    patienceMs: durationMs(options.patience ?? '10s') ?? 0,
    languageOf: languageChooser(options),
    messages: options.messages ?? {},
    mannerOf: mannersWith(options.manners ?? {}),
    pacers: new Pacers(clock),
    expiring: new Expiring(clock),
    events: new Events(log),
    usage: options.usage === true ? new UsageCounter(store, clock, log) : undefined,
    timeoutMs: durationMs(options.timeout ?? '10m') ?? 0,
    running: new Set(),
    runEnded: () => keeping.runEnded(),
  };
  return { services, settings };
}

function languageChooser({ languages = [], locale }: LayerOptions): Services['languageOf'] {
  const find = languageFinder(languages, english);
  const own = find(locale) ?? english;
  return (asked, guilds) => find(asked) ?? find(guilds) ?? own;
}

/** A platform's name is part of a limit's id, since ids of two platforms may be the same. */
function limitsByPlatform(leaseMs: number): Services['limitsOf'] {
  // Weak, so that a replaced catalogue is let go.
  const platforms = new Map<string, WeakMap<CompiledCommand, readonly Limit[]>>();
  return (command, platform) => {
    let commands = platforms.get(platform);
    if (commands === undefined) {
      commands = new WeakMap();
      platforms.set(platform, commands);
    }
    let limits = commands.get(command);
    if (limits === undefined) {
      limits = command.counted.map(({ id, uses, windowMs = leaseMs }) => ({ id: `${platform}/${id}`, uses, windowMs }));
      commands.set(command, limits);
    }
    return limits;
  };
}

/** What the guild settings may ask about the commands they are for. */
export function bookLayer(services: Services): BookLayer {
  const { catalogue, rights } = services;
  const sections = catalogue.sections.map((name) => ({ id: sectionId(name), name }));
  const byId = new Map([...catalogue.groups, ...catalogue.commands, ...sections].map((one) => [one.id, one]));
  return {
    owner: services,
    commandIds: new Set(byId.keys()),
    findCommand: (name) =>
      catalogue.find(name) ?? byId.get(name) ?? sections.find((one) => foldName(one.name) === foldName(name)),
    mayCall({ command: name, caller, place, guild, now }, settings) {
      const command = catalogue.find(name);
      if (command?.kind !== 'command' || settings.isOff(command.ids)) return false;
      return checkCaller(command, { caller, place, guild, now, rights, settings }) === undefined;
    },
  };
}

function dampingOf({ damping = '5 in 30s' }: LayerOptions, clock: Clock): Damping | undefined {
  const allowance = parseAllowance(damping);
  return allowance === undefined ? undefined : new Damping(allowance, clock);
}

function rightsOf({ console = {}, program = {}, owners = [], roles = {} }: LayerOptions): Rights {
  const rolesGiving = new Map<string, string[]>();
  for (const [role, permissions] of Object.entries(roles)) {
    for (const permission of permissions) rolesGiving.set(permission, [...(rolesGiving.get(permission) ?? []), role]);
  }
  return { console, program, owners: new Set(owners), rolesGiving };
}
