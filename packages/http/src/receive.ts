/** Stage one of a post: its bytes, within bounds. Nothing of them is interpreted here. */

import type { Clock } from 'taxeon';
import { inTime, TooLate } from 'taxeon/platform';
import { type Bound, readBytes } from './bytes.js';
import { closing, later, PostRefusal } from './refusal.js';

/** How a body may be written. */
export type MediaType = 'json' | 'form';

/** What stands before the body. */
export interface Head {
  readonly url: URL;
  readonly headers: Headers;
  readonly type: MediaType;
}

export interface Received extends Head {
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

/** @param origins where the bot is reached from outside */
export function headOf(request: Request, limits: PostLimits, origins: readonly URL[]): Head | PostRefusal {
  const { method, headers } = request;
  if (method !== 'POST') return new PostRefusal(405, `it came by ${method}`, { allow: 'POST' });
  const crowd = tooManyHeaders(headers, limits);
  if (crowd !== undefined) return crowd;
  const type = mediaType(headers.get('content-type'));
  if (type === undefined)
    return new PostRefusal(
      415,
      'its content-type is neither application/json nor application/x-www-form-urlencoded in UTF-8',
      { accept: 'application/json, application/x-www-form-urlencoded' },
    );
  if (Number(headers.get('content-length') ?? 0) > limits.bodyBytes) return tooLarge(limits);
  if (request.bodyUsed) return new PostRefusal(500, 'its body was read before; give the request as it came');
  return { url: requestAddress(request, origins), headers, type };
}

const unknownOrigin = new URL('https://origin.invalid');

/** What a request says of its origin is its sender's word: it chooses among those that are known, and is none itself. */
function requestAddress({ url }: Request, origins: readonly URL[]): URL {
  const seen = new URL(url);
  const address = new URL(origins.find(({ host }) => host === seen.host) ?? origins[0] ?? unknownOrigin);
  // As parts: together they could name another host.
  address.pathname = seen.pathname;
  address.search = seen.search;
  return address;
}

/** A body that arrives. */
interface Coming {
  readonly address: string | undefined;
  giveUp(): void;
}

/** So many are read at once: a stranger who sends slowly must not fill the memory. */
const MOST_COMING = 1000;
const MOST_FROM_ONE_ADDRESS = 100;

/** Bodies that are read. Where there are too many, the oldest gives way: who stalls has waited longest. */
export class Bodies {
  private readonly coming = new Set<Coming>();

  constructor(
    private readonly limits: PostLimits,
    private readonly clock: Clock,
  ) {}

  /** @param address where the request comes from, where that is known */
  async read(request: Request, address: string | undefined): Promise<Received['body'] | PostRefusal> {
    const { bodyBytes, bodyMs } = this.limits;
    this.makeRoom(address);
    let isGivenUp = false;
    let giveUp = () => {};
    const stopped = new Promise<'late'>((resolve) => {
      giveUp = () => {
        isGivenUp = true;
        resolve('late');
      };
    });
    const own = { address, giveUp };
    this.coming.add(own);
    const body = await readBody(request, { bytes: bodyBytes, ms: bodyMs, stopped }, this.clock).finally(() =>
      this.coming.delete(own),
    );
    switch (body) {
      case 'long':
        return tooLarge(this.limits);
      case 'late':
        return isGivenUp
          ? new PostRefusal(503, 'its body was slow while too many others came', { ...later, ...closing })
          : new PostRefusal(408, `its body took longer than ${bodyMs} ms`, closing);
      case 'broken':
        return new PostRefusal(400, 'its body broke off');
      default:
        return body;
    }
  }

  private makeRoom(address: string | undefined): void {
    if (this.coming.size < MOST_FROM_ONE_ADDRESS) return;
    const counts = new Map<string | undefined, number>();
    for (const { address } of this.coming) counts.set(address, (counts.get(address) ?? 0) + 1);
    if (address !== undefined && (counts.get(address) ?? 0) >= MOST_FROM_ONE_ADDRESS) this.giveUpOldest(address);
    else if (this.coming.size >= MOST_COMING)
      this.giveUpOldest([...counts].reduce((most, one) => (one[1] > most[1] ? one : most))[0]);
  }

  private giveUpOldest(from: string | undefined): void {
    for (const one of this.coming)
      if (one.address === from) {
        this.coming.delete(one);
        one.giveUp();
        return;
      }
  }
}

/** Where a length is told, HTTP holds the body to it, and it is read at once, which is quicker. Hot path: bench, http. */
async function readBody(request: Request, bound: Required<Bound>, clock: Clock): ReturnType<typeof readBytes> {
  if (!/^\d+$/.test(request.headers.get('content-length') ?? '')) return readBytes(request.body, bound, clock);
  try {
    const whole = await inTime(clock, bound.ms, () => Promise.race([request.arrayBuffer(), bound.stopped]));
    if (whole === 'late') return whole;
    return whole.byteLength > bound.bytes ? 'long' : new Uint8Array(whole);
  } catch (error) {
    return error instanceof TooLate ? 'late' : 'broken';
  }
}

function tooManyHeaders(headers: Headers, { headerCount, headerBytes }: PostLimits): PostRefusal | undefined {
  let count = 0;
  let bytes = 0;
  for (const [name, value] of headers) {
    count += 1;
    bytes += name.length + value.length;
    if (count > headerCount || bytes > headerBytes)
      return new PostRefusal(431, `it has more than ${headerCount} headers, or more than ${headerBytes} bytes of them`);
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

function tooLarge({ bodyBytes }: PostLimits): PostRefusal {
  return new PostRefusal(413, `its body is longer than ${bodyBytes} bytes`, closing);
}
