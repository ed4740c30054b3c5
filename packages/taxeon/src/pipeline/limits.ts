/** Stage 8 and what it takes back in stage 11: cooldowns and running limits, all of them or none. */
import { lookUpBot } from '../access/check.js';
import { decide } from '../access/decide.js';
import { isThenable, type MaybePromise, patiently } from '../base/thenable.js';
import type { CompiledCommand } from '../catalogue/compile.js';
import type { Counted } from '../catalogue/counted.js';
import type { Member } from '../contract/actors.js';
import type { Coded } from '../contract/codes.js';
import type { Limit, Verdict } from '../contract/store.js';
import type { Run } from './run-object.js';

/** What a run has taken, so that it can be given back. */
export interface Taken {
  readonly counted: readonly Counted[];
  readonly limits: readonly Limit[];
  readonly keys: readonly string[];
  readonly costs: readonly number[] | undefined;
  readonly at: number;
}

export type LimitRefusal = Coded<'cooldown.active' | 'running.full' | 'store.unavailable'>;

/** A call's limits with whom and how much they count. */
type Asked = Omit<Taken, 'at'>;

/** Takes the uses of a call; hot path: bench/dispatch. */
export function takeLimits(command: CompiledCommand, run: Run): MaybePromise<LimitRefusal | undefined> {
  const { counted } = command;
  const limits = run.services.limitsOf(command, run.platform?.name ?? '');
  if (command.countsPlainly) {
    return ask(run, { counted, limits, keys: counted.map((one) => keyOf(one, run)), costs: undefined });
  }
  return askInFull(run, counted, limits);
}

/** With what may have to be waited for: exemptions that look at the bot, keys and costs of the developer's own. */
async function askInFull(
  run: Run,
  counted: readonly Counted[],
  limits: readonly Limit[],
): Promise<LimitRefusal | undefined> {
  const bot = counted.some(({ exempt }) => exempt !== undefined) ? await lookUpBot(run.place, run.directory) : 'absent';
  const asked = { counted: [] as Counted[], limits: [] as Limit[], keys: [] as string[], costs: [] as number[] };
  for (const [index, one] of counted.entries()) {
    if (isExempt(one, run, bot)) continue;
    const cost = typeof one.cost === 'function' ? await own(run, one.cost(run.args as never)) : (one.cost ?? 1);
    if (!Number.isInteger(cost) || cost < 1)
      throw new RangeError(`The cost of ${one.id} is ${cost}; it must be a whole number from 1 on`);
    asked.counted.push(one);
    asked.limits.push(limits[index] as Limit);
    asked.keys.push(one.key === undefined ? keyOf(one, run) : String(await own(run, one.key(run as never))));
    asked.costs.push(cost);
  }
  return asked.counted.length === 0 ? undefined : ask(run, asked);
}

/** What a function of the developer's gives, waited for only so long. */
function own<T>({ services }: Run, given: MaybePromise<T>): MaybePromise<T> {
  return isThenable(given) ? patiently(given, services.patienceMs) : given;
}

function isExempt({ exempt }: Counted, run: Run, bot: Member | 'absent'): boolean {
  if (exempt === undefined) return false;
  const { caller, settings, rights, args } = run;
  const scene = { caller, settings, rights, args, bot, checked: undefined };
  return exempt.every(({ requirement }) => {
    const finding = decide(requirement, scene);
    return finding === 'yes' || finding === 'void';
  });
}

/** Where there is no guild, the conversation is counted. */
function keyOf({ by }: Counted, { input: { caller, place } }: Run): string {
  const conversation = place.kind === 'direct' ? `direct ${place.channel.id}` : 'console';
  switch (by) {
    case 'user':
      return caller.id;
    case 'userHere':
      return place.kind === 'guild' ? `${place.guild.id} ${caller.id}` : conversation;
    case 'channel':
      return place.kind === 'guild' ? place.channel.id : conversation;
    case 'everyone':
      return '*';
    default:
      return place.kind === 'guild' ? place.guild.id : conversation;
  }
}

function ask(run: Run, asked: Asked): MaybePromise<LimitRefusal | undefined> {
  const { store, storePatienceMs } = run.services;
  const { limits, keys, costs } = asked;
  const settle = (verdict: Verdict) => settled(run, asked, verdict);
  const failed = (error: unknown) => outage(run, asked, error);
  try {
    const verdict = run.purpose === 'run' ? store.acquire(limits, keys, costs) : store.look(limits, keys, costs);
    if (!isThenable(verdict)) return settle(verdict);
    // What a store grants after it was given up on is given back: the call did not run on it.
    let isLate = false;
    const answered = patiently(verdict, storePatienceMs).then(settle, (error) => {
      isLate = true;
      return failed(error);
    });
    verdict.then(
      (late) => {
        if (isLate && late.granted && run.purpose === 'run') void giveBack(run, { ...asked, at: late.at });
      },
      () => undefined,
    );
    return answered;
  } catch (error) {
    return failed(error);
  }
}

function settled(run: Run, asked: Asked, verdict: Verdict): LimitRefusal | undefined {
  if (verdict.granted) {
    if (run.purpose === 'run' && run.found?.settlesLimits === true) run.taken = { ...asked, at: verdict.at };
    return undefined;
  }
  const { index, retryAfterMs, endsAt } = verdict;
  const counted = asked.counted[index];
  const counts = counted?.by ?? '';
  if (counted?.windowMs === undefined)
    return { code: 'running.full', parameters: { counts, most: counted?.uses ?? 0 } };
  run.deniedKey = `${asked.limits[index]?.id} ${asked.keys[index]}`;
  return { code: 'cooldown.active', parameters: { counts, retryAfterMs, endsAt } };
}

/** The store did not answer: refused, unless every limit of the call says to go on without. */
function outage({ services, found }: Run, { counted }: Asked, error: unknown): LimitRefusal | undefined {
  const reference = services.reference();
  services.outages.tell({ reference, command: found?.name, error });
  const policy = (one: Counted) => one.outage ?? services.outagePolicy;
  return counted.every((one) => policy(one) === 'allow')
    ? undefined
    : { code: 'store.unavailable', parameters: { reference } };
}

/** Stage 11: running limits end with the call, and a use is given back where it is charged only for completed calls. */
export function settleLimits(run: Run, completed: boolean): void {
  const { taken } = run;
  if (taken === undefined) return;
  const chosen = taken.counted.flatMap(({ windowMs, charge }, index) =>
    windowMs === undefined || (charge === 'completed' && !completed) ? [index] : [],
  );
  if (chosen.length === 0) return;
  void giveBack(run, {
    counted: chosen.map((index) => taken.counted[index] as Counted),
    limits: chosen.map((index) => taken.limits[index] as Limit),
    keys: chosen.map((index) => taken.keys[index] as string),
    costs: taken.costs === undefined ? undefined : chosen.map((index) => taken.costs?.[index] ?? 1),
    at: taken.at,
  });
}

async function giveBack({ services }: Run, { limits, keys, at, costs }: Taken): Promise<void> {
  try {
    await services.store.giveBack(limits, keys, at, costs);
  } catch (error) {
    services.outages.tell({ error });
  }
}
