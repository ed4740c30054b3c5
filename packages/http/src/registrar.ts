/** Registering commands with a system over HTTP: what is asked and how answers read is the bot's, the rest is here. */

import { type Clock, type Duration, systemClock } from 'taxeon';
import {
  Conflict,
  checkFields,
  type DeliveryCode,
  type Fields,
  forms,
  type HeldCommand,
  millisecondsOf,
  PlatformError,
  type RegisteredForm,
  type Registrar,
  type RegistrarLimits,
  type RegistrationScope,
} from 'taxeon/platform';
import { scopeName } from 'taxeon/registration';
import { areHeaders, isLocal } from './addresses.js';
import { type Answered, failureOf, request } from './ask.js';
import { atOnce } from './given.js';
import { valueAt } from './post.js';

/** One request to the system. */
export interface RegistrarAsk {
  readonly method: 'GET' | 'POST' | 'PUT' | 'PATCH' | 'DELETE';
  /** Behind `base`: `'guilds/oddmere/commands'`. Ids in it go through `encodeURIComponent`. */
  readonly path: string;
  /** What is `undefined` is left out. */
  readonly query?: Readonly<Record<string, string | number | undefined>>;
  readonly headers?: Readonly<Record<string, string>>;
  /** Sent as JSON. */
  readonly body?: unknown;
}

/** What the system answers. */
export interface RegistrarReply {
  readonly status: number;
  /** The JSON of its body; `undefined` where it has none. */
  readonly body: unknown;
  /** What stands at a path in the body: `get('commands', 0, 'id')`. It needs no `this`. */
  get(...path: readonly (string | number)[]): unknown;
  header(name: string): string | undefined;
}

/** What a status means that is no success. */
export type RegistrarFailure = 'conflict' | { readonly code: DeliveryCode; readonly retryAfter?: Duration };

/** How a system is asked, and how its answers read. */
export interface HttpRegistrarOptions {
  /** The name of the endpoint's platform, `'http'` by default: guilds are known by it. */
  readonly name?: string;
  /** Where requests go: `'https://chat.oddmere.example/api/'`. */
  readonly base: string;
  /** Whether `base` may be an address of the local network, or `http`. */
  readonly local?: boolean;
  /** Headers of every request, such as the authorization. They are never told, and never sent elsewhere. */
  readonly headers?: Readonly<Record<string, string>>;
  readonly limits?: RegistrarLimits;
  /** How long it takes until people see a change. */
  readonly delay: { readonly everywhere: Duration; readonly guild: Duration };
  /** Asks what a scope holds; from a page on that `next` gave. */
  read(scope: RegistrationScope, page: string | undefined): RegistrarAsk;
  /** The commands of an answer. What is no list of them is told as `platform.failed`. */
  held(reply: RegistrarReply, scope: RegistrationScope): unknown;
  /** Where the answer goes on; nothing where it is the last. */
  next?(reply: RegistrarReply): unknown;
  create(scope: RegistrationScope, form: RegisteredForm, by: string): RegistrarAsk;
  update(scope: RegistrationScope, held: HeldCommand, form: RegisteredForm): RegistrarAsk;
  remove(scope: RegistrationScope, held: HeldCommand): RegistrarAsk;
  /** Asks in which scopes something is registered by that name, where the system can tell. */
  scopes?(by: string): RegistrarAsk;
  /** The scopes of an answer to that: a list of `'everywhere'` and `{ guild }`. */
  scopesOf?(reply: RegistrarReply): unknown;
  /**
   * What an answer means that is no success; `undefined` where it means what HTTP says: 401 and 403 `platform.forbidden`,
   * 404 `platform.gone`, 409 and 412 a conflict, 429 and 503 `platform.slowed` with `Retry-After`.
   */
  failure?(reply: RegistrarReply): RegistrarFailure | undefined;
  /** How long one request may take; 10 s by default. */
  readonly patience?: Duration;
  readonly clock?: Clock;
}

const fields: Fields<HttpRegistrarOptions> = {
  name: forms.text,
  base: forms.text,
  local: forms.flag,
  headers: forms.object,
  limits: forms.object,
  delay: forms.object,
  read: forms.function,
  held: forms.function,
  next: forms.function,
  create: forms.function,
  update: forms.function,
  remove: forms.function,
  scopes: forms.function,
  scopesOf: forms.function,
  failure: forms.function,
  patience: forms.duration,
  clock: forms.anything,
};
const needed = ['base', 'delay', 'read', 'held', 'create', 'update', 'remove'] as const;

const MOST_PAGES = 100;
const MOST_HELD = 10_000;
const LONGEST_PAGE = 2_000_000;
const LONGEST_TOKEN = 1000;

/**
 * A registrar over HTTP. Requests are bounded in time and size, go nowhere but behind `base`, and follow no redirect.
 *
 * @throws TypeError with everything that is wrong with the options
 *
 * @example
 * import { httpRegistrar } from '@taxeon/http';
 *
 * const at = (scope: RegistrationScope) =>
 *   `scopes/${scope === 'everywhere' ? scope : `guild:${encodeURIComponent(scope.guild)}`}/commands`;
 * const registrar = httpRegistrar({
 *   base: 'https://chat.oddmere.example/api/',
 *   headers: { authorization: `Bearer ${process.env['CHAT_TOKEN']}` },
 *   delay: { everywhere: '40m', guild: '1s' },
 *   read: (scope, page) => ({ method: 'GET', path: at(scope), query: { page } }),
 *   held: ({ get }) => get('commands'),
 *   next: ({ get }) => get('next'),
 *   create: (scope, form, by) => ({ method: 'POST', path: at(scope), body: { form, by } }),
 *   update: (scope, { id, version }, form) => ({
 *     method: 'PUT',
 *     path: `${at(scope)}/${encodeURIComponent(id)}`,
 *     headers: { 'if-match': `"${version}"` },
 *     body: { form },
 *   }),
 *   remove: (scope, { id, version }) => ({
 *     method: 'DELETE',
 *     path: `${at(scope)}/${encodeURIComponent(id)}`,
 *     headers: { 'if-match': `"${version}"` },
 *   }),
 * });
 */
export function httpRegistrar(options: HttpRegistrarOptions): Registrar {
  const { name = 'http', limits = {}, delay, clock = systemClock, headers = {} } = options;
  const base = checkedBase(options);
  const patienceMs = millisecondsOf(options.patience ?? '10s', 'httpRegistrar, patience');

  async function replyTo(asked: RegistrarAsk, isOfHeld: boolean): Promise<RegistrarReply> {
    const { method, body } = atOnce(asked);
    const answered = await request(
      {
        method,
        url: registrarAddress(asked, base),
        headers: {
          accept: 'application/json',
          ...(body === undefined ? {} : { 'content-type': 'application/json' }),
          ...asked.headers,
          ...headers,
        },
        ...(body === undefined ? {} : { body: JSON.stringify(body) }),
      },
      { clock, patienceMs, bytes: LONGEST_PAGE },
    );
    const { status } = answered;
    if (status >= 200 && status < 300) return readResponse(answered);
    throw failed(readResponse(answered, true), answered, method, isOfHeld);
  }

  /** @param isOfHeld it is about a command that was seen: where that is gone, another has changed it */
  function failed(reply: RegistrarReply, answered: Answered, method: string, isOfHeld: boolean): Error {
    const { status } = reply;
    const own = atOnce(options.failure?.(reply));
    const isConflict = [409, 412].includes(status) || (isOfHeld && [404, 410].includes(status));
    if (own === 'conflict' || (own === undefined && isConflict))
      return new Conflict(`The system answers with the status ${status}: it was changed meanwhile`);
    if (own === undefined) return failureOf(answered, method, clock.now());
    const { code, retryAfter } = own;
    const wait = retryAfter === undefined ? {} : { retryAfterMs: millisecondsOf(retryAfter, 'httpRegistrar, failure') };
    return new PlatformError(code, `The system answers with the status ${status}`, wait);
  }

  async function allHeld(scope: RegistrationScope): Promise<readonly HeldCommand[]> {
    const all: HeldCommand[] = [];
    const seen = new Set<string>();
    let page: string | undefined;
    for (let count = 0; count < MOST_PAGES; count++) {
      const reply = await replyTo(options.read(scope, page), false);
      const held = atOnce(options.held(reply, scope));
      if (!Array.isArray(held)) throw nonsense(`for ${scopeName(scope)} is no list of commands`);
      all.push(...held);
      if (all.length > MOST_HELD) break;
      page = nextToken(atOnce(options.next?.(reply)));
      if (page === undefined) return all;
      if (seen.has(page)) throw nonsense(`for ${scopeName(scope)} goes on where it has been`);
      seen.add(page);
    }
    throw nonsense(`for ${scopeName(scope)} has no end`);
  }

  const { scopes, scopesOf } = options;
  return {
    name,
    limits,
    delayMs: {
      everywhere: millisecondsOf(delay.everywhere, 'httpRegistrar, delay.everywhere'),
      guild: millisecondsOf(delay.guild, 'httpRegistrar, delay.guild'),
    },
    read: allHeld,
    create: async (scope, form, by) => void (await replyTo(options.create(scope, form, by), false)),
    update: async (scope, held, form) => void (await replyTo(options.update(scope, held, form), true)),
    remove: async (scope, held) => void (await replyTo(options.remove(scope, held), true)),
    ...(scopes === undefined || scopesOf === undefined
      ? {}
      : {
          async scopes(by: string) {
            const given = scopesOf(await replyTo(scopes(by), false));
            if (Array.isArray(given)) return given;
            throw nonsense('is no list of scopes');
          },
        }),
  };
}

function checkedBase(options: HttpRegistrarOptions): URL {
  const problems: string[] = [];
  checkFields(options, fields, (field, problem) => {
    problems.push(
      `${field === '' ? 'what it is given' : `\`${field}\``} ${field === 'headers' ? 'is no object' : problem}`,
    );
  });
  const given: Partial<HttpRegistrarOptions> = Object(options);
  for (const name of needed) if (given[name] === undefined) problems.push(`\`${name}\` is missing`);
  const { base = '', local, scopes, scopesOf, headers } = given;
  if (problems.length === 0 && !areHeaders(headers)) problems.push('`headers` are none');
  const url = URL.canParse(base) ? new URL(base) : undefined;
  if (url === undefined || !/^https?:$/.test(url.protocol) || !url.pathname.endsWith('/'))
    problems.push("`base` is no address that ends with /; write 'https://chat.oddmere.example/api/'");
  else if (local !== true && isLocal(url))
    problems.push('`base` is http, local or a number; `local: true` allows that');
  if ((scopes === undefined) !== (scopesOf === undefined)) problems.push('`scopes` and `scopesOf` go together');
  if (problems.length > 0 || url === undefined) throw new TypeError(`httpRegistrar: ${problems.join('\n     ')}`);
  return url;
}

/** @throws TypeError where it lies elsewhere: the headers must not go there */
function registrarAddress({ path, query = {} }: RegistrarAsk, base: URL): URL {
  const url = new URL(path, base);
  if (url.origin !== base.origin || !url.pathname.startsWith(base.pathname))
    throw new TypeError(`httpRegistrar: ${JSON.stringify(path)} does not lie behind \`base\``);
  for (const [name, value] of Object.entries(query)) if (value !== undefined) url.searchParams.set(name, String(value));
  return url;
}

/** @throws PlatformError where it is no JSON; of a failure nothing more is asked */
function readResponse({ status, headers, text }: Answered, isFailure = false): RegistrarReply {
  let body: unknown;
  try {
    body = text.trim() === '' ? undefined : JSON.parse(text);
  } catch {
    if (!isFailure) throw nonsense('is no JSON');
  }
  return {
    status,
    body,
    get: (...path) => path.reduce(valueAt, body),
    header: (name) => headers.get(name) ?? undefined,
  };
}

function nextToken(next: unknown): string | undefined {
  if (next === undefined || next === null || next === '') return undefined;
  const token = typeof next === 'number' ? String(next) : next;
  if (typeof token === 'string' && token.length <= LONGEST_TOKEN) return token;
  throw nonsense('goes on at what is no page');
}

function nonsense(what: string): PlatformError {
  return new PlatformError('platform.failed', `The system's answer ${what}`);
}
