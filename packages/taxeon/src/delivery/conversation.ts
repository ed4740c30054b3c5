/** One input and where its answers go: all that delivery knows of a call; and what is said in it, made ready to be handed over. */
import { isBlank } from '../base/text.js';
import type { Clock } from '../base/time.js';
import { durationMs } from '../base/time.js';
import type { Sayable } from '../commands/call.js';
import { isWorded } from '../commands/worded.js';
import { noticeProblem } from '../contract/check-notice.js';
import type { LayerEvents, SaidAs } from '../contract/events.js';
import type { Input } from '../contract/input.js';
import type { Log } from '../contract/log.js';
import type { Notice, Reply, Visibility } from '../contract/notice.js';
import type { Delivery } from '../contract/outcome.js';
import type { Platform } from '../contract/platform.js';
import type { Language } from '../replies/language.js';
import type { Expiring } from './expire.js';
import type { Pauses } from './pauses.js';

/** What all conversations of a layer share. */
export interface DeliveryServices {
  readonly clock: Clock;
  readonly log: Log;
  /** How long a platform's answer is waited for, in milliseconds; less where its reply deadline is near. */
  readonly platformPatienceMs: number;
  /** `clock` without its jumps, for what waits its turn. */
  readonly steady: Clock;
  readonly expiring: Expiring;
  /** Told of what was not said, since too much waits for its turn. */
  crowded(fields: Readonly<Record<string, unknown>>): void;
  /** Whether anybody wants to know what is said. */
  readonly hearing: { readonly replied: boolean };
  /** Told of everything that was said, or was to be. */
  said(conversation: Conversation, reply: Reply, delivery: Delivery | undefined, as: SaidAs, to?: SaidTo): void;
}

/** A person other than the caller, or a channel. */
export type SaidTo = Pick<LayerEvents['replied'], 'person' | 'channel'>;

export interface Conversation {
  readonly services: DeliveryServices;
  readonly input: Input;
  readonly platform: Platform | undefined;
  /** In which the caller is answered. */
  readonly language: Language;
  /** In which moments are told; an IANA name. */
  readonly timeZone: string;
  /** The command that it is about, once it is known. */
  command: string | undefined;
  /** Who sees what is said, where nothing else is said of it; settled once the command is known. */
  audience: Visibility | undefined;
  /** How many messages were handed over. */
  handed: number;
  /** How many calls to the platform were given up in a row. */
  silences: number;
  /** Its reply is held, so that no deadline is waited for any more. */
  isHeld: boolean;
  /** Whom the handler has mentioned, by id. */
  mentioned: Set<string> | undefined;
  /** Time spent waiting for the platform's pacing; kept only where a handler is waited for. */
  pauses: Pauses | undefined;
  /** What replies are recognised by where the input has no id. */
  madeKey: string | undefined;
}

/** One whose input came with a platform, so that something can be said. */
export interface Spoken extends Conversation {
  readonly platform: Platform;
}

export function isSpoken(conversation: Conversation): conversation is Spoken {
  return conversation.platform !== undefined;
}

const atConsole = { kind: 'console' } as const;

/** What is answered at the console goes nowhere else, whatever place it is about. Hot path: bench/rows/calls. */
export function conversationOn(
  services: DeliveryServices,
  input: Input,
  platform: Platform | undefined,
  language: Language,
  timeZone: string,
): Conversation {
  return {
    services,
    input: input.surface === 'console' && input.place.kind !== 'console' ? { ...input, place: atConsole } : input,
    platform,
    language,
    timeZone,
    command: undefined,
    audience: undefined,
    handed: 0,
    silences: 0,
    isHeld: false,
    mentioned: undefined,
    pauses: undefined,
    madeKey: undefined,
  };
}

/** For inputs without an event id: enough to tell the replies of one from another's in this process. */
let keysMade = 0;

/** Under which the platform recognises a second attempt at the same reply, where it does. */
export function replyKey(conversation: Conversation): string {
  const { input, platform } = conversation;
  if (input.id !== undefined || platform?.capabilities.idempotencyKeys !== true) return input.id ?? '';
  conversation.madeKey ??= `without-id-${++keysMade}`;
  return conversation.madeKey;
}

/** Tells listeners what was said, or was to be. */
export function tellSaid(
  conversation: Conversation,
  reply: Reply,
  delivery: Delivery | undefined,
  as: SaidAs,
  to?: SaidTo,
): void {
  const { services } = conversation;
  if (services.hearing.replied) services.said(conversation, reply, delivery, as, to);
}

/**
 * Hot path: bench/rows/calls.
 *
 * @param usual who sees it and for how long where it does not say, in place of what the command declares
 * @throws TypeError for what is no text and no notice
 */
export function replyOf(conversation: Conversation, sayable: Sayable, usual?: Omit<Reply, 'notice'>): Reply {
  const { mentioned, audience = 'everyone' } = conversation;
  if (typeof sayable === 'string' && mentioned === undefined && usual === undefined && !isBlank(sayable)) {
    return { notice: { body: sayable }, visibleTo: audience };
  }
  const { notice, visibleTo, expiresInMs = usual?.expiresInMs } = unpacked(conversation, sayable);
  return {
    notice,
    visibleTo: visibleTo ?? usual?.visibleTo ?? audience,
    ...(expiresInMs === undefined ? {} : { expiresInMs }),
    ...(mentioned === undefined ? {} : { mentions: [...mentioned] }),
  };
}

interface Unpacked {
  readonly notice: Notice;
  readonly visibleTo: Visibility | undefined;
  readonly expiresInMs: number | undefined;
}

function unpacked({ language, timeZone }: Conversation, sayable: Sayable): Unpacked {
  if (typeof sayable === 'string' || isWorded(sayable)) {
    const body = typeof sayable === 'string' ? sayable : sayable.wording(language.words, timeZone);
    const notice = { body };
    mustBeNotice(notice);
    return { notice, visibleTo: undefined, expiresInMs: undefined };
  }
  mustBeNotice(sayable);
  const { visibleTo, expires, ...notice } = sayable;
  return { notice, visibleTo, expiresInMs: expires === undefined ? undefined : durationMs(expires) };
}

function mustBeNotice(said: unknown): void {
  const problem = noticeProblem(said);
  if (problem !== undefined) throw new TypeError(`What is said ${problem}`);
}
