/** Where the bot sends something: only to the system's own addresses, and into the local network only where that is allowed. */
import type { AnswerAddresses } from './answers.js';

/** What is wrong with the origins; `undefined` where they are right. */
export function addressesProblem({ origins, local, headers }: AnswerAddresses): string | undefined {
  if (!areHeaders(headers)) return 'has `headers` that are none';
  if (!Array.isArray(origins) || origins.length === 0) return 'has no `origins`; name those of the system';
  for (const origin of origins) {
    if (!URL.canParse(origin) || new URL(origin).origin !== origin)
      return `has the origin ${JSON.stringify(origin)}, which is none; write 'https://chat.oddmere.example'`;
    if (local !== true && isLocal(new URL(origin)))
      return `has the origin ${origin}, which is http, local or a number; \`local: true\` allows that`;
  }
  return undefined;
}

/** Told before they are needed, and without what is in them. */
export function areHeaders(headers: Readonly<Record<string, string>> | undefined): boolean {
  try {
    return new Headers(headers) instanceof Headers;
  } catch {
    return false;
  }
}

/** What a name server outside of the house cannot stand for, and numbers, which may be anything. */
export function isLocal({ protocol, hostname }: URL): boolean {
  if (protocol !== 'https:') return true;
  // With a dot at its end a name is the same (RFC 1034, 3.1).
  const name = hostname.replace(/\.$/, '');
  const isNumber = name.startsWith('[') || /^[\d.]+$/.test(name);
  return isNumber || !name.includes('.') || /\.(?:localhost|local|internal|lan|home\.arpa)$/.test(name);
}

/** What is wrong with the address of a post; `undefined` where answers may go there. */
export function addressProblem(answerTo: string, { origins }: AnswerAddresses): string | undefined {
  const { origin, username, password } = new URL(answerTo);
  if (username !== '' || password !== '') return 'answerTo has a name or a password in it';
  return origins.includes(origin) ? undefined : `answerTo is at ${origin}, which is none of \`answers.origins\``;
}
