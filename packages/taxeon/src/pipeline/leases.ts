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

export interface Leases {
  hold(uses: readonly Use[]): Lease;
  /** Gives the places back; where they are just being renewed, as soon as it is known under which times. */
  end(lease: Lease): void;
  /** Nothing is renewed any more. */
  close(): void;
}

export function leasesOf(services: LeaseServices): Leases {
  const { store, clock, storePatienceMs, outages, leaseMs, giveBacks } = services;
  const held = new Set<Lease>();
  let renewing: Promise<void> | undefined;
  let cancel: (() => void) | undefined;

  function stop(): void {
    cancel?.();
    cancel = undefined;
  }

  function later(): void {
    cancel ??= after(clock, leaseMs / RENEWALS, () => {
      cancel = undefined;
      renewing ??= renew().then(() => {
        renewing = undefined;
        if (held.size > 0) later();
      });
    });
  }

  /** Never rejects. What the store does not answer in time may be renewed all the same: its answer counts when it comes. */
  async function renew(): Promise<void> {
    const asked = [...held].map((lease) => ({ lease, uses: lease.uses }));
    const uses = asked.flatMap((one) => one.uses);
    if (uses.length === 0) return;
    try {
      const given = store.renew(uses);
      if (!isThenable(given)) apply(asked, given);
      else {
        const applied = promised(() => given).then((renewed) => apply(asked, renewed));
        await patiently(clock, applied, storePatienceMs);
      }
    } catch (error) {
      outages.tell({ error });
    }
  }

  function apply(asked: readonly { readonly lease: Lease; readonly uses: readonly Use[] }[], renewed: Renewed): void {
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
    if (lost.length > 0) services.lost(lost);
  }

  return {
    hold(uses) {
      const lease = { uses };
      held.add(lease);
      later();
      return lease;
    },
    end(lease) {
      held.delete(lease);
      if (held.size === 0) stop();
      if (renewing === undefined) giveBacks.give(lease.uses);
      else void renewing.then(() => giveBacks.give(lease.uses));
    },
    close() {
      held.clear();
      stop();
    },
  };
}
