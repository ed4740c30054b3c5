/**
 * The private state of one input on its way through the stages: plain data, more of it with each stage. No handler,
 * hook or listener ever holds it.
 */
import type { Catalogue, CompiledCommand } from '../catalogue/catalogue.js';
import type { Arg } from '../commands/arg.js';
import type { Sayable } from '../commands/call.js';
import type { Input } from '../contract/input.js';
import type { Platform } from '../contract/platform.js';
import type { Conversation } from '../delivery/conversation.js';
import type { Responder } from '../delivery/responder.js';
import type { Recorder } from '../observe/recorder.js';
import type { Timings } from '../observe/timings.js';
import type { Cursor } from '../reading/cursor.js';
import type { Note } from '../reading/reading.js';
import type { HandlerWait } from './handler-wait.js';
import type { Services } from './services.js';
import type { Taken } from './taken.js';
import type { Viewer } from './viewer.js';

/** What handlers ask through: it takes an argument, and gives its value; without one it wants a yes. */
export type HandlerAsking = (heard: Heard, question: Sayable, arg: Arg<unknown> | undefined) => Promise<unknown>;

/** Behind the gates: the input is for the bot. */
export interface Heard extends Viewer {
  readonly at: 'heard';
  readonly services: Services;
  readonly input: Input;
  readonly platform: Platform | undefined;
  /** Where in the text the command's name begins, behind the prefix. */
  readonly nameAt: number;
  /** Only looks: nothing is recorded or taken, and no function of the developer's answers. */
  readonly looks: boolean;
  readonly asking: HandlerAsking | undefined;
  readonly catalogue: Catalogue;
  readonly conversation: Conversation;
  readonly recorder: Recorder | undefined;
  readonly timings: Timings | undefined;
  /** Made when it is first needed: most calls say one thing at once. */
  responder: Responder | undefined;
  /** The handler, once it is waited for. */
  handler: HandlerWait | undefined;
  /** Some stage has stopped it. */
  isStopped: boolean;
  /** Ends the watch over an input that does not end at once. */
  endWatch: (() => void) | undefined;
  /** Nothing more is said in answer to the input. */
  isOver: boolean;
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

/** Something was taken that the end of the call settles. */
export interface Charged extends Omit<Read, 'at'> {
  readonly at: 'charged';
  readonly taken: Taken;
}

export type State = Heard | Resolved | Read | Charged;

/** A person in a place, as what they were told is remembered. */
export function whoWhere({ input: { place, caller }, platformName }: Heard): string {
  return `${platformName} ${place.kind === 'console' ? 'console' : place.channel.id} ${caller.id}`;
}

export function heardOf(state: State): Heard {
  return state.at === 'heard' ? state : state.heard;
}

export function commandOf(state: State): CompiledCommand | undefined {
  return state.at === 'heard' ? undefined : state.command;
}

export function argsOf(state: State): Readonly<Record<string, unknown>> | undefined {
  return state.at === 'read' || state.at === 'charged' ? state.args : undefined;
}
