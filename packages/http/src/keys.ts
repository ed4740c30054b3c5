/** Keys that signatures are checked with, as people have them: JWK, PEM, base64, or imported already. */
/** How a key signs, by its name in the registry of RFC 9421. */
export type SignatureAlgorithm = 'ed25519' | 'ecdsa-p256-sha256' | 'hmac-sha256';

/** A key as JSON Web Key, RFC 7517: what is read of it, and what it may have besides. */
export interface KeyAsJson {
  readonly kty?: string;
  readonly crv?: string;
  readonly x?: string;
  readonly y?: string;
  readonly k?: string;
  readonly d?: string;
  readonly alg?: string;
  readonly use?: string;
  readonly kid?: string;
  readonly key_ops?: readonly string[];
  readonly ext?: boolean;
}

/** A key that Web Crypto has imported: a `CryptoKey`. */
export interface ImportedKey {
  readonly type: string;
  readonly extractable: boolean;
  readonly algorithm: { readonly name: string };
  readonly usages: readonly string[];
}

/** Checks signatures, as `http-message-sig` wants it. */
interface Verifier {
  readonly algorithm: SignatureAlgorithm;
  verify(data: Uint8Array, signature: Uint8Array): Promise<boolean>;
}

/** A key that posts may be signed with. */
export interface VerifyingKey {
  readonly algorithm: SignatureAlgorithm;
  /**
   * A public key as JWK or PEM; for `hmac-sha256` the secret, at least 32 bytes, as JWK, as bytes, or as text in base64.
   */
  readonly key: KeyAsJson | string | Uint8Array<ArrayBuffer> | ImportedKey;
  /** When it is retired, in ISO 8601 with its offset: `'2026-12-01T00:00:00Z'`. Never by default. */
  readonly until?: string;
}

export const algorithms: readonly SignatureAlgorithm[] = ['ed25519', 'ecdsa-p256-sha256', 'hmac-sha256'];

const parameters = {
  ed25519: { name: 'Ed25519' },
  'ecdsa-p256-sha256': { name: 'ECDSA', namedCurve: 'P-256', hash: 'SHA-256' },
  'hmac-sha256': { name: 'HMAC', hash: 'SHA-256' },
} as const;

const SHORTEST_SECRET = 32;

/** What is wrong with a key, as far as one sees it; `undefined` where it looks right. Shows nothing of it. */
export function keyProblem(given: unknown): string | undefined {
  const { algorithm, key, until } = Object(given) as Partial<VerifyingKey>;
  if (algorithm === undefined || !algorithms.includes(algorithm))
    return `its algorithm is none; give ${algorithms.join(', ')}`;
  if (until !== undefined && !(typeof until === 'string' && /(?:Z|[+-]\d\d:\d\d)$/.test(until) && Date.parse(until)))
    return "its `until` is no time; give one such as '2026-12-01T00:00:00Z'";
  if (key instanceof CryptoKey) {
    const { name } = key.algorithm;
    return name === parameters[algorithm].name && key.usages.includes('verify')
      ? undefined
      : `it is a key for ${name} that does not verify ${algorithm}`;
  }
  return algorithm === 'hmac-sha256' ? secretProblem(key) : publicProblem(algorithm, key);
}

function secretProblem(key: unknown): string | undefined {
  const bytes = secretBytes(key);
  if (bytes === undefined) return 'its secret is neither bytes, a JWK of the type oct, nor base64';
  return bytes.length < SHORTEST_SECRET ? `its secret is shorter than ${SHORTEST_SECRET} bytes` : undefined;
}

function secretBytes(key: unknown): Uint8Array<ArrayBuffer> | undefined {
  if (key instanceof Uint8Array) return new Uint8Array(key);
  if (typeof key === 'string') return fromBase64(key);
  const { kty, k } = Object(key) as KeyAsJson;
  return kty === 'oct' && typeof k === 'string' ? fromBase64(k.replaceAll('-', '+').replaceAll('_', '/')) : undefined;
}

/** A public key with what comes before it in its PEM (RFC 8410, RFC 5480), in bytes. */
const pemBytes = { ed25519: 44, 'ecdsa-p256-sha256': 91 } as const;
/** 32 bytes in base64url, as in RFC 8037 and RFC 7518. */
const isCoordinate = (value: unknown) => typeof value === 'string' && /^[\w-]{43}$/.test(value);

function publicProblem(algorithm: 'ed25519' | 'ecdsa-p256-sha256', key: unknown): string | undefined {
  const { kty, crv, x, y, d } = Object(key) as KeyAsJson;
  if (d !== undefined || (typeof key === 'string' && /PRIVATE KEY/.test(key)))
    return 'it is the private key; give the public one';
  const isRight =
    typeof key === 'string'
      ? fromPem(key)?.length === pemBytes[algorithm]
      : algorithm === 'ed25519'
        ? kty === 'OKP' && crv === 'Ed25519' && isCoordinate(x)
        : kty === 'EC' && crv === 'P-256' && isCoordinate(x) && isCoordinate(y);
  return isRight ? undefined : `it is no public key for ${algorithm}, as JWK or PEM`;
}

/** Checks signatures with a key. */
export async function verifierOf({ algorithm, key }: VerifyingKey): Promise<Verifier> {
  const cryptoAlgorithm = parameters[algorithm];
  const own = await imported(algorithm, key);
  return {
    algorithm,
    verify: (data, signature) =>
      crypto.subtle.verify(cryptoAlgorithm, own, new Uint8Array(signature), new Uint8Array(data)),
  };
}

function imported(algorithm: SignatureAlgorithm, key: VerifyingKey['key']): CryptoKey | Promise<CryptoKey> {
  const cryptoAlgorithm = parameters[algorithm];
  if (key instanceof CryptoKey) return key;
  if (algorithm === 'hmac-sha256')
    return crypto.subtle.importKey('raw', secretBytes(key) ?? new Uint8Array(), cryptoAlgorithm, false, ['verify']);
  if (typeof key === 'string')
    return crypto.subtle.importKey('spki', fromPem(key) ?? new Uint8Array(), cryptoAlgorithm, false, ['verify']);
  const { kty = '', crv = '', x = '', y } = key as KeyAsJson;
  // What else a JWK says, such as its use, is for others.
  const own = y === undefined ? { kty, crv, x } : { kty, crv, x, y };
  return crypto.subtle.importKey('jwk', own, cryptoAlgorithm, false, ['verify']);
}

function fromPem(text: string): Uint8Array<ArrayBuffer> | undefined {
  const [, base64] = /^\s*-----BEGIN PUBLIC KEY-----([A-Za-z0-9+/=\s]+)-----END PUBLIC KEY-----\s*$/.exec(text) ?? [];
  return base64 === undefined ? undefined : fromBase64(base64.replace(/\s/g, ''));
}

function fromBase64(text: string): Uint8Array<ArrayBuffer> | undefined {
  if (!/^[A-Za-z0-9+/]+={0,2}$/.test(text)) return undefined;
  try {
    return Uint8Array.from(atob(text), (character) => character.charCodeAt(0));
  } catch {
    return undefined;
  }
}
