/**
 * The uses of limits on a Redis server, or on a cluster. On one server a call's limits are taken by one script. In a
 * cluster each key may be on another server: each is taken by itself, all at once, and where one is refused, what the
 * others have granted is undone. So too much is never granted; who calls at the same moment may be refused needlessly.
 */

import type { Store } from 'taxeon';
import type { Denial, Limit, LiveLimit, Renewed, Use, Verdict } from 'taxeon/platform';
import { type Calls, Unanswered } from './calls.js';
import type { Keys } from './keys.js';
import { pagesOf, scan } from './scan.js';
import * as scripts from './use-scripts.js';

/** How many keys a script is given at most: others have their turn between. */
const AT_ONCE = 100;

/** A limit of a call, and where it is counted. */
interface CountedUse {
  readonly limit: Limit;
  readonly name: string;
  readonly cost: number;
}

/** A verdict, with the number of the call that it is about. */
type NumberedVerdict = Verdict & { readonly nonce: number };

/** @param marginMs for how long a key stays beyond its uses */
export function usesOn(
  calls: Calls,
  keys: Keys,
  marginMs: number,
): Pick<Store, 'acquire' | 'look' | 'giveBack' | 'renew' | 'live' | 'reset'> & { stop(): void } {
  const undoing = new Undoing(calls);
  const atOnce = calls.isCluster ? 1 : AT_ONCE;

  async function ask(counted: readonly CountedUse[], looks: boolean): Promise<NumberedVerdict> {
    const nonce = looks ? 0 : calls.nextNonce();
    const names: string[] = [];
    const given = [String(marginMs)];
    for (const { limit, name, cost } of counted) {
      names.push(name);
      given.push(String(limit.uses), String(Math.ceil(limit.windowMs)), String(cost));
    }
    try {
      const [, isGranted, first, wait, end] = await calls.run(scripts.acquire, names, nonce, given);
      return isGranted === 1
        ? { granted: true, at: Number(first) / 1000, nonce }
        : { granted: false, index: Number(first) - 1, retryAfterMs: Number(wait), endsAt: Number(end), nonce };
    } catch (error) {
      if (!looks && error instanceof Unanswered) undoing.add(names, nonce, error.until, longestWindow(counted));
      throw error;
    }
  }

  /** Each on its own server. */
  async function askApart(counted: readonly CountedUse[], looks: boolean): Promise<Verdict> {
    const answers = await Promise.allSettled(counted.map((one) => ask([one], looks)));
    const verdicts = answers.flatMap((answer) => (answer.status === 'fulfilled' ? [answer.value] : []));
    const failed = answers.find((answer) => answer.status === 'rejected');
    const denial = lastOf(answers);
    if (failed === undefined && denial === undefined) {
      const each = verdicts.map((verdict) => (verdict.granted ? verdict.at : 0));
      return { granted: true, at: Math.max(...each), each };
    }
    if (!looks) {
      const taken = counted.flatMap(({ limit, name }, index) => {
        const answer = answers[index];
        return answer?.status === 'fulfilled' && answer.value.granted
          ? [{ limit, name, nonce: answer.value.nonce }]
          : [];
      });
      await Promise.all(taken.map(({ limit, name, nonce }) => undoing.now([name], nonce, limit.windowMs)));
    }
    if (failed !== undefined) throw failed.reason;
    return denial as Denial;
  }

  function asked(
    limits: readonly Limit[],
    all: readonly string[],
    costs: readonly number[] | undefined,
    looks: boolean,
  ): Promise<Verdict> {
    const counted = limits.map((limit, index) => ({
      limit,
      name: keys.uses(limit, all[index] as string),
      cost: costs?.[index] ?? 1,
    }));
    return calls.isCluster && counted.length > 1 ? askApart(counted, looks) : ask(counted, looks).then(verdictOf);
  }

  async function renew(uses: readonly Use[]): Promise<Renewed> {
    const pages = pagesOf(uses, atOnce);
    const renewed = await Promise.all(
      pages.map(async (page) => {
        const names = page.map(({ limit, key }) => keys.uses(limit, key));
        const given = page.flatMap(({ limit, cost, at }) => [
          limit.uses,
          Math.ceil(limit.windowMs),
          cost,
          microseconds(at),
        ]);
        const [, at, ...lost] = await calls.run(
          scripts.renew,
          names,
          calls.nextNonce(),
          [marginMs, ...given].map(String),
        );
        return { at: Number(at) / 1000, lost: lost.map(Number) };
      }),
    );
    const each = renewed.flatMap(({ at }, page) => (pages[page] ?? []).map(() => at));
    return {
      at: Math.max(0, ...each),
      each,
      lost: renewed.flatMap(({ lost }, page) => lost.map((index) => page * atOnce + index)),
    };
  }

  async function* live(): AsyncGenerator<readonly LiveLimit[]> {
    for await (const names of scan(calls, keys.allUses)) {
      const found = await Promise.all(
        pagesOf(names, atOnce).map(async (page) => {
          const counts = await calls.run(scripts.count, page, 0, []);
          return page.map((name, index) => ({ name, uses: counts[2 * index + 1], endsAt: counts[2 * index + 2] }));
        }),
      );
      const page = found.flat().flatMap(({ name, uses, endsAt }) => {
        const parts = keys.partsOf(name);
        return parts === undefined || Number(uses) < 1
          ? []
          : [{ ...parts, uses: Number(uses), endsAt: Number(endsAt) }];
      });
      if (page.length > 0) yield page;
    }
  }

  return {
    acquire: (limits, all, costs) => asked(limits, all, costs, false),
    look: (limits, all, costs) => asked(limits, all, costs, true),
    async giveBack(uses) {
      const given = pagesOf(uses, atOnce).map((page) => {
        const names = page.map(({ limit, key }) => keys.uses(limit, key));
        const words = page.flatMap(({ at, cost }) => [microseconds(at), cost].map(String));
        return calls.run(scripts.giveBack, names, calls.nextNonce(), words);
      });
      await Promise.all(given);
    },
    renew,
    live,
    async reset(id, key) {
      const [, had] = await calls.run(scripts.reset, [keys.usesOf(id, key)], calls.nextNonce(), []);
      return had === 1;
    },
    stop: () => undoing.stop(),
  };
}

function verdictOf({ nonce: _, ...verdict }: NumberedVerdict): Verdict {
  return verdict;
}

function microseconds(at: number): number {
  return Math.round(at * 1000);
}

function longestWindow(counted: readonly CountedUse[]): number {
  return Math.max(...counted.map(({ limit }) => limit.windowMs));
}

/** The refusal that ends last, by the index of its limit. */
function lastOf(answers: readonly PromiseSettledResult<NumberedVerdict>[]): Denial | undefined {
  let found: Denial | undefined;
  for (const [index, answer] of answers.entries()) {
    if (answer.status === 'rejected' || answer.value.granted) continue;
    const { retryAfterMs, endsAt } = answer.value;
    if (found === undefined || retryAfterMs > found.retryAfterMs)
      found = { granted: false, index, retryAfterMs, endsAt };
  }
  return found;
}

// Undoing what a call may have taken that nobody runs on: once it can come no more, and tried until it is known.
const AGAIN_MS = 1000;
/** What is beyond these runs out with its window. */
const MOST_WAITING = 10_000;

interface WaitingUndo {
  readonly names: readonly string[];
  readonly nonce: number;
  /** Until when the call may still come, by the server's clock in microseconds. */
  readonly until: number;
  /** When it has run out by itself, by this machine's steady clock. */
  readonly goneAt: number;
}

class Undoing {
  private waiting: WaitingUndo[] = [];
  private timer: ReturnType<typeof setTimeout> | undefined = undefined;
  private isOver = false;

  constructor(private readonly calls: Calls) {}

  add(names: readonly string[], nonce: number, until: number, windowMs: number): void {
    this.put({ names, nonce, until, goneAt: performance.now() + windowMs });
  }

  /** What was answered, and so comes no more. Never rejects: where it fails it is tried again. */
  async now(names: readonly string[], nonce: number, windowMs: number): Promise<void> {
    const one = { names, nonce, until: 0, goneAt: performance.now() + windowMs };
    if (!(await this.isUndone(one))) this.put(one);
  }

  stop(): void {
    this.isOver = true;
    clearTimeout(this.timer);
    this.waiting = [];
  }

  private put(one: WaitingUndo): void {
    if (this.isOver || this.waiting.length >= MOST_WAITING) return;
    this.waiting.push(one);
    this.timer ??= setTimeout(() => void this.again(), AGAIN_MS).unref();
  }

  private async again(): Promise<void> {
    const now = performance.now();
    const waiting = this.waiting.filter(({ goneAt }) => goneAt > now);
    this.waiting = [];
    this.timer = undefined;
    // The first tells whether there is a server again.
    const [first, ...others] = waiting;
    if (first === undefined) return;
    const isBack = await this.isUndone(first);
    if (!isBack) this.put(first);
    // A few at a time: those who call now have their turn, too.
    for (const page of pagesOf(others, AT_ONCE)) {
      const undone = await Promise.all(page.map(async (one) => isBack && (await this.isUndone(one))));
      for (const [index, one] of page.entries()) if (undone[index] !== true) this.put(one);
    }
  }

  private async isUndone({ names, nonce, until }: WaitingUndo): Promise<boolean> {
    try {
      const [, early] = await this.calls.run(scripts.undo, names, 0, [String(nonce), String(until)]);
      return early === undefined;
    } catch {
      return false;
    }
  }
}
