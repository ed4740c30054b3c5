/** How a post proves where it comes from. */

import type { Clock, MaybePromise, Store } from 'taxeon';
import { inTime } from 'taxeon/platform';
import type { Head, Received } from './receive.js';
import { closing, later, PostRefusal } from './refusal.js';

/** A post that is to be proved: bytes, of which nothing was interpreted. */
export interface Proving {
  readonly method: 'POST';
  /** With the `origin` of the endpoint's options: what the request says of its own is whatever its sender wrote. */
  readonly url: URL;
  readonly headers: Headers;
  /** Reads all of it. Refuse before what can be refused by the headers: a stranger may send it slowly, or never. */
  body(): Promise<Uint8Array<ArrayBuffer>>;
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
export interface Proof {
  (proving: Proving): MaybePromise<Proven>;
  /** Whether it proves nothing where `origin` is not given. */
  readonly needsOrigin?: boolean;
  /** Whether what counts once is to be known after a restart, too: told at the opening where the store forgets. */
  readonly remembers?: boolean;
}

export interface ProofServices {
  readonly clock: Clock;
  readonly store: Store;
  readonly storePatienceMs: number;
  readonly patienceMs: number;
  /** By which what is remembered is told apart from that of other endpoints. */
  readonly name: string;
  failed(error: unknown): void;
}

/** A post whose sender is known. */
export interface Proved extends Received {
  /** Which headers are proved: all where it is absent. */
  readonly covered?: readonly string[];
}

/** In UTF-16 code units. */
const LONGEST_ONCE = 1000;

/** @param read reads the body, which is asked for once at most */
export async function prove(
  proof: Proof,
  head: Head,
  read: () => Promise<Received['body'] | PostRefusal>,
  services: ProofServices,
): Promise<Proved | PostRefusal> {
  const { clock, store, storePatienceMs, patienceMs, name } = services;
  const { url, headers } = head;
  let reading: ReturnType<typeof read> | undefined;
  let unread: PostRefusal | undefined;
  async function whole(): Promise<Received['body']> {
    reading ??= read();
    const bytes = await reading;
    if (!(bytes instanceof PostRefusal)) return bytes;
    unread = bytes;
    throw new TypeError(`The body cannot be read: ${bytes.why}`);
  }
  const proving: Proving = {
    method: 'POST',
    url,
    headers,
    body() {
      const body = whole();
      // Where nobody waits for it, its failure ends no process.
      body.catch(() => undefined);
      return body;
    },
    now: clock.now(),
    async once(what, expiresInMs) {
      if (typeof what !== 'string' || what === '' || what.length > LONGEST_ONCE) return false;
      try {
        const write = () => store.compareAndSet(`http/once/${name}/${what}`, 0, '1', expiresInMs);
        const isNew: unknown = await inTime(clock, storePatienceMs, write);
        if (typeof isNew === 'boolean') return isNew;
      } catch (cause) {
        throw new NotRemembered('The store does not answer', { cause });
      }
      throw new NotRemembered('The store gave no yes or no');
    },
  };
  try {
    const covered = provenOrRefused(await inTime(clock, patienceMs, () => proof(proving)));
    return covered instanceof PostRefusal ? covered : { ...head, body: await whole(), ...covered };
  } catch (error) {
    if (unread !== undefined) return unread;
    services.failed(error);
    return error instanceof NotRemembered
      ? new PostRefusal(503, 'the store could not be asked whether it came before', later)
      : new PostRefusal(500, 'what proves it failed');
  }
}

/** Nobody knows whether it came before. */
class NotRemembered extends Error {
  override readonly name = 'NotRemembered';
}

function provenOrRefused(proven: unknown): Pick<Proved, 'covered'> | PostRefusal {
  if (proven === true) return {};
  if (typeof proven === 'string' && proven !== '') return unproved(proven);
  const { headers } = Object(proven) as { readonly headers?: unknown };
  if (Array.isArray(headers)) return { covered: headers.map((name) => String(name).toLowerCase()) };
  return unproved('it is not proved');
}

function unproved(why: string): PostRefusal {
  return new PostRefusal(401, why, closing);
}
