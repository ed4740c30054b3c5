/** What a handler gets, and what it may give back. */
import type { MaybePromise } from '../base/thenable.js';
import type { Actor, GuildActor } from '../contract/actors.js';
import type { Surface } from '../contract/input.js';
import type { Notice } from '../contract/notice.js';
import type { Channel, Guild, Place } from '../contract/places.js';

/** Where a command may be called. */
export type Whereabouts = 'guild' | 'direct' | 'anywhere';

/** One running use of a command. */
export interface Call<Args = Readonly<Record<string, unknown>>, In extends Whereabouts = Whereabouts> {
  readonly args: Args;
  readonly caller: In extends 'guild' ? GuildActor : Actor;
  readonly guild: In extends 'guild' ? Guild : In extends 'direct' ? undefined : Guild | undefined;
  /** Absent at the console, unless its input names a guild's. */
  readonly channel: In extends 'guild' ? Channel : Channel | undefined;
  readonly place: Place;
  readonly surface: Surface;
  /** The base name, whichever alias was typed. */
  readonly command: string;
  /** The platform's event id, where it has one. */
  readonly inputId: string | undefined;
  readonly locale: string | undefined;
  /** The layer's time when the call began, in milliseconds. */
  readonly now: number;
}

/** A handler's own no: the call was understood and is declined. */
export class Refusal {
  constructor(
    readonly code: string,
    readonly reason: string,
  ) {}
}

/**
 * Declines a call for a reason of the bot's own; return it, or throw it from deeper down.
 *
 * @param code dotted and stable, for logs and tests: `'tool.out'`
 * @param reason the sentence that the caller reads
 *
 * @example
 * return refuse('tool.out', `The ${tool.name} is with ${tool.borrower}.`);
 */
export function refuse(code: `${string}.${string}`, reason: string): Refusal {
  return new Refusal(code, reason);
}

/** What a check across arguments finds wrong, and with which of them. */
export class Blame {
  constructor(
    readonly argument: string,
    readonly reason: string,
  ) {}
}

/** What a hook on refusals is told. */
export interface RefusalTold {
  readonly status: 'refused' | 'invalid' | 'failed';
  /** The layer's code, or the handler's own. */
  readonly code: string;
  readonly parameters: Readonly<Record<string, unknown>>;
  /** What the caller would read; `undefined` where nothing would be said. */
  readonly notice: Notice | undefined;
}

/**
 * Called for every input that does not complete. A notice that it gives is said in place of the
 * catalogue's; where it gives nothing, or throws, the catalogue's is.
 */
export type RefusalHook = (refusal: RefusalTold, call: Call) => MaybePromise<Notice | undefined>;

/** What a handler may give back: a sentence, a notice, its own refusal, or nothing. */
export type Answer = string | Notice | Refusal | undefined;
