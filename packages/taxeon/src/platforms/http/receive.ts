/** Stage one of a post: its bytes, within bounds. Nothing of them is interpreted here. */
import { patiently, TooLate } from '../../base/thenable.js';
import type { Clock } from '../../base/time.js';
import { type Bound, readBytes } from './bytes.js';
import { Refusal } from './refusal.js';

/** How a body may be written. */
export type MediaType = 'json' | 'form';

/** A post whose sender is not known yet. */
export interface Received {
  readonly url: URL;
  readonly headers: Headers;
  readonly type: MediaType;
  readonly body: Uint8Array<ArrayBuffer>;
}

/** What one post may be at most. */
export interface PostLimits {
  readonly bodyBytes: number;
  readonly headerCount: number;
  readonly headerBytes: number;
  /** How long the body may take to arrive, in milliseconds. */
  readonly bodyMs: number;
}

/** @param origin where the bot is reached from outside, where that differs from what the server sees */
export async function receive(
  request: Request,
  limits: PostLimits,
  clock: Clock,
  origin: string | undefined,
): Promise<Received | Refusal> {
  const { method, headers } = request;
  if (method !== 'POST') return new Refusal(405, `it came by ${method}`, { allow: 'POST' });
  const crowd = tooManyHeaders(headers, limits);
  if (crowd !== undefined) return crowd;
  const type = mediaType(headers.get('content-type'));
  if (type === undefined)
    return new Refusal(
      415,
      'its content-type is neither application/json nor application/x-www-form-urlencoded in UTF-8',
      {
        accept: 'application/json, application/x-www-form-urlencoded',
      },
    );
  if (Number(headers.get('content-length') ?? 0) > limits.bodyBytes) return tooLarge(limits);
  if (request.bodyUsed) return new Refusal(500, 'its body was read before; give the request as it came');
  const body = await bodyOf(request, { bytes: limits.bodyBytes, ms: limits.bodyMs }, clock);
  switch (body) {
    case 'long':
      return tooLarge(limits);
    case 'late':
      return new Refusal(408, `its body took longer than ${limits.bodyMs} ms`, closing);
    case 'broken':
      return new Refusal(400, 'its body broke off');
    default:
      return { url: addressOf(request, origin), headers, type, body };
  }
}

/** As the system has it, also behind a proxy. */
function addressOf({ url }: Request, origin: string | undefined): URL {
  const seen = new URL(url);
  if (origin === undefined) return seen;
  const address = new URL(origin);
  // As parts: together they could name another host.
  address.pathname = seen.pathname;
  address.search = seen.search;
  return address;
}

/** Where a length is told, HTTP holds the body to it, and it is read at once, which is quicker. Hot path: bench/rows/http. */
async function bodyOf(request: Request, bound: Bound, clock: Clock): ReturnType<typeof readBytes> {
  if (!/^\d+$/.test(request.headers.get('content-length') ?? '')) return readBytes(request.body, bound, clock);
  try {
    const bytes = new Uint8Array(await patiently(clock, request.arrayBuffer(), bound.ms));
    return bytes.length > bound.bytes ? 'long' : bytes;
  } catch (error) {
    return error instanceof TooLate ? 'late' : 'broken';
  }
}

function tooManyHeaders(headers: Headers, { headerCount, headerBytes }: PostLimits): Refusal | undefined {
  let count = 0;
  let bytes = 0;
  for (const [name, value] of headers) {
    count += 1;
    bytes += name.length + value.length;
    if (count > headerCount || bytes > headerBytes)
      return new Refusal(431, `it has more than ${headerCount} headers, or more than ${headerBytes} bytes of them`);
  }
  return undefined;
}

function mediaType(header: string | null): MediaType | undefined {
  const [essence = '', ...parameters] = (header ?? '').toLowerCase().split(';');
  const isUtf8 = parameters.every(
    (one) => !/^\s*charset\s*=/.test(one) || /^\s*charset\s*=\s*"?utf-?8"?\s*$/.test(one),
  );
  if (!isUtf8) return undefined;
  if (essence.trim() === 'application/x-www-form-urlencoded') return 'form';
  return /^application\/(?:json|[\w.-]+\+json)$/.test(essence.trim()) ? 'json' : undefined;
}

const closing = { connection: 'close' } as const;

function tooLarge({ bodyBytes }: PostLimits): Refusal {
  return new Refusal(413, `its body is longer than ${bodyBytes} bytes`, closing);
}
