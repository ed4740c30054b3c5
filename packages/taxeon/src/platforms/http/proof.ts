/** How a post proves where it comes from. */
import { type MaybePromise, patiently } from '../../base/thenable.js';
import type { Clock } from '../../base/time.js';
import type { Store } from '../../contract/store.js';
import type { Received } from './receive.js';
import { later, Refusal } from './refusal.js';

/** A post that is to be proved: bytes, of which nothing was interpreted. */
export interface Proving {
  readonly method: 'POST';
  /** As the system has it, also behind a proxy where `origin` is given. */
  readonly url: URL;
  readonly headers: Headers;
  readonly body: Uint8Array<ArrayBuffer>;
  /** In milliseconds since 1970-01-01 UTC. */
  readonly now: number;
  /**
   * Remembers something, such as a nonce, in the store. Ask it last: what is not proved must not be remembered.
   *
   * @param expiresInMs for how long
   * @returns whether it is new; never for what is empty, longer than 1,000 characters, or no text
   */
  once(what: string, expiresInMs: number): Promise<boolean>;
}

/** `true` proves it; a sentence, for the log, or `false` does not, nor does anything else. */
export type Proven = boolean | string | { readonly headers: readonly string[] };

/** What makes sure where a post comes from: `signatures`, `sharedSecret`, or a function of your own. */
export type Proof = (proving: Proving) => MaybePromise<Proven>;

export interface ProofServices {
  readonly clock: Clock;
  readonly store: Store;
  readonly storePatienceMs: number;
  readonly patienceMs: number;
  /** By which what is remembered is told apart from that of other endpoints. */
  readonly name: string;
  failed(error: unknown): void;
}

/** Which headers are proved: all where `headers` is absent. */
export interface Proved {
  readonly headers?: readonly string[];
}

/** In UTF-16 code units. */
const LONGEST_ONCE = 1000;

export async function prove(proof: Proof, received: Received, services: ProofServices): Promise<Proved | Refusal> {
  const { clock, store, storePatienceMs, patienceMs, name } = services;
  const { url, headers, body } = received;
  const proving: Proving = {
    method: 'POST',
    url,
    headers,
    body,
    now: clock.now(),
    async once(what, expiresInMs) {
      if (typeof what !== 'string' || what === '' || what.length > LONGEST_ONCE) return false;
      try {
        const writing = Promise.resolve(store.compareAndSet(`http/once/${name}/${what}`, 0, '1', expiresInMs));
        const isNew: unknown = await patiently(clock, writing, storePatienceMs);
        if (typeof isNew === 'boolean') return isNew;
      } catch (cause) {
        throw new NotRemembered('The store does not answer', { cause });
      }
      throw new NotRemembered('The store gave no yes or no');
    },
  };
  try {
    return verdict(await patiently(clock, Promise.resolve(proof(proving)), patienceMs));
  } catch (error) {
    services.failed(error);
    return error instanceof NotRemembered
      ? new Refusal(503, 'the store could not be asked whether it came before', later)
      : new Refusal(500, 'what proves it failed');
  }
}

/** Nobody knows whether it came before. */
class NotRemembered extends Error {
  override readonly name = 'NotRemembered';
}

function verdict(proven: unknown): Proved | Refusal {
  if (proven === true) return {};
  if (typeof proven === 'string' && proven !== '') return unproved(proven);
  const { headers } = Object(proven) as { readonly headers?: unknown };
  if (Array.isArray(headers)) return { headers: headers.map((name) => String(name).toLowerCase()) };
  return unproved('it is not proved');
}

function unproved(why: string): Refusal {
  return new Refusal(401, why);
}
