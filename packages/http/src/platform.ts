/** The platform that a layer knows behind an endpoint: its replies become responses, or late answers. */
import { plainText, type User } from 'taxeon';
import {
  type Directory,
  emptyDirectory,
  type Input,
  type InputHandler,
  keepNatives,
  type Platform,
  PlatformError,
  plainMarkup,
  type Serving,
} from 'taxeon/platform';
import { answerOf, nowhere, plainAnswer, type SlashAnswer, sendTo, type Written, writtenBody } from './answers.js';
import type { HttpAnswer, HttpExchange } from './exchange.js';
import { type EndpointSettings, lookUps, type SlashEndpointOptions } from './options.js';
import type { HttpPost } from './post.js';

export const posts = keepNatives<HttpPost>();
export const exchanges = keepNatives<HttpExchange>();

/** The answer comes later. */
export const accepted: HttpAnswer = { status: 202, headers: {}, body: null };

/** The platform that a layer knows; `served` is told who takes inputs. */
export function httpPlatform(
  settings: EndpointSettings,
  served: (handler: InputHandler | undefined) => void,
): Platform {
  const { options, name, clock, deadlineMs, platformPatienceMs: patienceMs } = settings;
  const {
    markup = plainMarkup,
    answer = plainAnswer,
    held,
    answers,
    send,
    tell,
    post,
    permissions,
    guilds,
    registrar,
    longestReply,
  } = options;

  /** The latest one: that an earlier one is closed does not end it. */
  let current: Serving | undefined;

  function bodyFor(said: SlashAnswer): { readonly body: unknown; readonly as: Written } {
    const body = answer(said);
    return { body, as: writtenBody(body, '`answer`') };
  }

  const platform: Platform = {
    name,
    capabilities: {
      privateReplies: options.hidesPrivate === false ? 'never' : 'slash',
      eventIds: true,
      idempotencyKeys: answers?.idempotencyKeys === true,
      ...(deadlineMs === undefined ? {} : { replyDeadlineMs: deadlineMs }),
      ...(longestReply === undefined ? {} : { longestReply }),
    },
    directory: directoryOf(options),
    ...(permissions === undefined ? {} : { permissions }),
    ...(guilds === undefined ? {} : { guilds }),
    ...(registrar === undefined ? {} : { registrar }),
    measure: (notice) => markup(plainText(notice)).length,
    deliver(reply, to, key) {
      const exchange = exchanges.of(to);
      if (exchange === undefined) throw new PlatformError('platform.failed', 'It answers no post');
      const said = answerOf(reply, markup);
      const { body, as } = bodyFor(said);
      if (exchange.isOpen) return exchange.answer(answerWith(as));
      const { answerTo } = exchange;
      if (send !== undefined) return send({ body, answer: said, post: exchange.post, answerTo, key });
      if (answers === undefined || answerTo === undefined) {
        // It is there for a post that comes again.
        exchange.answer(answerWith(as));
        throw nowhere();
      }
      return sendTo(answerTo, as, key, answers, { clock, patienceMs });
    },
    ...(deadlineMs === undefined
      ? {}
      : ({
          hold(to: Input, visibleTo) {
            const exchange = exchanges.of(to);
            if (exchange === undefined || (send === undefined && exchange.answerTo === undefined)) throw nowhere();
            if (!exchange.isOpen) return;
            const isPrivate = visibleTo === 'caller';
            const sign =
              held === undefined ? undefined : writtenBody(held({ isPrivate, post: exchange.post }), '`held`');
            exchange.answer(sign === undefined ? accepted : answerWith(sign));
          },
        } satisfies Partial<Platform>)),
    ...(tell === undefined
      ? {}
      : { tell: async (person, reply) => void (await tell(person, answerOf(reply, markup))) }),
    ...(post === undefined
      ? {}
      : { post: async (channel, reply) => void (await post(channel, answerOf(reply, markup))) }),
    async serve(handler) {
      const serving: Serving = {
        async close() {
          if (current !== serving) return;
          current = undefined;
          served(undefined);
        },
      };
      current = serving;
      served(handler);
      await handler.connected?.(platform, serving);
      return serving;
    },
  };
  return platform;
}

/** Whatever the look-ups are kept on: an object of a class has them behind it. */
function directoryOf(options: SlashEndpointOptions): Directory {
  const bot = botOf(options);
  const own: Partial<Record<keyof Directory, unknown>> = bot === undefined ? {} : { bot: () => bot };
  const given = options.directory ?? {};
  for (const lookUp of lookUps)
    if (given[lookUp] !== undefined) own[lookUp] = (given[lookUp] as () => unknown).bind(given);
  return { ...emptyDirectory, ...(own as Partial<Directory>) };
}

function botOf({ bot }: SlashEndpointOptions): User | undefined {
  if (bot === undefined) return undefined;
  const id = String(bot.id);
  return { kind: 'user', id, name: String(bot.name ?? id), isBot: true };
}

function answerWith({ type, text }: Written): HttpAnswer {
  return { status: 200, headers: { 'content-type': type }, body: text };
}
