/** What registering is at work on, and the way in which each of its changes is made. */
import { isConflict, type Registrar } from '../contract/registrar.js';
import type { Store } from '../contract/store.js';
import { type Claim, type RegistrarCalling, waiting } from './calling.js';
import { RegistrationError } from './errors.js';

/** Something that waits until people have seen what was done, so that they see a command once, and are never without it. */
export interface LeftToDo {
  readonly scope: string;
  readonly name: string;
  readonly does: 'create' | 'remove';
  /** When to register again, in milliseconds since 1970-01-01 UTC. */
  readonly at: number;
}

/** With whom, and how. */
export interface Registering extends RegistrarCalling {
  readonly store: Store;
  readonly registrar: Registrar;
  readonly by: string;
  readonly removeLeftOver: boolean;
}

export interface Progress {
  created: number;
  updated: number;
  removed: number;
  kept: number;
  readonly left: LeftToDo[];
}

const LOOK_AGAIN_MS = 250;
const MOST_CONFLICTS = 8;

/** Again where another process has changed the same, or where nobody knows what was done. */
export async function untilSettled(
  registering: Registering,
  claim: Claim,
  scope: string,
  once: () => Promise<void>,
): Promise<void> {
  for (let conflicts = 0; conflicts < MOST_CONFLICTS; conflicts++) {
    try {
      return await once();
    } catch (error) {
      if (!isConflict(error)) throw error;
      const why = 'changed by somebody else; looked at again after';
      await waiting(registering, claim, scope, why, LOOK_AGAIN_MS * 2 ** Math.min(conflicts, 5));
    }
  }
  throw new RegistrationError(
    `${scope}: the commands are changed by somebody else all the time. Look at the difference again, and register later.`,
  );
}
