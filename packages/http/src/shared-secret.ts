/** Proof by a secret in a header, which the system and the bot share. */
import type { Proof } from './proof.js';

/** Which header holds the secret, and which it may be. */
export interface SharedSecretOptions {
  /** The header's name: `'x-oddmere-secret'`, or `'authorization'`. */
  readonly header: string;
  /** The secret, at least 16 characters; two while you change it for another. */
  readonly secrets: readonly (string | undefined)[];
  /** What stands before the secret in the header: `'Bearer '`. */
  readonly scheme?: string;
}

const SHORTEST = 16;
const MOST = 4;

/**
 * Proves a post by a secret in a header, compared in constant time. It proves the sender and not the message: use it over
 * TLS alone, and `signatures` where the system can sign.
 *
 * @throws TypeError where a secret is missing or too short
 *
 * @example
 * import { sharedSecret } from '@taxeon/http';
 *
 * const proof = sharedSecret({ header: 'x-oddmere-secret', secrets: [process.env['SLASH_SECRET']] });
 */
export function sharedSecret({ header, secrets, scheme = '' }: SharedSecretOptions): Proof {
  if (typeof header !== 'string' || !/^[\w-]+$/.test(header))
    throw new TypeError('sharedSecret, header: give its name');
  if (!Array.isArray(secrets) || secrets.length === 0 || secrets.length > MOST)
    throw new TypeError(`sharedSecret, secrets: give a list of one secret, or of up to ${MOST} while you change it`);
  if (!secrets.every((one) => typeof one === 'string' && one.length >= SHORTEST))
    throw new TypeError(`sharedSecret, secrets: one is missing, or shorter than ${SHORTEST} characters`);
  const wanted = secrets.map((secret) => scheme + secret);
  return ({ headers }) => {
    const given = headers.get(header);
    if (given === null) return `it has no header ${header}`;
    // All of them, so that the time does not tell which it was.
    const same = wanted.map((one) => isSameSecret(given, one));
    return same.includes(true) || `its header ${header} holds another secret`;
  };
}

/** Takes as long for every text of a length, wherever two differ. Hot path: bench/rows/http. */
function isSameSecret(given: string, wanted: string): boolean {
  let difference = given.length ^ wanted.length;
  for (let index = 0; index < given.length; index++)
    difference |= given.charCodeAt(index) ^ wanted.charCodeAt(index % wanted.length);
  return difference === 0;
}
