/** What the bot says, as a system takes it: the answer to a post, and late ones to an address of the call's own. */

import { type Clock, type MaybePromise, type Notice, plainText } from 'taxeon';
import { PlatformError, type Reply } from 'taxeon/platform';
import { failureOf, request } from './ask.js';
import { atOnce, isThenable } from './given.js';
import type { HttpPost } from './post.js';

/** What the bot says. */
export interface SlashAnswer {
  /** Heading, body and details, escaped by `markup`. */
  readonly text: string;
  /** Whether the caller alone is to see it. */
  readonly isPrivate: boolean;
  readonly notice: Notice;
  /** Ids of those who are to be pinged. */
  readonly mentions: readonly string[];
}

/** An answer that comes after the post was answered. */
export interface LateAnswer {
  /** What `answer` gave for it. */
  readonly body: unknown;
  readonly answer: SlashAnswer;
  /** What it answers. */
  readonly post: HttpPost;
  readonly answerTo: string | undefined;
  /** The same for each attempt at the same answer. */
  readonly key: string;
}

/** Where late answers may go, and how. */
export interface AnswerAddresses {
  /** Origins of the system: `'https://chat.oddmere.example'`. Addresses elsewhere are refused. */
  readonly origins: readonly string[];
  /** Whether origins may be addresses of the local network, `http` ones, or numbers; they may not by default. */
  readonly local?: boolean;
  /** Headers of every late answer, such as an authorization. */
  readonly headers?: Readonly<Record<string, string>>;
  /** Whether the system takes what has the same `Idempotency-Key` only once, so that it may be sent again. */
  readonly idempotencyKeys?: boolean;
}

/** An answer as it is sent: with its form. */
export interface Written {
  readonly type: string;
  readonly text: string;
}

/** As it is written unless the bot writes it otherwise. */
export function plainAnswer({ text, isPrivate, notice, mentions }: SlashAnswer): unknown {
  const { tone } = notice;
  return {
    text,
    visibleTo: isPrivate ? 'caller' : 'everyone',
    ...(tone === undefined ? {} : { tone }),
    ...(mentions.length === 0 ? {} : { mentions }),
  };
}

/** @throws TypeError where `markup` gives no text */
export function answerOf({ notice, visibleTo, mentions = [] }: Reply, markup: (text: string) => string): SlashAnswer {
  const text: unknown = atOnce(markup(plainText(notice)));
  if (typeof text !== 'string') throw new TypeError('`markup` gave no text');
  return { text, isPrivate: visibleTo === 'caller', notice, mentions };
}

/**
 * A text is sent as text, all else as JSON.
 *
 * @throws TypeError where it is neither
 */
export function writtenBody(body: unknown, by: string): Written {
  atOnce(body);
  if (typeof body === 'string') return { type: 'text/plain; charset=utf-8', text: body };
  if (isThenable(body as MaybePromise<unknown>)) throw new TypeError(`${by} gave a promise; give the body at once`);
  if (body instanceof Response) throw new TypeError(`${by} gave a response; give its body`);
  const text = JSON.stringify(body) as string | undefined;
  if (text === undefined) throw new TypeError(`${by} gave what JSON cannot say; give an object or a text`);
  return { type: 'application/json', text };
}

export interface Sending {
  readonly clock: Clock;
  readonly patienceMs: number;
}

/** @throws PlatformError where the address did not take it */
export async function sendTo(
  answerTo: string,
  { type, text }: Written,
  key: string,
  { headers = {} }: AnswerAddresses,
  { clock, patienceMs }: Sending,
): Promise<void> {
  const answered = await request(
    {
      method: 'POST',
      url: new URL(answerTo),
      headers: { ...headers, 'content-type': type, 'idempotency-key': `"${encodeURIComponent(key)}"` },
      body: text,
    },
    { clock, patienceMs, bytes: 0 },
  );
  if (answered.status >= 200 && answered.status < 300) return;
  throw failureOf(answered, 'POST', clock.now());
}

/** Where there is nowhere to send it. */
export function nowhere(): PlatformError {
  return new PlatformError('platform.gone', 'The post is answered, and it gave no address for a late answer');
}
