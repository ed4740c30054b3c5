/** Signing posts as a chat does: HTTP Message Signatures (RFC 9421) over a Content-Digest (RFC 9530), by Web Crypto. */
import { appendSignature, createSignature, webcrypto } from 'http-message-sig';

export interface Signer {
  readonly keyId: string;
  sign(url: string, body: string): Promise<Request>;
}

/** A key pair of this page's own, whose private half never leaves it; the chat is told the other. */
export async function makeSigner(): Promise<Signer> {
  const keyId = `page-${crypto.randomUUID()}`;
  const { privateKey, publicKey } = (await crypto.subtle.generateKey('Ed25519', false, [
    'sign',
    'verify',
  ])) as CryptoKeyPair;
  const key = await crypto.subtle.exportKey('jwk', publicKey);
  await fetch('chat/keys', {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ id: keyId, key }),
  });
  const signer = webcrypto.signer(privateKey);
  return {
    keyId,
    async sign(url, body) {
      const request = new Request(url, {
        method: 'POST',
        headers: { 'content-type': 'application/json', 'content-digest': await digestOf(body) },
      });
      const fields = await createSignature(request, {
        components: ['@method', '@target-uri', 'content-type', 'content-digest'],
        parameters: { created: Math.floor(Date.now() / 1000), keyid: keyId, nonce: crypto.randomUUID() },
        signer,
      });
      return new Request(request.url, { method: 'POST', headers: appendSignature(request.headers, fields), body });
    },
  };
}

async function digestOf(body: string): Promise<string> {
  const bytes = new Uint8Array(await crypto.subtle.digest('SHA-256', new TextEncoder().encode(body)));
  return `sha-256=:${btoa(String.fromCharCode(...bytes))}:`;
}
