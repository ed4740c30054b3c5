/** Whether a body is the one that was signed: Content-Digest, RFC 9530. */
import { parseDictionary } from 'structured-headers';

/** The algorithms of its registry that are not deprecated. */
const hashes = { 'sha-256': 'SHA-256', 'sha-512': 'SHA-512' } as const;

/** What is wrong with the digest of a body; `undefined` where it is right. All that are known must fit. */
export async function digestProblem(header: string | null, body: Uint8Array<ArrayBuffer>): Promise<string | undefined> {
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
