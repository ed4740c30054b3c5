/** Asking another server: bounded in time and size, without following where it sends one. */
import type { Clock } from 'taxeon';
import { after, PlatformError } from 'taxeon/platform';
import { readBytes } from './bytes.js';

/** What is asked. */
export interface Ask {
  readonly method: string;
  readonly url: URL;
  readonly headers: Readonly<Record<string, string>>;
  readonly body?: string;
}

/** What came back, whatever its status. */
export interface Answered {
  readonly status: number;
  readonly headers: Headers;
  readonly text: string;
}

export interface AskBound {
  readonly clock: Clock;
  readonly patienceMs: number;
  /** How long an answer may be; 0 where nobody reads it. */
  readonly bytes: number;
}

/**
 * @throws PlatformError where no answer came whole; it may have arrived all the same, if it changes something. Nothing of
 * the headers, which may hold a credential, is told.
 */
export async function request(asking: Ask, { clock, patienceMs, bytes }: AskBound): Promise<Answered> {
  const { method, url, headers, body } = asking;
  const mayHaveArrived = method !== 'GET';
  // The path may hold a secret, too.
  const where = url.host;
  const abort = new AbortController();
  const since = clock.now();
  const endTimer = after(clock, patienceMs, () => abort.abort());
  try {
    const response = await fetch(url, {
      method,
      headers,
      redirect: 'manual',
      signal: abort.signal,
      ...(body === undefined ? {} : { body }),
    });
    const { status, type } = response;
    if (type === 'opaqueredirect' || (status >= 300 && status < 400))
      throw new PlatformError('platform.failed', `${where} answers from another address, which is not followed`);
    if (bytes === 0) {
      response.body?.cancel().catch(() => undefined);
      return { status, headers: response.headers, text: '' };
    }
    const read = await readBytes(response.body, { bytes, ms: patienceMs - (clock.now() - since) }, clock);
    if (typeof read === 'string')
      throw new PlatformError('platform.unreachable', `The answer of ${where} is ${whyUnread[read]}`, {
        mayHaveArrived,
      });
    return { status, headers: response.headers, text: new TextDecoder().decode(read) };
  } catch (error) {
    if (error instanceof PlatformError) throw error;
    const why = abort.signal.aborted ? `gave no answer within ${patienceMs} ms` : 'is not reached';
    throw new PlatformError('platform.unreachable', `${where} ${why}`, { cause: error, mayHaveArrived });
  } finally {
    endTimer();
  }
}

const whyUnread = { long: 'too long', late: 'late', broken: 'broken off' } as const;

/** What a status says that is no success, for what was asked of a platform. */
export function failureOf({ status, headers }: Answered, method: string, now: number): PlatformError {
  const said = `The answer has the status ${status}`;
  switch (status) {
    case 401:
    case 403:
      return new PlatformError('platform.forbidden', said);
    case 404:
    case 410:
      return new PlatformError('platform.gone', said);
    case 429:
    case 503:
      return new PlatformError('platform.slowed', said, waitOf(headers, now));
    default:
      return status >= 500
        ? new PlatformError('platform.unreachable', said, { mayHaveArrived: method !== 'GET' })
        : new PlatformError('platform.failed', said);
  }
}

/** Retry-After, RFC 9110, 10.2.3: seconds, or a date. */
function waitOf(headers: Headers, now: number): { readonly retryAfterMs?: number } {
  const given = headers.get('retry-after')?.trim() ?? '';
  const ms = /^\d{1,9}$/.test(given) ? Number(given) * 1000 : Date.parse(given) - now;
  return Number.isNaN(ms) ? {} : { retryAfterMs: Math.max(0, ms) };
}
