/**
 * The private state of one input on its way through the stages: plain data, more of it with each stage. No handler,
 * hook or listener ever holds it.
 */

import type { Rights } from '../access/context.js';
import type { CompiledSettings } from '../access/rules.js';
import type { MaybePromise } from '../base/thenable.js';
import type { Catalogue, CompiledCommand } from '../catalogue/catalogue.js';
import type { Arg } from '../commands/arg.js';
import type { Sayable } from '../commands/call.js';
import type { Actor } from '../contract/actors.js';
import type { Input, Surface } from '../contract/input.js';
import type { Reply } from '../contract/notice.js';
import type { Delivery } from '../contract/outcome.js';
import type { Guild, Place } from '../contract/places.js';
import type { Platform } from '../contract/platform.js';
import { type Conversation, conversationOn, type DeliveryServices } from '../delivery/conversation.js';
import type { Responder } from '../delivery/responder.js';
import { Recorder, type StageOrder } from '../observe/recorder.js';
import { Timings } from '../observe/timings.js';
import type { Cursor } from '../reading/cursor.js';
import type { Note, Reading } from '../reading/reading.js';
import type { Language } from '../replies/language.js';
import type { Basis, Current } from './basis.js';
import type { SaidOf } from './edits.js';
import type { HandlerWait } from './handler-wait.js';
import type { Continued, MatchResult } from './match-result.js';
import type { Stop } from './stop.js';
import type { TakenUses } from './taken-uses.js';

/** Who asks, and where. */
export interface Viewer {
  readonly caller: Actor;
  /** The platform's name; empty where the input came without one. */
  readonly platformName: string;
  readonly guild: Guild | undefined;
  readonly place: Place;
  /** The layer's time, in milliseconds. */
  readonly now: number;
  readonly rights: Rights;
  /** As they stood when the input came: it keeps to them. */
  readonly settings: CompiledSettings;
  readonly surface: Surface;
}

/** Behind the gates: the input is for the bot. */
export interface Heard extends Viewer {
  readonly at: 'heard';
  readonly basis: Basis;
  readonly input: Input;
  readonly platform: Platform | undefined;
  /** Where in the text the command's name begins, behind the prefix. */
  readonly nameAt: number;
  /** Only looks: nothing is recorded or taken, and no function of the developer's answers. */
  readonly looks: boolean;
  readonly asking: Asking | undefined;
  /** What it answers, where it goes on with a call that asked. */
  readonly continued: Continued | undefined;
  readonly catalogue: Catalogue;
  readonly conversation: Conversation;
  readonly recorder: Recorder | undefined;
  readonly timings: Timings | undefined;
  /** Of an edited message, what was said of it before. */
  saidBefore: SaidOf | undefined;
  /** Made when it is first needed: most calls say one thing at once. */
  responder: Responder | undefined;
  /** What the end of the handler settles. */
  taken: TakenUses | undefined;
  /** The handler, once it is waited for. */
  handler: HandlerWait | undefined;
  /** Ends the watch over an input that does not end at once. */
  endWatch: (() => void) | undefined;
  /** The layer's end waits for it. */
  isOpen: boolean;
  /** Nothing more is said in answer to the input. */
  isOver: boolean;
}

/** Of what the first state of an input is made, besides the input. */
export interface Beginning {
  readonly rights: Rights;
  /** The language of a caller, of a guild, or the layer's own, whichever is there first. */
  languageOf(asked: string | undefined, guilds: string | undefined): Language;
  /** Where a guild has none of its own; an IANA name. */
  readonly timeZone: string;
  readonly delivery: DeliveryServices;
}

/** How inputs come in: the part of a course that a state is made of. */
export interface CourseOpening {
  readonly basis: Basis;
  readonly current: Current;
  readonly beginning: Beginning;
  /** Where the layer asks in the chat. */
  readonly asking: Asking | undefined;
  /** Of all stages, also those that are left out here. */
  readonly order: StageOrder;
  /** Nothing is to be remembered of the input. */
  readonly looks: boolean;
  readonly traces: boolean;
}

/**
 * The first state. Hot path: bench/rows/calls.
 *
 * @param settings of the guild, as they were read when the input was let in
 */
export function heardOn(
  opening: CourseOpening,
  input: Input,
  platform: Platform | undefined,
  nameAt: number,
  settings: CompiledSettings,
  continued?: Continued,
): Heard {
  const { basis, current, beginning, asking, looks, traces, order } = opening;
  const { place, caller, surface } = input;
  const { locale, timeZone = beginning.timeZone } = settings.settings;
  const { clock, events } = basis;
  const language = beginning.languageOf(input.locale, locale);
  return {
    at: 'heard',
    basis,
    input,
    platform,
    nameAt,
    looks,
    asking,
    continued,
    catalogue: current.catalogue,
    caller,
    platformName: platform?.name ?? '',
    guild: place.kind === 'guild' ? place.guild : undefined,
    place,
    surface,
    now: clock.now(),
    rights: beginning.rights,
    settings,
    conversation: conversationOn(beginning.delivery, input, platform, language, timeZone),
    recorder: traces ? new Recorder(clock, order) : undefined,
    timings: events.timesEndings && !looks ? new Timings(clock) : undefined,
    saidBefore: undefined,
    responder: undefined,
    taken: undefined,
    handler: undefined,
    endWatch: undefined,
    isOpen: false,
    isOver: false,
  };
}

/** The same input once more, of which nothing was said or taken yet; only what is `given` differs. */
export function anew(heard: Heard, given: Partial<Heard>): Heard {
  return {
    ...heard,
    recorder: undefined,
    timings: undefined,
    responder: undefined,
    taken: undefined,
    handler: undefined,
    endWatch: undefined,
    isOpen: false,
    isOver: false,
    ...given,
  };
}

export interface Resolved {
  readonly at: 'resolved';
  readonly heard: Heard;
  readonly command: CompiledCommand;
  /** The name as it was typed. */
  readonly typed: string;
  /** Behind the name; a slash command's options need none. */
  readonly cursor: Cursor | undefined;
}

/** Past `reach` and `access`: the caller may ask for it. */
export type Admitted = Resolved;

export interface Read {
  readonly at: 'read';
  readonly heard: Heard;
  readonly command: CompiledCommand;
  readonly typed: string;
  readonly args: Readonly<Record<string, unknown>>;
  /** The same as access sees them: with the members that were named where `.map` makes something else of them. */
  readonly named: Readonly<Record<string, unknown>>;
  /** What the caller is told of how arguments were read. */
  readonly notes: readonly Note[] | undefined;
}

export type State = Heard | Resolved | Read;

/** What the stages that ask do it through: `askInChat` gives it, and a bot without it carries none of its code. */
export interface Asking {
  /** Stage 2: whether it is an answer. Hot path: bench/rows/asking. */
  hear(
    input: Input,
    platform: Platform | undefined,
    looks: boolean,
    settings: CompiledSettings,
    hearing: MaybePromise<MatchResult>,
  ): MaybePromise<MatchResult>;
  /** Stage 6, with what was answered; what is missing or wrong is asked for where it can be. */
  read(state: Admitted, reading: Reading): MaybePromise<Read | Stop>;
  /** Stage 7: behind all other requirements. */
  confirm(checked: MaybePromise<Read | Stop>): MaybePromise<Read | Stop>;
  /** Stage 9: what handlers ask; it takes an argument, and gives its value; without one it wants a yes. */
  ask(heard: Heard, question: Sayable, arg: Arg<unknown> | undefined): Promise<unknown>;
  /** Stage 9: a handler may ask from here on. */
  begin(state: Read): void;
  /** Stage 9: and no more. */
  over(heard: Heard): void;
  /** Once a platform is connected: what was asked before the process ended. */
  connected(platform: Platform): void;
  /** How many questions are open. */
  openQuestions(): number;
  close(): void;
}

/** Where an input stopped, and why; then also what was said of it, and how handing that over went. */
export interface Stopped {
  readonly at: 'stopped';
  readonly state: State;
  readonly stop: Stop;
  reply: Reply | undefined;
  delivery: Delivery | undefined;
  /** What would have been said, to a person who was told enough. */
  heldBack: Reply | undefined;
  /** Whether `reply` is in the words of `onRefusal`. */
  hookSpoke: boolean;
}

export function stoppedAt(state: State, stop: Stop): Stopped {
  return { at: 'stopped', state, stop, reply: undefined, delivery: undefined, heldBack: undefined, hookSpoke: false };
}

export function heardOf(state: State | Stopped): Heard {
  if (state.at === 'stopped') return heardOf(state.state);
  return state.at === 'heard' ? state : state.heard;
}

export function commandOf(state: State): CompiledCommand | undefined {
  return state.at === 'heard' ? undefined : state.command;
}

export function argsOf(state: State): Readonly<Record<string, unknown>> | undefined {
  return state.at === 'read' ? state.args : undefined;
}
