/** What a slash endpoint is told. */

import {
  type Channel,
  type Clock,
  type Duration,
  type Guild,
  type Log,
  type MaybePromise,
  memoryStore,
  type Store,
  systemClock,
} from 'taxeon';
import {
  checkFields,
  type Directory,
  type FieldForm,
  type Fields,
  forms,
  type InputHandler,
  millisecondsOf,
  nearNames,
  type Person,
  type Registrar,
  safeLog,
  sharedOptions,
} from 'taxeon/platform';
import { addressesProblem, isOrigin } from './addresses.js';
import type { AnswerAddresses, LateAnswer, SlashAnswer } from './answers.js';
import { shown } from './given.js';
import type { HttpPost } from './post.js';
import type { Posted, PostedName } from './post-input.js';
import type { Proof } from './proof.js';
import type { PostLimits } from './receive.js';

/** How posts are taken, and how they are answered. docs/http.md tells all of it. */
export interface SlashEndpointOptions {
  /** What proves where a post comes from: `signatures(…)`, `sharedSecret(…)`, or a function of your own. */
  readonly proof: Proof;
  /**
   * What a post says. What does not fit, and what it throws, is answered with 400; the reason stands in the log alone.
   */
  readonly read: (post: HttpPost) => MaybePromise<Posted>;
  /**
   * Escapes what is said, so that it is shown as it stands: `plainMarkup` by default, which is for systems without markup;
   * `markdownMarkup` and `htmlMarkup` for those that have it.
   */
  readonly markup?: (text: string) => string;
  /**
   * What the system takes as an answer: an object is sent as JSON, a text as text. By default
   * `{ text, visibleTo, tone, mentions }`.
   */
  readonly answer?: (answer: SlashAnswer) => unknown;
  /** What the system takes as a sign that the answer comes later; an empty response of the status 202 by default. */
  readonly held?: (held: { readonly isPrivate: boolean; readonly post: HttpPost }) => unknown;
  /** How soon the system wants an answer. Needs `answers` or `send`; without it, an answer takes as long as it takes. */
  readonly deadline?: Duration;
  /** Where late answers may go, by the address that each post gives. */
  readonly answers?: AnswerAddresses;
  /** Sends late answers, in place of `answers`. Throw a `PlatformError` where one was not taken. */
  readonly send?: (late: LateAnswer) => MaybePromise<void>;
  /** Tells a person alone, where the system can. */
  readonly tell?: (person: Person, answer: SlashAnswer) => MaybePromise<void>;
  /** Says something in a channel, as an answer to nothing, where the system can. */
  readonly post?: (channel: Channel, answer: SlashAnswer) => MaybePromise<void>;
  /** By which it is told from other platforms of the same layer; `'http'` by default. */
  readonly name?: string;
  /** Who the bot is on the system. */
  readonly bot?: PostedName;
  /** What the system knows of who is where. All of it may be left out: what needs it is then refused. */
  readonly directory?: Partial<Directory>;
  /** All permissions that the system knows, where it has a list of them. */
  readonly permissions?: readonly string[];
  /** The guilds that the bot is in, where the system tells. */
  readonly guilds?: () => MaybePromise<readonly Guild[]>;
  readonly registrar?: Registrar;
  /** Whether the system shows an answer to the caller alone where it is private; it does by default. */
  readonly hidesPrivate?: boolean;
  /** How long one answer may be, in UTF-16 code units of its escaped text; longer ones are split. */
  readonly longestReply?: number;
  /**
   * Where the bot is reached from outside: `'https://bot.oddmere.example'`, or several. It is what was signed, so
   * `signatures` need it. A request's own word for it is its sender's.
   */
  readonly origin?: string | readonly string[];
  /** What one post may be at most: 64 kB, 100 headers of 16 kB, and 5 s for its body by default. */
  readonly limits?: {
    readonly bytes?: number;
    readonly headers?: number;
    readonly headerBytes?: number;
    readonly time?: Duration;
  };
  /**
   * Keeps a worker alive until a call has ended. What a server gives for each request may be given to the endpoint,
   * in place of this.
   */
  readonly waitUntil?: (promise: Promise<unknown>) => void;
  /** Where nonces are remembered; the layer's own by default. */
  readonly store?: Store;
  /** The layer's own by default. */
  readonly clock?: Clock;
  /** The layer's own by default. */
  readonly log?: Log;
}

/** The options as they hold, with what a layer gives. */
export interface EndpointSettings {
  readonly options: SlashEndpointOptions;
  readonly name: string;
  readonly deadlineMs: number | undefined;
  readonly limits: PostLimits;
  readonly origins: readonly URL[];
  readonly store: Store;
  readonly clock: Clock;
  readonly log: Log;
  readonly storePatienceMs: number;
  readonly patienceMs: number;
  readonly platformPatienceMs: number;
  /** Whether several processes take posts of the same system. */
  readonly isShared: boolean;
}

const aCount = forms.of('a whole number, at least 1', (value) => Number.isSafeInteger(value) && Number(value) >= 1);

const fields: Fields<SlashEndpointOptions> = {
  proof: forms.of('what signatures or sharedSecret give, or a function', (value) => typeof value === 'function'),
  read: forms.function,
  markup: forms.function,
  answer: forms.function,
  held: forms.function,
  deadline: forms.of(
    "a duration, at least '100ms'",
    (value) => forms.duration(value) === undefined && millisecondsOf(value, '') >= 100,
  ),
  answers: forms.object,
  send: forms.function,
  tell: forms.function,
  post: forms.function,
  name: forms.of('a name without / and spaces', (value) => typeof value === 'string' && /^[^/\s]{1,100}$/.test(value)),
  bot: forms.object,
  directory: forms.object,
  permissions: forms.texts,
  guilds: forms.function,
  registrar: forms.object,
  hidesPrivate: forms.flag,
  longestReply: forms.of(
    'a whole number, at least 100',
    (value) => Number.isSafeInteger(value) && Number(value) >= 100,
  ),
  origin: forms.of("an origin, such as 'https://bot.oddmere.example', or a list of some", (value) => {
    const origins = [value].flat();
    return origins.length > 0 && origins.every(isOrigin);
  }),
  limits: forms.object,
  waitUntil: forms.function,
  store: forms.of('a store', (store) => typeof Object(store).compareAndSet === 'function'),
  clock: forms.clock,
  log: forms.anything,
};
const limitFields = { bytes: aCount, headers: aCount, headerBytes: aCount, time: forms.duration };
const addressFields: Fields<AnswerAddresses> = {
  origins: forms.texts,
  local: forms.flag,
  headers: forms.object,
  idempotencyKeys: forms.flag,
};
const botFields: Fields<PostedName> = { id: forms.text, name: forms.text };
export const lookUps = [
  'bot',
  'self',
  'mentioned',
  'addressed',
  'member',
  'membersNamed',
  'user',
  'roles',
  'channels',
  'mention',
] as const satisfies readonly (keyof Directory)[];

/** @throws TypeError with everything that is wrong with them */
export function endpointSettings(layer: InputHandler, options: SlashEndpointOptions): EndpointSettings {
  const problems: string[] = [];
  const check = (of: string, given: unknown, wanted: Readonly<Record<string, FieldForm>>) =>
    checkFields(given, wanted, (field, problem) => {
      const what = [of, field].filter((one) => one !== '').join('.');
      problems.push(`${what === '' ? 'what it is given' : `\`${what}\``} ${problem}`);
    });
  check('', options, fields);
  const given: Partial<SlashEndpointOptions> = Object(options);
  const { limits = {}, answers, bot, directory, deadline, send, name = 'http' } = given;
  check('limits', limits, limitFields);
  if (answers !== undefined && check('answers', answers, addressFields)) {
    const problem = addressesProblem(answers);
    if (problem !== undefined) problems.push(`\`answers\` ${problem}`);
  }
  if (bot !== undefined) check('bot', bot, botFields);
  problems.push(...directoryProblems(directory));
  for (const needed of ['proof', 'read'] as const)
    if (given[needed] === undefined) problems.push(`\`${needed}\` is missing`);
  if (Object(given.proof).needsOrigin === true && given.origin === undefined)
    problems.push("`origin` is missing: `signatures` prove a post to one address; give 'https://bot.oddmere.example'");
  if (answers !== undefined && send !== undefined) problems.push('`answers` and `send` do not go together; give one');
  if (deadline !== undefined && answers === undefined && send === undefined)
    problems.push('`deadline` needs `answers` or `send`: a late answer must have somewhere to go');
  if (typeof Object(layer).handle !== 'function') problems.push('what it is given first is no layer');
  const shared = problems.length > 0 ? undefined : sharedOptions(layer);
  if (shared?.platforms.has(name) === true)
    problems.push(`another platform of the layer is called ${name}; give \`name\``);
  if (problems.length > 0) throw new TypeError(`slashEndpoint: ${problems.join('\n     ')}`);
  const clock = options.clock ?? shared?.clock ?? systemClock;
  return {
    options,
    name,
    deadlineMs: deadline === undefined ? undefined : millisecondsOf(deadline, 'slashEndpoint, deadline'),
    limits: {
      bodyBytes: limits.bytes ?? 65_536,
      headerCount: limits.headers ?? 100,
      headerBytes: limits.headerBytes ?? 16_384,
      bodyMs: millisecondsOf(limits.time ?? '5s', 'slashEndpoint, limits.time'),
    },
    origins: [options.origin ?? []].flat().map((origin) => new URL(origin)),
    store: options.store ?? shared?.store ?? memoryStore({ clock }),
    clock,
    log: safeLog(options.log ?? shared?.log),
    storePatienceMs: shared?.storePatienceMs ?? 5000,
    patienceMs: shared?.patienceMs ?? 10_000,
    platformPatienceMs: shared?.platformPatienceMs ?? 15_000,
    isShared: shared?.isShared ?? false,
  };
}

/** It may have more than look-ups, such as one that a system's client has made; but none that is misspelt. */
function directoryProblems(directory: unknown): string[] {
  if (typeof directory !== 'object' || directory === null) return [];
  const given = directory as Readonly<Record<string, unknown>>;
  const wrong = lookUps.filter((lookUp) => given[lookUp] !== undefined && typeof given[lookUp] !== 'function');
  const misspelt = Object.keys(given).flatMap((name) => {
    const [near] = (lookUps as readonly string[]).includes(name) ? [] : nearNames(name, lookUps);
    return near === undefined ? [] : [`\`directory.${name}\` there is no such look-up; write ${near}`];
  });
  return [...wrong.map((lookUp) => `\`directory.${lookUp}\` is ${shown(given[lookUp])}; give a function`), ...misspelt];
}
