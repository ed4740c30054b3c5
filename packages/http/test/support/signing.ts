/** Signing posts as a chat system does, by RFC 9421 and RFC 9530. */

import type { SignatureAlgorithm, VerifyingKey } from '@taxeon/http';
import { appendSignature, createSignature, type Signer } from 'http-message-sig';

/** A key pair, or a secret: what the system signs with, and what the bot checks with. */
export interface SigningKey {
  readonly signer: Signer;
  readonly verifying: VerifyingKey;
}

const ways = {
  ed25519: { name: 'Ed25519' },
  'ecdsa-p256-sha256': { name: 'ECDSA', namedCurve: 'P-256', hash: 'SHA-256' },
  'hmac-sha256': { name: 'HMAC', hash: 'SHA-256' },
} as const;

export async function signingKey(algorithm: SignatureAlgorithm): Promise<SigningKey> {
  const way = ways[algorithm];
  const made = (await crypto.subtle.generateKey(way, true, ['sign', 'verify'])) as CryptoKeyPair | CryptoKey;
  const [secret, shown] = 'publicKey' in made ? [made.privateKey, made.publicKey] : [made, made];
  return {
    signer: {
      algorithm,
      sign: async (data) => new Uint8Array(await crypto.subtle.sign(way, secret, new Uint8Array(data))),
    },
    verifying: { algorithm, key: await crypto.subtle.exportKey('jwk', shown) },
  };
}

export interface Signed {
  readonly signer: Signer;
  readonly keyid: string;
  /** In milliseconds since 1970-01-01 UTC. */
  readonly at: number;
  readonly nonce?: string;
  readonly components?: readonly string[];
  readonly url?: string;
  readonly type?: string;
  readonly headers?: Readonly<Record<string, string>>;
}

export const allComponents = ['@method', '@target-uri', 'content-type', 'content-digest'] as const;

export const origin = 'https://bot.oddmere.example';
export const url = `${origin}/slash?from=desk`;

export async function digestOf(body: string, hash: 'SHA-256' | 'SHA-512' = 'SHA-256'): Promise<string> {
  const bytes = new Uint8Array(await crypto.subtle.digest(hash, new TextEncoder().encode(body)));
  return `${hash.toLowerCase()}=:${btoa(String.fromCharCode(...bytes))}:`;
}

let nonces = 0;

/** A post that is signed. */
export async function signedPost(body: string, how: Signed): Promise<Request> {
  const { signer, keyid, at, nonce = `nonce-${++nonces}`, components = allComponents, headers = {} } = how;
  const request = new Request(how.url ?? url, {
    method: 'POST',
    headers: { 'content-type': how.type ?? 'application/json', 'content-digest': await digestOf(body), ...headers },
  });
  const fields = await createSignature(request, {
    components,
    parameters: { created: Math.floor(at / 1000), keyid, ...(nonce === '' ? {} : { nonce }) },
    signer,
  });
  return new Request(request.url, { method: 'POST', headers: appendSignature(request.headers, fields), body });
}
