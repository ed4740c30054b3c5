/** Where several processes are handed the same events: whoever is first to write an event's id into the store takes it. */
import { isThenable, type MaybePromise, patiently } from '../base/thenable.js';
import type { Input } from '../contract/input.js';
import type { Platform } from '../contract/platform.js';
import type { Hearing } from './hearing.js';
import { eventOf } from './recent.js';
import type { Services } from './services.js';
import { refused } from './stop.js';

const PREFIX = 'events/';
/** As long as ids are remembered in memory. */
const KEPT_MS = 20 * 60_000;

/**
 * Where the command's name begins, unless another process has the event; a refusal where nobody knows.
 *
 * @param looks leaves the event to others
 */
export function claimed(
  services: Services,
  input: Input,
  platform: Platform | undefined,
  looks: boolean,
  nameAt: number,
): MaybePromise<Hearing> {
  const { store, clock, storePatienceMs } = services;
  const key = PREFIX + eventOf(platform?.name ?? '', input);
  const heard = (isOurs: unknown): Hearing => {
    if (typeof isOurs !== 'boolean') return unknown(services, nameAt, new TypeError('The store gave no yes or no'));
    return isOurs ? nameAt : 'repeated';
  };
  try {
    const isOurs = looks ? isFree(store.read(key)) : store.compareAndSet(key, 0, '1', KEPT_MS);
    if (!isThenable(isOurs)) return heard(isOurs);
    return patiently(clock, isOurs, storePatienceMs).then(heard, (error) => unknown(services, nameAt, error));
  } catch (error) {
    return unknown(services, nameAt, error);
  }
}

function isFree(stored: MaybePromise<unknown>): MaybePromise<boolean> {
  return isThenable(stored) ? stored.then((value) => value === undefined) : stored === undefined;
}

/** It may have run elsewhere. */
function unknown({ reference, outages, outagePolicy }: Services, nameAt: number, error: unknown): Hearing {
  const stands = reference();
  outages.tell({ reference: stands, error });
  return outagePolicy === 'allow' ? nameAt : refused({ code: 'store.unavailable', parameters: { reference: stands } });
}
