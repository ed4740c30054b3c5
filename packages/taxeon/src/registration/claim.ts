/** That one process registers at a time, kept in a store that all of them share. */
import { pause } from '../base/thenable.js';
import { durationInWords } from '../base/time.js';
import type { Store } from '../contract/store.js';
import { type Claim, type RegistrarCalling, stored } from './calling.js';
import { RegistrationError } from './errors.js';

/** How long a claim holds while its process says nothing; each step and each wait renews it. */
const CLAIM_MS = 90_000;
const LOOK_AGAIN_MS = 250;
/** How long another process is waited for. */
const LONGEST_WAIT_MS = 10 * 60_000;
const TOLD_EVERY_MS = 30_000;
/** A claim whose process has died runs out. */
export async function claimScope(store: Store, key: string, calling: RegistrarCalling): Promise<Claim> {
  const { clock } = calling;
  const own = Array.from(crypto.getRandomValues(new Uint8Array(8)), (byte) => byte.toString(16).padStart(2, '0')).join(
    '',
  );
  /** Whether it is this process's now. One that has run out while nobody wanted it is taken again. */
  const take = async (): Promise<boolean> => {
    const held = await stored(clock, () => store.read(key));
    if (held !== undefined && held.value !== '' && held.value !== own) return false;
    return stored(clock, () => store.compareAndSet(key, held?.version ?? 0, own, CLAIM_MS));
  };
  for (let waited = 0; !(await take()); waited += LOOK_AGAIN_MS) {
    if (waited >= LONGEST_WAIT_MS)
      throw new RegistrationError('Another process is registering and does not come to an end.');
    if (waited % TOLD_EVERY_MS === 0) {
      const note = `another process is registering; waited for at most ${durationInWords(LONGEST_WAIT_MS - waited)}`;
      calling.onProgress?.({ scope: 'all', done: 'waiting', name: '', note });
    }
    await pause(clock, LOOK_AGAIN_MS);
  }
  return {
    async renew() {
      if (!(await take())) throw new RegistrationError('Another process has taken over registering; run it again.');
    },
    async release() {
      try {
        const held = await stored(clock, () => store.read(key));
        if (held?.value === own) await stored(clock, () => store.compareAndSet(key, held.version, '', 1));
      } catch {
        // It runs out.
      }
    },
  };
}
