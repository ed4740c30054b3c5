/** Where the bot sends something: only to the system's own addresses, and into the local network only where that is allowed. */
import type { AnswerAddresses } from './answers.js';

/** What is wrong with the origins; `undefined` where they are right. */
export function addressesProblem({ origins, local, headers }: AnswerAddresses): string | undefined {
  if (!areHeaders(headers)) return 'has `headers` that are none';
  if (!Array.isArray(origins) || origins.length === 0) return 'has no `origins`; name those of the system';
  for (const origin of origins) {
    if (!isOrigin(origin))
      return `has the origin ${JSON.stringify(origin)}, which is none; write 'https://chat.oddmere.example'`;
    if (local !== true && isLocal(new URL(origin)))
      return `has the origin ${origin}, which is http, local or a number; \`local: true\` allows that`;
  }
  return undefined;
}

/** A scheme and a host, and that of HTTP: others have an origin, too, such as `blob:`. */
export function isOrigin(given: unknown): given is string {
  return typeof given === 'string' && URL.canParse(given) && originOf(new URL(given)) === given;
}

function originOf({ protocol, host }: URL): string | undefined {
  return protocol === 'https:' || protocol === 'http:' ? `${protocol}//${host}` : undefined;
}

/** Told before they are needed, and without what is in them. */
export function areHeaders(headers: Readonly<Record<string, string>> | undefined): boolean {
  try {
    return new Headers(headers) instanceof Headers;
  } catch {
    return false;
  }
}

/** RFC 6761, RFC 6762 (appendix G), RFC 8375, and what is common. */
const ownNames = /\.(?:localhost|localdomain|local|internal|intranet|private|corp|home|lan|home\.arpa)$/;

/** What a name server outside of the house cannot stand for, and numbers, which may be anything. */
export function isLocal({ protocol, hostname }: URL): boolean {
  if (protocol !== 'https:') return true;
  // With a dot at its end a name is the same (RFC 1034, 3.1).
  const name = hostname.replace(/\.$/, '');
  const isNumber = name.startsWith('[') || /^[\d.]+$/.test(name);
  return isNumber || !name.includes('.') || ownNames.test(name);
}

/** What is wrong with the address of a post; `undefined` where answers may go there. */
export function addressProblem(answerTo: string, { origins }: AnswerAddresses): string | undefined {
  const address = new URL(answerTo);
  if (address.username !== '' || address.password !== '') return 'answerTo has a name or a password in it';
  const origin = originOf(address);
  if (origin !== undefined && origins.includes(origin)) return undefined;
  return `answerTo is at ${origin ?? address.protocol}, which is none of \`answers.origins\``;
}
