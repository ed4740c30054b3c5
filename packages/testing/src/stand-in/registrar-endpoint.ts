/** The simulated place for commands, over HTTP: for tests of what registers with a real system in that way. */

import { systemClock } from 'taxeon';
import {
  type HeldCommand,
  inTime,
  isConflict,
  isPlatformError,
  type RegisteredForm,
  type Registrar,
  type RegistrationScope,
} from 'taxeon/platform';
/** How the place is reached. */
export interface RegistrarEndpointOptions {
  /** The place as it is by a token; `standInRegistrar` knows what each token may do. */
  readonly open: (token: string) => Registrar;
  /** How many commands one answer holds; 20 by default. */
  readonly pageSize?: number;
}

const LONGEST_BODY = 1_000_000;
const LONGEST_MS = 5000;

/**
 * Answers requests as `registrar.openapi.json` of this package describes: what is held by scope, page by page, and its
 * changes, each with the version that was seen. What the place refuses is told as RFC 9457 says.
 *
 * @example
 * const tokens = { demo: ['look', 'register'] };
 * const endpoint = registrarEndpoint({ open: (token) => standInRegistrar({ guilds: ['oddmere'], tokens, token }) });
 * const response = await endpoint(new Request('http://localhost/scopes/everywhere/commands')); // 401
 */
export function registrarEndpoint({
  open,
  pageSize = 20,
}: RegistrarEndpointOptions): (request: Request) => Promise<Response> {
  return async (request) => {
    const token = /^Bearer (\S+)$/.exec(request.headers.get('authorization') ?? '')?.[1];
    if (token === undefined) return problem(401, 'There is no token', { 'www-authenticate': 'Bearer' });
    try {
      return await answer(request, open(token), pageSize);
    } catch (error) {
      return failure(error);
    }
  };
}

async function answer(request: Request, registrar: Registrar, pageSize: number): Promise<Response> {
  const { pathname, searchParams } = new URL(request.url);
  const { method } = request;
  if (/\/scopes$/.test(pathname)) {
    if (method !== 'GET') return notAllowed('GET');
    const by = searchParams.get('by');
    if (by === null || registrar.scopes === undefined) return problem(404, 'Scopes are not told');
    return Response.json({ scopes: await registrar.scopes(by) });
  }
  const found = /\/scopes\/(?:everywhere|guild:([^/]+))\/commands(?:\/([^/]+))?$/.exec(pathname);
  if (found === null) return problem(404, 'There is nothing of that name');
  const [, guild, id] = found;
  const scope: RegistrationScope = guild === undefined ? 'everywhere' : { guild: decodeURIComponent(guild) };
  if (id === undefined) {
    if (method === 'GET') return pageOf(await registrar.read(scope), searchParams.get('page'), pageSize);
    if (method !== 'POST') return notAllowed('GET, POST');
    const { form, by } = await requestBody(request);
    if (typeof by !== 'string') throw new SyntaxError('`by` is no text');
    await registrar.create(scope, registeredForm(form), by);
    return new Response(null, { status: 201 });
  }
  if (method !== 'PUT' && method !== 'DELETE') return notAllowed('PUT, DELETE');
  const seen = await seenCommand(request, registrar, scope, decodeURIComponent(id));
  if (method === 'DELETE') await registrar.remove(scope, seen);
  else await registrar.update(scope, seen, registeredForm((await requestBody(request)).form));
  return new Response(null, { status: 204 });
}

/** The command with the version that the request says it has seen. */
async function seenCommand(
  request: Request,
  registrar: Registrar,
  scope: RegistrationScope,
  id: string,
): Promise<HeldCommand> {
  const version = /^"([^"]+)"$/.exec(request.headers.get('if-match') ?? '')?.[1];
  if (version === undefined) throw new Unversioned('if-match does not say which version was seen');
  const found = (await registrar.read(scope)).find((one) => one.id === id);
  if (found === undefined) throw new NoCommand('There is no such command');
  return { ...found, version };
}

class Unversioned extends Error {}
class NoCommand extends Error {}

function pageOf(held: readonly HeldCommand[], page: string | null, size: number): Response {
  const from = page === null ? 0 : held.findIndex(({ id }) => id === page);
  if (from < 0) return problem(400, 'There is no such page');
  const after = held[from + size];
  const commands = held.slice(from, from + size);
  return Response.json(after === undefined ? { commands } : { commands, next: after.id });
}

/** @throws SyntaxError where it is no object in JSON */
async function requestBody(request: Request): Promise<Readonly<Record<string, unknown>>> {
  const body: unknown = JSON.parse(await inTime(systemClock, LONGEST_MS, () => boundedText(request.body)));
  if (typeof body !== 'object' || body === null) throw new SyntaxError('it is no object');
  return body as Readonly<Record<string, unknown>>;
}

/** @throws SyntaxError where it is too long */
async function boundedText(body: ReadableStream<Uint8Array> | null): Promise<string> {
  const decoder = new TextDecoder();
  let text = '';
  for (const reader = body?.getReader(); reader !== undefined; ) {
    const { done, value } = await reader.read();
    if (done) break;
    text += decoder.decode(value, { stream: true });
    if (text.length <= LONGEST_BODY) continue;
    void reader.cancel().catch(() => undefined);
    throw new SyntaxError('it is too long');
  }
  return text;
}

function registeredForm(form: unknown): RegisteredForm {
  const { id, name, description } = Object(form) as Partial<RegisteredForm>;
  if ([id, name, description].every((text) => typeof text === 'string' && text !== '')) return form as RegisteredForm;
  throw new SyntaxError('`form` has no id, name or description');
}

const statuses: Readonly<Record<string, number>> = {
  'platform.forbidden': 403,
  'platform.gone': 404,
  'platform.slowed': 429,
  'platform.unreachable': 503,
};

function failure(error: unknown): Response {
  if (isConflict(error)) return problem(412, error.message);
  if (error instanceof Unversioned) return problem(428, error.message);
  if (error instanceof NoCommand) return problem(404, error.message);
  if (error instanceof SyntaxError || error instanceof URIError)
    return problem(400, `The request does not read: ${error.message}`);
  if (!isPlatformError(error)) return problem(500, 'Something failed');
  const { retryAfterMs } = error;
  const wait = retryAfterMs === undefined ? {} : { 'retry-after': String(Math.ceil(retryAfterMs / 1000)) };
  return problem(statuses[error.code] ?? 500, error.message, wait);
}

function notAllowed(allow: string): Response {
  return problem(405, `Only ${allow}`, { allow });
}

function problem(status: number, title: string, headers: Readonly<Record<string, string>> = {}): Response {
  return new Response(JSON.stringify({ status, title }), {
    status,
    headers: { ...headers, 'content-type': 'application/problem+json' },
  });
}
