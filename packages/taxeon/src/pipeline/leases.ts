/** Keeping the places of calls that run for long: one renewal for all of a process, for as long as their handlers live. */
import { isThenable, patiently, promised } from '../base/thenable.js';
import { after } from '../base/time.js';
import type { Renewed, Use } from '../contract/store.js';
import type { GiveBackServices, GiveBacks } from './give-backs.js';

/** So many times within a lease: two may fail. */
const RENEWALS = 3;

/** The running limits of one call, with the times under which the store knows them now. */
export interface Lease {
  uses: readonly Use[];
}

interface LeaseServices extends GiveBackServices {
  readonly leaseMs: number;
  readonly giveBacks: GiveBacks;
  /** Told of places that ran out and are others' by now. */
  lost(uses: readonly Use[]): void;
}

export class Leases {
  readonly #held = new Set<Lease>();
  #renewing: Promise<void> | undefined = undefined;
  #cancel: (() => void) | undefined = undefined;

  readonly #services: LeaseServices;

  constructor(services: LeaseServices) {
    this.#services = services;
  }

  hold(uses: readonly Use[]): Lease {
    const lease = { uses };
    this.#held.add(lease);
    this.#later();
    return lease;
  }

  /** Gives the places back; where they are just being renewed, as soon as it is known under which times. */
  end(lease: Lease): void {
    const { giveBacks } = this.#services;
    this.#held.delete(lease);
    if (this.#held.size === 0) this.#stop();
    if (this.#renewing === undefined) giveBacks.give(lease.uses);
    else void this.#renewing.then(() => giveBacks.give(lease.uses));
  }

  /** Nothing is renewed any more. */
  close(): void {
    this.#held.clear();
    this.#stop();
  }

  #stop(): void {
    this.#cancel?.();
    this.#cancel = undefined;
  }

  #later(): void {
    const { clock, leaseMs } = this.#services;
    this.#cancel ??= after(clock, leaseMs / RENEWALS, () => {
      this.#cancel = undefined;
      this.#renewing ??= this.#renew().then(() => {
        this.#renewing = undefined;
        if (this.#held.size > 0) this.#later();
      });
    });
  }

  /** Never rejects. What the store does not answer in time may be renewed all the same: its answer counts when it comes. */
  async #renew(): Promise<void> {
    const { store, clock, storePatienceMs, outages } = this.#services;
    const asked = [...this.#held].map((lease) => ({ lease, uses: lease.uses }));
    const uses = asked.flatMap((one) => one.uses);
    if (uses.length === 0) return;
    const apply = (renewed: Renewed) => this.#apply(asked, renewed);
    try {
      const given = store.renew(uses);
      if (!isThenable(given)) apply(given);
      else {
        const applied = promised(() => given).then(apply);
        await patiently(clock, applied, storePatienceMs);
      }
    } catch (error) {
      outages.tell({ error });
    }
  }

  #apply(asked: readonly { readonly lease: Lease; readonly uses: readonly Use[] }[], renewed: Renewed): void {
    const { at, each } = renewed;
    if (!Number.isFinite(at) || !(each ?? []).every(Number.isFinite)) throw new TypeError('The store gave no time');
    const gone = new Set(renewed.lost);
    const lost: Use[] = [];
    let index = 0;
    for (const { lease, uses } of asked) {
      const kept: Use[] = [];
      for (const use of uses) {
        if (gone.has(index)) lost.push(use);
        else kept.push({ ...use, at: each?.[index] ?? at });
        index += 1;
      }
      // A later renewal may have been answered before.
      if (lease.uses === uses) lease.uses = kept;
    }
    if (lost.length > 0) this.#services.lost(lost);
  }
}
