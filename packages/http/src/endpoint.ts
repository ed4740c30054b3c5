/** Slash commands over HTTP: each call is a post, and its answer the response, or a post to an address of the call's own. */

import type { Outcome } from 'taxeon';
import {
  type InputHandler,
  inTime,
  type Natives,
  type Platform,
  type SparseLog,
  sparseLog,
  TooLate,
} from 'taxeon/platform';
import { addressProblem } from './addresses.js';
import { type HttpAnswer, HttpExchange } from './exchange.js';
import { FirstAnswers, postKey } from './first-answers.js';
import { atOnce } from './given.js';
import { type EndpointSettings, endpointSettings, type SlashEndpointOptions } from './options.js';
import { accepted, exchanges, httpPlatform, posts } from './platform.js';
import { type HttpPost, postOf } from './post.js';
import { type Mapped, postedInput } from './post-input.js';
import { prove } from './proof.js';
import { Bodies, headOf } from './receive.js';
import { later, PostRefusal } from './refusal.js';

/** What a server has for one request. */
export interface EndpointContext {
  /** Keeps a worker alive until the call has ended. */
  waitUntil?(promise: Promise<unknown>): void;
  /** Where the request comes from, as the server knows it: so nobody's slow bodies stand in the way of another's. */
  readonly address?: string | undefined;
}

/** Takes posts. It never rejects. */
export interface SlashEndpoint {
  (request: Request, context?: EndpointContext): Promise<Response>;
  /** As the layer knows it: for `explain`, `complete`, and calls of the bot's own. */
  readonly platform: Platform;
}

/**
 * The post that a call came by; `undefined` for a call from elsewhere.
 *
 * @example
 * import { nativeOf } from '@taxeon/http';
 *
 * const where = command({ name: 'where', description: 'Your desk', run: (call) => String(nativeOf(call)?.get('desk')) });
 */
export const nativeOf: Natives<HttpPost>['nativeOf'] = posts.nativeOf;

/** How long another process's answer is waited for, where there is no deadline. */
const ELSEWHERE_MS = 3000;
/** Of the deadline: the answer must still arrive. */
const PART_OF_DEADLINE = 0.5;

/**
 * Takes slash commands that a chat system posts, on web standards: in Node.js with an adapter, in a service worker, in any
 * server that speaks fetch. It is connected at once, and is closed with the layer.
 *
 * Only what is proved is read. What the layer makes of a call is an answer of the status 200, be it a refusal; held beyond
 * the deadline, it goes to the call's own address. What comes again under its event id has the first answer.
 *
 * @throws TypeError with everything that is wrong with the options
 *
 * @example
 * import { sharedSecret, slashEndpoint } from '@taxeon/http';
 *
 * const endpoint = slashEndpoint(layer, {
 *   proof: sharedSecret({ header: 'x-oddmere-secret', secrets: [process.env['SLASH_SECRET']] }),
 *   read: ({ get }) => ({
 *     id: get('event'),
 *     caller: { id: get('person'), name: get('name') },
 *     place: { guild: { id: 'oddmere', name: 'Oddmere Tool Library' }, channel: { id: get('room') } },
 *     command: get('command'),
 *     text: get('text'),
 *   }),
 * });
 * const response = await endpoint(new Request('https://bot.oddmere.example/slash', { method: 'POST' })); // 415
 */
export function slashEndpoint(layer: InputHandler, options: SlashEndpointOptions): SlashEndpoint {
  const settings = endpointSettings(layer, options);
  const { name, clock, log, limits } = settings;
  let serves: InputHandler | undefined;
  const bodies = new Bodies(limits, clock);
  const platform = httpPlatform(settings, (handler) => {
    serves = handler;
  });
  const failures = sparseLog(log, clock, 'A post could not be taken, for a fault of the bot’s own');
  const failed = (error: unknown) => failures.tell({ platform: name, error });
  const answers = new FirstAnswers({ ...settings, failed });
  const tellRefusal = refusalLog(settings);

  async function take(request: Request, context: EndpointContext | undefined): Promise<HttpAnswer> {
    if (serves === undefined) return refused(new PostRefusal(503, 'the endpoint is closed', later));
    const at = clock.now();
    const post = await provedPost(request, context?.address);
    if (post instanceof PostRefusal) return refused(post);
    const mapped = await mappedFrom(post, at);
    return mapped instanceof PostRefusal ? refused(mapped) : called(mapped, post, request, context);
  }

  async function provedPost(request: Request, address: string | undefined): Promise<HttpPost | PostRefusal> {
    const head = headOf(request, limits, settings.origins);
    if (head instanceof PostRefusal) return head;
    // It may read the body, which has a time of its own.
    const patienceMs = settings.patienceMs + limits.bodyMs;
    const read = () => bodies.read(request, address);
    const proved = await prove(options.proof, head, read, { ...settings, patienceMs, failed });
    return proved instanceof PostRefusal ? proved : postOf(proved);
  }

  /** @param at when it arrived: from then on its answer is waited for */
  async function mappedFrom(post: HttpPost, at: number): Promise<Mapped | PostRefusal> {
    let posted: unknown;
    try {
      posted = await inTime(clock, settings.patienceMs, () => options.read(post));
    } catch (error) {
      if (error instanceof TooLate)
        return new PostRefusal(503, `\`read\` took longer than ${settings.patienceMs} ms`, later);
      return new PostRefusal(400, `it could not be mapped: ${error instanceof Error ? error.message : error}`);
    }
    const mapped = postedInput(posted, at);
    if (mapped instanceof PostRefusal || mapped.answerTo === undefined || options.answers === undefined) return mapped;
    const problem = addressProblem(mapped.answerTo, options.answers);
    return problem === undefined ? mapped : new PostRefusal(400, problem);
  }

  async function called(
    { input, answerTo }: Mapped,
    post: HttpPost,
    request: Request,
    context: EndpointContext | undefined,
  ): Promise<HttpAnswer> {
    const key = input.id === undefined ? undefined : postKey(input);
    const before = key === undefined ? undefined : answers.of(key);
    if (before !== undefined) return before;
    if (serves === undefined) return refused(new PostRefusal(503, 'the endpoint is closed', later));
    const exchange = new HttpExchange(post, answerTo);
    if (key !== undefined) answers.begin(key, exchange.said);
    const handler = serves;
    // What it throws at once, too: a post that comes again must not wait for what never comes.
    const handled = (async () => handler.handle(exchanges.keep(posts.keep(input, post), exchange), platform))()
      .then((outcome) => ended(outcome, exchange, key))
      .catch((error) => {
        failed(error);
        exchange.answer(broken);
      });
    // Most are answered by now.
    if (exchange.isOpen) exchange.watch(request.signal);
    keepAlive(handled, context);
    return exchange.said;
  }

  /** Where nothing was said, the system is told so. */
  async function ended(outcome: Outcome, exchange: HttpExchange, key: string | undefined): Promise<void> {
    if (outcome.status === 'ignored') return exchange.answer(await unheard(outcome.because, key));
    exchange.answer(outcome.delivery === undefined ? nothingToSay : outcome.delivery.delivered ? accepted : broken);
    if (key === undefined) return;
    // Another process takes what this one, which closes, did not.
    if (outcome.status === 'refused' && outcome.code === 'layer.closing') answers.forget(key);
    else await answers.share(key, await exchange.said);
  }

  /** What a post is answered with that the layer did not take, such as one that another process has. */
  async function unheard(
    because: Extract<Outcome, { status: 'ignored' }>['because'],
    key: string | undefined,
  ): Promise<HttpAnswer> {
    if (key !== undefined) answers.forget(key);
    if (because === 'malformed') return refused(new PostRefusal(400, 'the layer takes it for no input'));
    if (because !== 'repeated' || key === undefined) return nothingToSay;
    const { deadlineMs } = settings;
    const there = await answers.elsewhere(key, deadlineMs === undefined ? ELSEWHERE_MS : deadlineMs * PART_OF_DEADLINE);
    return there ?? (deadlineMs === undefined ? nothingToSay : accepted);
  }

  function keepAlive(promise: Promise<unknown>, context: EndpointContext | undefined): void {
    try {
      atOnce(typeof context?.waitUntil === 'function' ? context.waitUntil(promise) : options.waitUntil?.(promise));
    } catch (error) {
      failed(error);
    }
  }

  function refused(refusal: PostRefusal): HttpAnswer {
    tellRefusal(refusal);
    const { status, headers } = refusal;
    const challenge = status === 401 ? { 'www-authenticate': 'Proof realm="slash"' } : {};
    return { status, headers: { ...headers, ...challenge }, body: null };
  }

  const endpoint = async (request: Request, context?: EndpointContext): Promise<Response> => {
    try {
      if (typeof request?.headers?.get !== 'function')
        throw new TypeError('It is given no Request; give the one of the server, such as `context.req.raw`');
      return responseOf(await take(request, context));
    } catch (error) {
      failed(error);
      return responseOf(broken);
    }
  };
  if (options.proof.remembers === true && settings.store.outlivesProcess !== true)
    log.warn(
      { platform: name },
      'Nonces are kept in this process alone: a post that is sent again after a restart, while its signature is not too old, counts as new. Give a store that outlives the process',
    );
  platform.serve(layer).catch(failed);
  return Object.assign(endpoint, { platform });
}

/** Told once a minute for each status, and for each part of what `read` gave. */
function refusalLog({ log, clock, name }: EndpointSettings): (refusal: PostRefusal) => void {
  const logs = new Map<string, SparseLog>();
  return ({ status, why, reason }) => {
    const own = logs.get(reason) ?? sparseLog(log, clock, 'A post was refused', 'warn');
    logs.set(reason, own);
    own.tell({ platform: name, status, why });
  };
}

const nothingToSay: HttpAnswer = { status: 204, headers: {}, body: null };
const broken: HttpAnswer = { status: 500, headers: {}, body: null };

/** What is said to one person must not lie in a cache for others. */
function responseOf({ status, headers, body }: HttpAnswer): Response {
  return new Response(body, { status, headers: { ...headers, 'cache-control': 'no-store' } });
}
