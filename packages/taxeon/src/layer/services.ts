/** Making what all inputs of a layer share. */
import { checkCaller } from '../access/check.js';
import type { Rights } from '../access/scene.js';
import { type Allowance, parseAllowance } from '../base/allowance.js';
import { BoundedMap } from '../base/bounded-map.js';
import { NameTable } from '../base/name-table.js';
import { randomReference } from '../base/reference.js';
import { steadyClock } from '../base/steady-clock.js';
import { foldName } from '../base/text.js';
import { type Clock, durationMs, systemClock } from '../base/time.js';
import type { Catalogue, CompiledCommand } from '../catalogue/catalogue.js';
import { idsByPlatform } from '../contract/key.js';
import type { Limit } from '../contract/store.js';
import type { DeliveryServices } from '../delivery/conversation.js';
import { Expiring } from '../delivery/expire.js';
import { type BookLayer, noGuildSettings } from '../guilds/book.js';
import { memoryStore } from '../memory/store.js';
import { Events } from '../observe/events.js';
import { consoleLog, safeLog } from '../observe/log.js';
import { SparseLog } from '../observe/sparse-log.js';
import { Damping } from '../pipeline/damping.js';
import { Edits } from '../pipeline/edits.js';
import { GiveBacks } from '../pipeline/give-backs.js';
import { Handlers } from '../pipeline/handlers.js';
import { Leases } from '../pipeline/leases.js';
import { RecentIds } from '../pipeline/recent.js';
import type { Services, SparseReplies } from '../pipeline/services.js';
import { Waiting } from '../pipeline/waiting.js';
import { prefixMatcher } from '../reading/prefix.js';
import { english } from '../replies/english.js';
import { languageFinder } from '../replies/language.js';
import { plainText } from '../replies/notice.js';
import type { LayerOptions } from './options.js';

/** Without accessors, which would make every look into it slow: bench/rows/calls. */
export function makeServices(options: LayerOptions, catalogue: Catalogue): Services {
  const { clock = systemClock, timeZone = 'UTC' } = options;
  // For what must not stand still when the clock is set back.
  const steady = steadyClock(clock);
  const log = safeLog(options.log ?? consoleLog);
  const store = options.store ?? memoryStore({ clock });
  const events = new Events(log);
  const malformed = new SparseLog(log, steady, 'A platform gave what is no input');
  const outages = new SparseLog(log, steady, 'The store did not answer');
  const lost = new SparseLog(
    log,
    steady,
    'A running call was without a sign of life for too long, and has lost its place',
  );
  const leaseMs = durationMs(options.lease ?? '10m') ?? 0;
  const storePatienceMs = durationMs(options.storePatience ?? '2s') ?? 0;
  const giving = { store, clock: steady, storePatienceMs, outages };
  const giveBacks = new GiveBacks(giving);
  return {
    catalogue,
    formerNames: new NameTable(),
    isClosing: false,
    clock,
    steady,
    log,
    reference: referenceBy(options.reference),
    malformed: (problem) => malformed.tell({ problem }),
    delivery: deliveryServices(clock, steady, log, events, durationMs(options.platformPatience ?? '15s') ?? 0),
    events,
    usage: options.usage?.({ store, clock, log, storePatienceMs }),
    patienceMs: durationMs(options.patience ?? '10s') ?? 0,

    prefixes: prefixMatcher(options.prefixes ?? []),
    mentionIsPrefix: options.mentionIsPrefix ?? true,
    prefixInDirect: options.prefixInDirect ?? 'required',
    recent: new RecentIds(steady),
    repeats: options.repeats ?? 'memory',
    edits: options.edits === undefined ? undefined : new Edits(steady, durationMs(options.edits) ?? 0),
    guilds: options.settings ?? noGuildSettings,
    waiting: new Waiting(),
    unread: onceAMinute(steady),

    rights: rightsOf(options),
    onUnknown: options.onUnknown,
    onRefusal: options.onRefusal,
    unknown: new SparseLog(log, steady, 'No command has a name that was called', 'info'),

    store,
    storePatienceMs,
    limitsOf: limitsByPlatform(leaseMs),
    outagePolicy: options.outage ?? 'refuse',
    outages,
    giveBacks,
    leases: new Leases({
      ...giving,
      leaseMs,
      giveBacks,
      lost: (uses) => lost.tell({ limits: uses.map(({ limit, key }) => `${limit.id} ${key}`).slice(0, MOST_NAMED) }),
    }),

    timeoutMs: durationMs(options.timeout ?? '10m') ?? 0,
    open: { inputs: 0, none: undefined },
    handlers: new Handlers(),

    languageOf: languageChooser(options),
    timeZone,
    languages: options.languages,
    locale: options.locale,
    messages: options.messages ?? {},
    manners: options.manners,
    damping: dampingOf(options.damping, steady),
    heldBack: new SparseLog(
      log,
      steady,
      'Somebody was refused the same thing often, and is told no more for a while',
      'info',
    ),
  };
}

/** A failure must have a reference, whatever becomes of the developer's own. */
function referenceBy(own: (() => string) | undefined): () => string {
  if (own === undefined) return randomReference;
  return () => {
    try {
      const given: unknown = own();
      return typeof given === 'string' && given !== '' && given.length <= LONGEST_REFERENCE ? given : randomReference();
    } catch {
      return randomReference();
    }
  };
}

const LONGEST_REFERENCE = 100;

/** More would fill a log. */
const MOST_NAMED = 20;

function deliveryServices(
  clock: Clock,
  steady: Clock,
  log: Services['log'],
  events: Events,
  platformPatienceMs: number,
): DeliveryServices {
  const crowded = new SparseLog(log, steady, 'Too many messages of one person wait for a channel');
  return {
    clock,
    log,
    platformPatienceMs,
    steady,
    expiring: new Expiring(clock),
    crowded: (fields) => crowded.tell(fields),
    said({ input, platform, command }, reply, delivery, as, to) {
      if (!events.hearing.replied) return;
      const { visibleTo, notice } = reply;
      events.tell('replied', {
        input,
        platform: platform?.name,
        command,
        as,
        person: to?.person,
        channel: to?.channel,
        text: plainText(notice),
        visibleTo,
        delivery,
      });
    },
  };
}

const ONCE_A_MS = 60_000;
const MOST_TOLD = 10_000;

function onceAMinute(clock: Clock): SparseReplies {
  const told = new BoundedMap<string, number>(MOST_TOLD);
  return {
    mayTell(key) {
      const now = clock.now();
      const last = told.get(key);
      if (last !== undefined && now >= last && now - last < ONCE_A_MS) return false;
      told.set(key, now);
      return true;
    },
  };
}

function languageChooser({ languages = [], locale }: LayerOptions): Services['languageOf'] {
  const find = languageFinder(languages, english);
  const own = find(locale) ?? english;
  return (asked, guilds) => (typeof asked === 'string' ? find(asked) : undefined) ?? find(guilds) ?? own;
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
  const { catalogue, rights, clock, storePatienceMs, reference, languages } = services;
  const sections = catalogue.outer.map((id) => ({ id, name: id.slice(id.indexOf(':') + 1) }));
  const byId = new Map([...catalogue.groups, ...catalogue.commands, ...sections].map((one) => [one.id, one]));
  return {
    owner: services,
    clock,
    patienceMs: storePatienceMs,
    reference,
    languages,
    commandIds: new Set(byId.keys()),
    findCommand: (name) =>
      catalogue.find(name) ?? byId.get(name) ?? sections.find((one) => foldName(one.name) === foldName(name)),
    changed: (event) => services.events.tell('settingsChanged', event),
    mayCall({ command: name, caller, platform: platformName, place, guild, now }, settings) {
      const command = catalogue.find(name);
      if (command?.kind !== 'command' || settings.isOff(command.ids)) return false;
      return checkCaller(command, { caller, platformName, place, guild, now, rights, settings }) === undefined;
    },
  };
}

function dampingOf(damping: LayerOptions['damping'], clock: Clock): Damping | undefined {
  if (damping === 'off') return undefined;
  const { repeats: own, all: ownAll, always } = typeof damping === 'object' ? damping : { repeats: damping };
  const repeats = parseAllowance(own ?? DAMPED_REPEATS);
  const all = parseAllowance(ownAll ?? DAMPED_ALL);
  return repeats === undefined || all === undefined ? undefined : new Damping({ repeats, all }, clock, always);
}

const DAMPED_REPEATS: Allowance = '5 in 30s';
const DAMPED_ALL: Allowance = '20 in 1m';

function rightsOf({ console = {}, program = {}, owners = [], roles = {} }: LayerOptions): Rights {
  const rolesGiving = new Map<string, string[]>();
  for (const [role, permissions] of Object.entries(roles)) {
    for (const permission of permissions) rolesGiving.set(permission, [...(rolesGiving.get(permission) ?? []), role]);
  }
  return { console, program, owners: idsByPlatform(owners), rolesGiving };
}
