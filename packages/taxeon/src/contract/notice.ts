/** What is said back. */
import type { Duration } from '../base/time.js';

/** Whether a notice tells of a success, of a part of it, of a problem, or informs. */
export type Tone = 'success' | 'partial' | 'problem' | 'info';

/**
 * A structured reply, rendered by each platform in its own form. All of it is plain text: what would be
 * markup on a platform is shown as it stands. A block between lines of ``` is shown as code.
 */
export interface Notice {
  readonly tone?: Tone;
  readonly heading?: string;
  readonly body: string;
  readonly details?: readonly string[];
  /** How much is done of what was asked for. */
  readonly amount?: { readonly done: number; readonly asked: number };
}

/** Who sees what is said: everyone in the place, or the caller alone. */
export type Visibility = 'everyone' | 'caller';

/** The same for all that a command says; with `'caller-if-possible'`, everyone where the platform cannot hide it. */
export type Audience = Visibility | 'caller-if-possible';

/** A notice with who is to see it, and for how long. */
export interface Saying extends Notice {
  /**
   * As the command declares by default. What is for the caller alone is told to them directly where the platform cannot
   * hide it, and is otherwise not said. What was held for others is closed with a neutral word.
   */
  readonly visibleTo?: Visibility;
  /** After how long it is taken away again, where the platform can. */
  readonly expires?: Duration;
}

/** A notice on its way to a place. */
export interface Reply {
  readonly notice: Notice;
  readonly visibleTo: Visibility;
  /** After how long it is to go, in milliseconds. */
  readonly expiresInMs?: number;
  /** Ids of those who are pinged; nobody else is, whatever the text says. */
  readonly mentions?: readonly string[];
}
