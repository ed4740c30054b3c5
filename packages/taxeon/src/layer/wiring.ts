/** Wiring a layer: each stage gets what it says that it needs. */
import type { Rights } from '../access/context.js';
import { type Allowance, parseAllowance } from '../base/allowance.js';
import { NameTable } from '../base/name-table.js';
import { randomReference } from '../base/reference.js';
import { textAtOnce } from '../base/thenable.js';
import { type Clock, durationMs, steadyClock, systemClock } from '../base/time.js';
import type { Catalogue } from '../catalogue/catalogue.js';
import { idsByPlatform } from '../contract/key.js';
import type { DeliveryServices } from '../delivery/conversation.js';
import { expiring } from '../delivery/expire.js';
import { type BookLayer, type Guilds, noGuildSettings } from '../guilds/book.js';
import { memoryStore } from '../memory/store.js';
import { eventsOf } from '../observe/events.js';
import { safeLog } from '../observe/log.js';
import { onceAMinute, type SparseLog, sparseLog } from '../observe/sparse-log.js';
import type { AskingNeeds } from '../pipeline/asking/open-question.js';
import type { Basis, Current } from '../pipeline/basis.js';
import { type Damping, dampingWith } from '../pipeline/damping.js';
import { editsWithin } from '../pipeline/edits.js';
import { giveBacksOf } from '../pipeline/give-backs.js';
import { noHandlers } from '../pipeline/handlers.js';
import { leasesOf } from '../pipeline/leases.js';
import { type LimitsNeeds, limitsByPlatform } from '../pipeline/limits.js';
import type { Addressing } from '../pipeline/match.js';
import { recentIds } from '../pipeline/recent.js';
import type { StageNeeds } from '../pipeline/stages.js';
import type { Beginning } from '../pipeline/state.js';
import { noneWaiting } from '../pipeline/waiting.js';
import { prefixMatcher } from '../reading/prefix.js';
import { english } from '../replies/english.js';
import { type Language, languageChooser } from '../replies/language.js';
import { plainText } from '../replies/notice.js';
import type { LayerOptions } from './options.js';

/** What a layer is made of, each part for those that need it. */
export interface Wiring {
  readonly basis: Basis;
  readonly current: Current;
  readonly beginning: Beginning;
  readonly addressing: Addressing;
  readonly guilds: Guilds;
  readonly needs: StageNeeds;
  readonly asking: AskingNeeds;
  readonly malformed: SparseLog;
}

/** Without accessors, which would make every look into it slow: bench/rows/calls. */
export function wired(options: LayerOptions, catalogue: Catalogue): Wiring {
  const { clock = systemClock, timeZone = 'UTC' } = options;
  const steady = steadyClock(clock);
  const log = safeLog(options.log);
  const sparse = (message: string, level?: 'info') => sparseLog(log, steady, message, level);
  const store = options.store ?? memoryStore({ clock });
  const events = eventsOf(log);
  const basis: Basis = {
    clock,
    steady,
    log,
    reference: referenceBy(options.reference),
    patienceMs: durationMs(options.patience ?? '10s') ?? 0,
    locale: options.locale,
    events,
  };
  const current: Current = {
    catalogue,
    formerNames: new NameTable(),
    isClosing: false,
    open: { inputs: 0, none: undefined },
  };
  const platformPatienceMs = durationMs(options.platformPatience ?? '15s') ?? 0;
  const storePatienceMs = durationMs(options.storePatience ?? '2s') ?? 0;
  const outages = sparse('The store did not answer');
  const kept = { store, storePatienceMs, outages, outagePolicy: options.outage ?? 'refuse' };
  const guilds = options.settings ?? noGuildSettings;
  const addressing = {
    prefixes: prefixMatcher(options.prefixes ?? []),
    mentionIsPrefix: options.mentionIsPrefix ?? true,
    prefixInDirect: options.prefixInDirect ?? 'required',
  } as const;
  const recent = recentIds(steady, sparse('Too many events of one person'));
  const edits = options.edits === undefined ? undefined : editsWithin(durationMs(options.edits) ?? 0, steady);
  const damping = dampingOf(options.damping, steady);
  const words = { messages: options.messages ?? {}, manners: options.manners };
  const limits = limitsOf(options, { ...kept, steady, current }, sparse);
  return {
    basis,
    current,
    beginning: {
      rights: rightsOf(options),
      languageOf: languageChooser(options.languages, english, options.locale),
      timeZone,
      delivery: deliveryOf(basis, sparse, platformPatienceMs),
    },
    addressing,
    guilds,
    needs: {
      match: {
        addressing,
        guilds,
        waiting: noneWaiting(),
        mayTellUnread: onceAMinute(steady),
        recent,
        claim: options.repeats === 'store' ? kept : undefined,
        edits,
      },
      resolve: { current, onUnknown: options.onUnknown, damping, mentionIsPrefix: addressing.mentionIsPrefix },
      read: { platformPatienceMs },
      standing: basis,
      limits,
      run: { timeoutMs: durationMs(options.timeout ?? '10m') ?? 0, handlers: noHandlers(), limits },
      reply: {
        words,
        onRefusal: options.onRefusal,
        damping,
        heldBack: sparse('Too many refusals of one person', 'info'),
        edits,
      },
      settle: {
        usage: options.usage?.({ store, clock, log, storePatienceMs }),
        unknown: sparse('No command has a name that was called', 'info'),
      },
    },
    asking: { ...kept, guilds, recent, damping, words, limits },
    malformed: sparse('A platform gave what is no input'),
  };
}

type StoreServices = Pick<LimitsNeeds, 'store' | 'storePatienceMs' | 'outages' | 'outagePolicy' | 'current'>;

function limitsOf(
  options: LayerOptions,
  { steady, ...kept }: StoreServices & { readonly steady: Clock },
  sparse: (message: string) => SparseLog,
): LimitsNeeds {
  const leaseMs = durationMs(options.lease ?? '10m') ?? 0;
  const lost = sparse('A running call lost its place');
  const giving = { ...kept, clock: steady };
  const giveBacks = giveBacksOf(giving);
  const leases = leasesOf({
    ...giving,
    leaseMs,
    giveBacks,
    lost: (uses) => lost.tell({ limits: uses.map(({ limit, key }) => `${limit.id} ${key}`).slice(0, MOST_NAMED) }),
  });
  return { ...kept, limitsOf: limitsByPlatform(leaseMs), giveBacks, leases };
}

/** A failure must have a reference, whatever becomes of the developer's own. */
function referenceBy(own: (() => string) | undefined): () => string {
  if (own === undefined) return randomReference;
  return () => {
    try {
      const given = textAtOnce(own());
      if (given && given.length <= LONGEST_REFERENCE) return given;
    } catch {
      // Its own fails.
    }
    return randomReference();
  };
}

const LONGEST_REFERENCE = 100;

/** More would fill a log. */
const MOST_NAMED = 20;

function deliveryOf(
  { clock, log, steady, events }: Basis,
  sparse: (message: string) => SparseLog,
  platformPatienceMs: number,
): DeliveryServices {
  const crowded = sparse('Too many messages of one person');
  return {
    clock,
    log,
    platformPatienceMs,
    steady,
    expiring: expiring(clock),
    crowded: (fields) => crowded.tell(fields),
    hearing: events.hearing,
    said({ input, platform, command }, reply, delivery, as, to) {
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

/** What the guild settings may ask about the layer that they are for. */
export function bookLayer(
  { basis, current, beginning, asking }: Wiring,
  languages: readonly Language[] | undefined,
): BookLayer {
  const { clock, reference, events } = basis;
  const { storePatienceMs: patienceMs } = asking;
  const { rights } = beginning;
  const changed: BookLayer['changed'] = (event) => events.tell('settingsChanged', event);
  return { owner: current, clock, patienceMs, reference, languages, catalogue: current.catalogue, rights, changed };
}

function dampingOf(damping: LayerOptions['damping'], clock: Clock): Damping | undefined {
  if (damping === 'off') return undefined;
  const { repeats: own, all: ownAll, always } = typeof damping === 'object' ? damping : { repeats: damping };
  const repeats = parseAllowance(own ?? DAMPED_REPEATS);
  const all = parseAllowance(ownAll ?? DAMPED_ALL);
  return repeats === undefined || all === undefined ? undefined : dampingWith({ repeats, all }, clock, always);
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
