import type { Actor } from './actors.js';
import type { Attachment } from './attachment.js';
import type { Place } from './places.js';

/** How a command is reached: a prefix in a message, a slash command, the console, the bot's own code. */
export type Surface = 'text' | 'slash' | 'console' | 'program';

/** One thing a person did. An adapter makes these; everything typed in them is untrusted. */
export interface Input {
  readonly surface: Surface;
  /** The platform's event id; without it a repeated delivery cannot be recognised. */
  readonly id?: string;
  readonly caller: Actor;
  readonly place: Place;
  /** What was typed, on text and console; a slash command may carry it instead of `options`. */
  readonly text?: string;
  /** The name of a slash command, and those of its group where it has one. */
  readonly path?: readonly string[];
  /** A slash command's options by argument name. */
  readonly options?: Readonly<Record<string, unknown>>;
  /** The files that came with it, at most 20. A slash option names one of them by its id. */
  readonly attachments?: readonly Attachment[];
  /** The message with this `id` was changed, and says this now. Read only where the layer has `edits`. */
  readonly isEdit?: true;
  /** What was asked for and is answered, by argument: texts as they were typed. */
  readonly answers?: Readonly<Record<string, string>>;
  /** The form that this fills in, by its id; `answers` has what was filled in. */
  readonly fills?: string;
  /** BCP 47. */
  readonly locale?: string;
  /** When it arrived, in milliseconds since 1970-01-01 UTC. */
  readonly at: number;
}
