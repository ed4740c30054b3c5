/** Stage 8: cooldowns and running limits, all of them or none. */

import { accessContextOf, decide, lookUpBot } from '../access/check.js';
import { shown } from '../base/fields.js';
import { joined } from '../base/text.js';
import { isThenable, type MaybePromise, patiently } from '../base/thenable.js';
import { after, durationInWords } from '../base/time.js';
import type { CompiledCommand } from '../catalogue/catalogue.js';
import type { Counted } from '../catalogue/compile-limits.js';
import type { OutagePolicy } from '../commands/cooldowns.js';
import type { Member } from '../contract/actors.js';
import type { Grant, Limit, Store, Use, Verdict } from '../contract/store.js';
import type { SparseLog } from '../observe/sparse-log.js';
import type { Current } from './basis.js';
import { handlerWaitOf } from './call.js';
import type { GiveBacks } from './give-backs.js';
import type { Leases } from './leases.js';
import type { StageInWords, Step } from './stage.js';
import type { Heard, Read } from './state.js';
import { type RefusedStop, refused, type Stop } from './stop.js';
import type { TakenUses } from './taken-uses.js';

export interface LimitsNeeds {
  readonly store: Store;
  readonly storePatienceMs: number;
  /** A command's limits as they are counted on a platform. */
  limitsOf(command: CompiledCommand, platform: string): readonly Limit[];
  /** What is done while the store does not answer, and who is told of it. */
  readonly outagePolicy: OutagePolicy;
  readonly outages: SparseLog;
  readonly giveBacks: GiveBacks;
  readonly leases: Leases;
  readonly current: Pick<Current, 'isClosing'>;
}

export const limits: Step<Read, Read, LimitsNeeds> = {
  kind: 'step',
  name: 'limits',
  // A store has a patience of its own.
  waitsItself: true,
  take: takeUses,
  passed: ({ command: { counted } }) => (counted.length === 0 ? 'no limit' : counted.map(limitInWords).join('; ')),
};

export const limitsInWords: StageInWords = {
  does: 'takes the uses of all cooldowns and running limits, or of none',
  stopsWith: ['cooldown.active', 'running.full', 'store.unavailable', 'callback.failed'],
};

function limitInWords({ by, uses, windowMs }: Counted): string {
  return windowMs === undefined
    ? `${by}: at most ${uses} at once`
    : `${by}: within ${uses} in ${durationInWords(windowMs)}`;
}

/** A call's limits with whom and how much they count. */
type UseRequest = Omit<TakenUses, 'at' | 'each'>;

/** Hot path: bench/rows/calls. */
function takeUses(state: Read, needs: LimitsNeeds): MaybePromise<Read | Stop> {
  const { command, heard } = state;
  const { counted } = command;
  if (counted.length === 0) return state;
  const taken = needs.limitsOf(command, heard.platform?.name ?? '');
  if (!command.countsPlainly) return askInFull(state, needs, counted, taken);
  const keys = counted.map((one) => counterKey(one, state));
  return askStore(state, needs, { counted, limits: taken, keys, costs: undefined });
}

/** With what may have to be waited for: exemptions that look at the bot, keys and costs of the developer's own. */
async function askInFull(
  state: Read,
  needs: LimitsNeeds,
  counted: readonly Counted[],
  declared: readonly Limit[],
): Promise<Read | Stop> {
  const { heard, args } = state;
  const { caller, platformName: platform, guild, place, now } = heard;
  const exempts = counted.some(({ exempt }) => exempt !== undefined);
  const bot = exempts ? await inOwnTime(state, lookUpBot(guild, heard.platform?.directory)) : 'absent';
  const asked = { counted: [] as Counted[], limits: [] as Limit[], keys: [] as string[], costs: [] as number[] };
  for (const [index, one] of counted.entries()) {
    if (isExempt(one, state, bot)) continue;
    const cost = typeof one.cost === 'function' ? await inOwnTime(state, one.cost(args as never)) : (one.cost ?? 1);
    if (!Number.isInteger(cost) || cost < 1)
      throw new RangeError(`The cost of ${one.id} is ${cost}; it must be a whole number from 1 on`);
    asked.counted.push(one);
    asked.limits.push(declared[index] as Limit);
    const key =
      one.key === undefined
        ? counterKey(one, state)
        : ownKey(one, await inOwnTime(state, one.key({ caller, args: args as never, platform, guild, place, now })));
    asked.keys.push(key);
    asked.costs.push(cost);
  }
  return asked.counted.length === 0 ? state : askStore(state, needs, asked);
}

const LONGEST_KEY = 200;

/** Types do not hold in JavaScript: what is no key would be one counter for all whom it is given for. */
function ownKey({ id }: Counted, key: unknown): string {
  if (typeof key === 'string' && key !== '' && key.length <= LONGEST_KEY) return key;
  throw new TypeError(`The key of ${id} is ${shown(key)}; give a text of 1 to ${LONGEST_KEY} characters`);
}

/** What a function of the developer's gives, waited for only so long. */
function inOwnTime<T>({ heard: { basis } }: Read, given: MaybePromise<T>): MaybePromise<T> {
  return isThenable(given) ? patiently(basis.clock, given, basis.patienceMs) : given;
}

function isExempt({ exempt }: Counted, { heard, named }: Read, bot: Member | 'absent'): boolean {
  if (exempt === undefined) return false;
  const context = accessContextOf(heard, named, bot);
  // What is not known, or about nobody, does not exempt.
  return exempt.length > 0 && exempt.every((one) => decide(one, context) === 'yes');
}

/** Where there is no guild, the conversation is counted. */
function counterKey({ by }: Counted, { heard: { caller, place } }: Read): string {
  if (by === 'user') return caller.id;
  if (by === 'everyone') return '*';
  if (place.kind !== 'guild') return place.kind === 'direct' ? `direct ${place.channel.id}` : 'console';
  const { guild, channel } = place;
  return by === 'channel' ? channel.id : by === 'userHere' ? joined(guild.id, caller.id) : guild.id;
}

function askStore(state: Read, needs: LimitsNeeds, asked: UseRequest): MaybePromise<Read | Stop> {
  const { looks } = state.heard;
  const { store } = needs;
  const { limits: all, keys, costs } = asked;
  try {
    const verdict = looks ? store.look(all, keys, costs) : store.acquire(all, keys, costs);
    return isThenable(verdict)
      ? verdictInTime(state, needs, asked, verdict)
      : applyVerdict(state, needs, asked, verdict);
  } catch (error) {
    return outage(state, needs, asked, error);
  }
}

/** What a store grants after it was given up on is given back: the call did not run on it. */
function verdictInTime(
  state: Read,
  needs: LimitsNeeds,
  asked: UseRequest,
  verdict: PromiseLike<Verdict>,
): Promise<Read | Stop> {
  let isLate = false;
  verdict.then(
    (late) => {
      if (isLate && isVerdict(late, asked.limits.length) && late.granted && !state.heard.looks)
        needs.giveBacks.give(usesOf(takenUses(asked, late), () => true));
    },
    () => undefined,
  );
  return patiently(state.heard.basis.clock, verdict, needs.storePatienceMs).then(
    (inTime) => applyVerdict(state, needs, asked, inTime),
    (error) => {
      isLate = true;
      return outage(state, needs, asked, error);
    },
  );
}

function applyVerdict(state: Read, needs: LimitsNeeds, asked: UseRequest, verdict: Verdict): Read | RefusedStop {
  if (!isVerdict(verdict, asked.limits.length))
    return outage(state, needs, asked, new TypeError('The store gave no verdict'));
  if (verdict.granted) {
    const { heard, command } = state;
    if (command.endsLimits && !heard.looks) heard.taken = takenUses(asked, verdict);
    return state;
  }
  const { index, retryAfterMs, endsAt } = verdict;
  const { by = '', uses = 0, windowMs } = asked.counted[index] ?? {};
  return windowMs === undefined
    ? refused({ code: 'running.full', parameters: { counts: by, most: uses } })
    : refused({ code: 'cooldown.active', parameters: { counts: by, retryAfterMs, endsAt } });
}

function takenUses({ counted, limits: all, keys, costs }: UseRequest, { at, each }: Grant): TakenUses {
  return { counted, limits: all, keys, costs, at, each };
}

/** Types do not hold for what a store gives. */
function isVerdict(verdict: Verdict | undefined | null, limits: number): boolean {
  if (verdict?.granted === true) return Number.isFinite(verdict.at) && areTimes(verdict.each, limits);
  return verdict?.granted === false && Number.isFinite(verdict.retryAfterMs) && Number.isFinite(verdict.endsAt);
}

function areTimes(each: readonly number[] | undefined, limits: number): boolean {
  return each === undefined || (Array.isArray(each) && each.length === limits && each.every(Number.isFinite));
}

/** The store did not answer: refused, unless every limit of the call says to go on without. */
function outage(state: Read, needs: LimitsNeeds, { counted }: UseRequest, error: unknown): Read | RefusedStop {
  const reference = state.heard.basis.reference();
  needs.outages.tell({ reference, command: state.command.name, error });
  const policy = (one: Counted) => one.outage ?? needs.outagePolicy;
  return counted.every((one) => policy(one) === 'allow')
    ? state
    : refused({ code: 'store.unavailable', parameters: { reference } });
}

/** While the handler is waited for, and a while longer, the places of its running limits are kept. */
export function keepPlaces(heard: Heard, { leases }: LimitsNeeds): void {
  const running = heard.taken === undefined ? [] : usesOf(heard.taken, isRunningLimit);
  if (running.length > 0) handlerWaitOf(heard).lease = leases.hold(running);
}

/** What is left of the running limits after a timeout, should the handler go on. */
const GRACE_MS = 30_000;

/**
 * As soon as a handler has ended: whatever becomes of the reply, nobody waits for a place. One that nobody waits for
 * still runs: its place is kept until it settles, or for a little while. Hot path: bench/rows/calls.
 */
export function releaseLimits(heard: Heard, needs: LimitsNeeds, { status }: Stop): void {
  const { taken, handler } = heard;
  if (taken === undefined) return;
  // A process that is about to end keeps no places.
  if (handler?.settled === undefined || needs.current.isClosing) {
    endLimits(heard, needs, taken, status === 'completed');
    return;
  }
  let isSettled = false;
  const settleOnce = () => {
    cancel();
    if (!isSettled) endLimits(heard, needs, taken, false);
    isSettled = true;
  };
  const cancel = after(heard.basis.clock, GRACE_MS, settleOnce);
  void handler.settled.then(settleOnce);
}

/** Once a handler has settled: running limits end with it, and a use is given back where it is charged only for completed calls. */
function endLimits({ handler }: Heard, needs: LimitsNeeds, taken: TakenUses, completed: boolean): void {
  const lease = handler?.lease;
  const uses = usesOf(taken, (one) =>
    isRunningLimit(one) ? lease === undefined : one.charge === 'completed' && !completed,
  );
  if (uses.length > 0) needs.giveBacks.give(uses);
  if (lease !== undefined) needs.leases.end(lease);
}

function isRunningLimit({ windowMs }: Counted): boolean {
  return windowMs === undefined;
}

function usesOf({ counted, limits: all, keys, costs, at, each }: TakenUses, which: (one: Counted) => boolean): Use[] {
  const uses: Use[] = [];
  for (let index = 0; index < counted.length; index++) {
    if (!which(counted[index] as Counted)) continue;
    uses.push({
      limit: all[index] as Limit,
      key: keys[index] as string,
      cost: costs?.[index] ?? 1,
      at: each?.[index] ?? at,
    });
  }
  return uses;
}

/** A platform's name is part of a limit's id, since ids of two platforms may be the same. */
export function limitsByPlatform(leaseMs: number): LimitsNeeds['limitsOf'] {
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
