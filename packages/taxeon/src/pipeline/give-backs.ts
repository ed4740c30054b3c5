/** Giving uses back to a store that may fail meanwhile: tried again until they would have run out by themselves. */
import { isThenable, patiently } from '../base/thenable.js';
import { after, type Clock } from '../base/time.js';
import type { Store, Use } from '../contract/store.js';
import type { SparseLog } from '../observe/sparse-log.js';

const FIRST_PAUSE_MS = 1000;
const LONGEST_PAUSE_MS = 60_000;
/** What is beyond these runs out by itself, with its window. */
const MOST_WAITING = 10_000;

/** A use that is to be given back, until it has run out. */
interface Owed {
  readonly use: Use;
  readonly until: number;
}

export interface GiveBackServices {
  readonly store: Store;
  /** It must not go back. */
  readonly clock: Clock;
  readonly storePatienceMs: number;
  readonly outages: SparseLog;
}

export class GiveBacks {
  #owed: readonly Owed[] = [];
  readonly #underWay = new Set<Promise<unknown>>();
  #pauseMs = FIRST_PAUSE_MS;
  #cancel: (() => void) | undefined = undefined;
  #isOver = false;

  readonly #services: GiveBackServices;

  constructor(services: GiveBackServices) {
    this.#services = services;
  }

  /** Never throws. Hot path: bench/rows/calls. */
  give(uses: readonly Use[]): void {
    const { store, clock, storePatienceMs } = this.#services;
    const fail = (error: unknown) => this.#owe(uses, error);
    try {
      const given = store.giveBack(uses);
      if (isThenable(given)) this.#watch(patiently(clock, given, storePatienceMs).catch(fail));
    } catch (error) {
      fail(error);
    }
  }

  #watch(giving: Promise<unknown>): void {
    this.#underWay.add(giving);
    void giving.then(() => this.#underWay.delete(giving));
  }

  #owe(uses: readonly Use[], error: unknown): void {
    const { clock, outages } = this.#services;
    const now = clock.now();
    const owed = [...this.#owed, ...uses.map((use) => ({ use, until: now + use.limit.windowMs }))];
    outages.tell({ error, notGivenBack: Math.max(0, owed.length - MOST_WAITING) });
    this.#owed = owed.slice(-MOST_WAITING);
    this.#later();
  }

  /** Once more for all that is owed, and no more after that: what still fails runs out by itself. */
  async flush(): Promise<void> {
    this.#isOver = true;
    this.#cancel?.();
    await Promise.all(this.#underWay);
    await this.#again();
  }

  #later(): void {
    if (this.#isOver || this.#cancel !== undefined || this.#owed.length === 0) return;
    this.#cancel = after(this.#services.clock, this.#pauseMs, () => void this.#again());
    this.#pauseMs = Math.min(this.#pauseMs * 2, LONGEST_PAUSE_MS);
  }

  async #again(): Promise<void> {
    const { store, clock, storePatienceMs, outages } = this.#services;
    const now = clock.now();
    const owed = this.#owed.filter(({ until }) => until > now);
    this.#owed = [];
    this.#cancel = undefined;
    try {
      const uses = owed.map(({ use }) => use);
      const given = uses.length === 0 ? undefined : store.giveBack(uses);
      if (isThenable(given)) await patiently(clock, given, storePatienceMs);
      this.#pauseMs = FIRST_PAUSE_MS;
    } catch (error) {
      this.#owed = [...owed, ...this.#owed].slice(-MOST_WAITING);
      outages.tell({ error });
    }
    this.#later();
  }
}
