/** Proof by HTTP Message Signatures, RFC 9421, over a body that its Content-Digest stands for. */

import { isSignatureError, verifySignature } from 'http-message-sig';
import { parseDictionary } from 'structured-headers';
import type { Duration, MaybePromise } from 'taxeon';
import { millisecondsOf } from 'taxeon/platform';
import { algorithms, keyProblem, type VerifyingKey, verifierOf } from './keys.js';
import type { Proof, Proving } from './proof.js';

/** Which signatures prove a post. */
export interface SignatureOptions {
  /**
   * The keys by their ids; two at once while you change one for another. Or a function that finds a key, and gives
   * nothing for an id that it does not know.
   */
  readonly keys: Readonly<Record<string, VerifyingKey>> | ((id: string) => MaybePromise<VerifyingKey | undefined>);
  /** Headers that must be signed besides `content-type` and `content-digest`. */
  readonly covers?: readonly string[];
  /** How old a signature may be; 5 min by default, at most 1 h. As long, and a little longer, its nonce is remembered. */
  readonly within?: Duration;
  /** How far the system's clock may be from the bot's; 30 s by default, at most 5 min. */
  readonly skew?: Duration;
  /** Which signature it is, where a post has several; the only one by default. */
  readonly label?: string;
}

/** In UTF-16 code units. */
const LONGEST_ID = 200;
/** Those of a function are not remembered beyond this. */
const MOST_KEYS = 100;
const required = ['@method', 'content-type', 'content-digest'] as const;

/**
 * Proves a post by its signature: Ed25519, ECDSA with P-256, or HMAC with SHA-256. It must cover `@method`, the whole
 * address (`@target-uri`, or `@authority`, `@path` and `@query`), `content-type` and `content-digest`, and say `created`,
 * `keyid` and `nonce`. A nonce is taken once: what is sent again must be signed anew.
 *
 * The algorithm is the key's; a signature never chooses one. What was signed for another address proves nothing, so the
 * endpoint must know its own: give it `origin`.
 *
 * @throws TypeError naming each key that is not right
 *
 * @example
 * import { signatures } from '@taxeon/http';
 * import { spring } from './keys.js';
 *
 * const proof = signatures({ keys: { 'spring-2026': { algorithm: 'ed25519', key: spring } } });
 */
export function signatures(options: SignatureOptions): Proof {
  const { keys, covers = [], label } = options;
  const withinMs = boundedMs(options.within ?? '5m', 'within', '1h');
  const skewMs = boundedMs(options.skew ?? '30s', 'skew', '5m');
  const keyOf = keyFinder(keys);
  const verifiers = new Map<VerifyingKey, ReturnType<typeof verifierOf>>();
  const requiredComponents = [...required, ...covers.map((name) => name.toLowerCase())];

  function verifierFor(key: VerifyingKey): ReturnType<typeof verifierOf> {
    const known = verifiers.get(key);
    if (known !== undefined) return known;
    if (verifiers.size >= MOST_KEYS) verifiers.clear();
    const made = verifierOf(key);
    verifiers.set(key, made);
    return made;
  }

  async function verifierBy(id: string, now: number): ReturnType<typeof verifierOf> {
    const key = id.length > LONGEST_ID ? undefined : await keyOf(id);
    if (key === undefined) throw new Unproved(`there is no key ${JSON.stringify(id.slice(0, LONGEST_ID))}`);
    const problem = keyProblem(key);
    if (problem !== undefined) throw new TypeError(`The key ${id}: ${problem}`);
    if (key.until !== undefined && now >= Date.parse(key.until)) throw new Unproved(`the key ${id} is retired`);
    return verifierFor(key);
  }

  const proof: Proof = async (proving) => {
    const { now, headers, body, once } = proving;
    try {
      const { components, parameters, signature } = await verifySignature(signedMessage(proving), {
        ...(label === undefined ? {} : { label }),
        policy: {
          algorithms,
          requiredComponents,
          requiredParameters: ['created', 'keyid', 'nonce'],
          maxAge: withinMs / 1000,
          clockSkew: skewMs / 1000,
          now: Math.floor(now / 1000),
        },
        resolveVerifier: ({ parameters: { keyid = '' } }) => verifierBy(keyid, now),
      });
      // Base64 has spare bits at its end, which RFC 8941 lets be anything (4.2.7): one signature is written in one way.
      if (headers.get('signature')?.includes(`:${btoa(String.fromCharCode(...signature))}:`) !== true)
        return 'its signature is not written as base64 writes it';
      const covered = new Set(components.map(({ name }) => name));
      if (!coversAddress(covered)) return 'its signature does not cover the whole address';
      const digest = await digestProblem(headers.get('content-digest'), await body());
      if (digest !== undefined) return digest;
      const { keyid, nonce = '' } = parameters;
      if (nonce === '' || nonce.length > LONGEST_ID) return 'its nonce is empty or too long';
      const isNew = await once(JSON.stringify([keyid, nonce]), withinMs + 2 * skewMs + 1000);
      if (!isNew) return 'its nonce came before';
      return { headers: [...covered].filter((name) => !name.startsWith('@')) };
    } catch (error) {
      return whyUnproved(error);
    }
  };
  return Object.assign(proof, { needsOrigin: true, remembers: true });
}

/** A window without an end would remember nonces without an end. */
function boundedMs(duration: Duration, what: string, most: Duration): number {
  const ms = millisecondsOf(duration, `signatures, ${what}`);
  if (ms <= millisecondsOf(most, '')) return ms;
  throw new TypeError(`signatures, ${what}: it is longer than ${most}`);
}

/** The post is not proved, for a reason that its sender is to blame for. */
class Unproved extends Error {
  override readonly name = 'Unproved';
}

/** @throws what is no fault of the post's */
function whyUnproved(error: unknown): string {
  const { cause } = Object(error) as { readonly cause?: unknown };
  if (cause instanceof Unproved) return cause.message;
  if (!isSignatureError(error)) throw error;
  if (error.code === 'ResolverFailed') throw cause;
  return `its signature is not right: ${error.message}`;
}

function keyFinder(keys: SignatureOptions['keys']): (id: string) => MaybePromise<VerifyingKey | undefined> {
  if (typeof keys === 'function') return keys;
  const named = new Map(Object.entries(Object(keys) as Readonly<Record<string, VerifyingKey>>));
  if (named.size === 0) throw new TypeError('signatures, keys: there is none');
  const problems = [...named].flatMap(([id, key]) => {
    const problem = keyProblem(key);
    return problem === undefined ? [] : [`${id}: ${problem}`];
  });
  if (problems.length > 0) throw new TypeError(`signatures, keys: ${problems.join('\n     ')}`);
  return (id) => named.get(id);
}

/** Headers that no signature can cover, since they are not in ASCII, are left out: a signature over one is refused. */
function signedMessage({ method, url, headers }: Proving) {
  const fields = [...headers].flatMap(([name, value]) => (/^[\t\x20-\x7e]*$/.test(value) ? [{ name, value }] : []));
  return { kind: 'request', method, targetUri: url.href, fields } as const;
}

function coversAddress(covered: ReadonlySet<string>): boolean {
  return covered.has('@target-uri') || ['@authority', '@path', '@query'].every((name) => covered.has(name));
}

// Whether a body is the one that was signed: Content-Digest, RFC 9530.
/** The algorithms of its registry that are not deprecated. */
const hashes = { 'sha-256': 'SHA-256', 'sha-512': 'SHA-512' } as const;

/** What is wrong with the digest of a body; `undefined` where it is right. All that are known must fit. */
async function digestProblem(header: string | null, body: Uint8Array<ArrayBuffer>): Promise<string | undefined> {
  let given: ReturnType<typeof parseDictionary>;
  try {
    given = parseDictionary(header ?? '');
  } catch {
    return 'its content-digest does not read';
  }
  let looked = 0;
  for (const [name, hash] of Object.entries(hashes)) {
    const member = given.get(name);
    if (member === undefined) continue;
    const [value] = member;
    if (!(value instanceof ArrayBuffer)) return 'its content-digest does not read';
    if (!isSameBytes(new Uint8Array(value), new Uint8Array(await crypto.subtle.digest(hash, body))))
      return 'its body is another than its content-digest says';
    looked += 1;
  }
  return looked === 0 ? 'its content-digest has neither sha-256 nor sha-512' : undefined;
}

function isSameBytes(one: Uint8Array, other: Uint8Array): boolean {
  return one.length === other.length && one.every((byte, index) => byte === other[index]);
}
