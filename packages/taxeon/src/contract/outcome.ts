/** What became of one input. */
import type { Coded, DeliveryCode, FailedCode, InvalidCode, RefusedCode } from './codes.js';
import type { Reply, Visibility } from './notice.js';
import type { Span } from './span.js';
import type { Trace } from './trace.js';

/** One thing wrong with what was typed. */
export type Problem = Coded<InvalidCode> & {
  /** Where in the text it is; a slash option has no place. */
  readonly span?: Span;
  /** What was typed with quotes around it, where those would have made plain text of it. */
  readonly quoted?: string;
};

/**
 * How handing over the first reply went. Where the input was gone, it was delivered `as` a plain post, or told
 * to the caller alone. `seenBy` is who really sees it: not every platform can hide a reply from others.
 */
export type Delivery =
  | { readonly delivered: true; readonly as: 'reply' | 'post' | 'tell'; readonly seenBy: Visibility }
  | {
      readonly delivered: false;
      readonly code: DeliveryCode;
      /** `'perhaps'` where the platform's answer was lost, so that it may be there; `'partly'` where only its beginning is. */
      readonly arrived: 'no' | 'perhaps' | 'partly';
    };

interface ToldOutcome {
  /** The base name, whichever alias was typed. */
  readonly command: string | undefined;
  /** The typed arguments by name, where reading got that far. */
  readonly args: Readonly<Record<string, unknown>> | undefined;
  readonly reply: Reply | undefined;
  /** `undefined` where no platform was there to deliver to, or nothing was to be said. */
  readonly delivery: Delivery | undefined;
  /** On text: what was not said, since the caller was told it often enough. */
  readonly heldBack: Reply | undefined;
  /** Recorded only when asked for. */
  readonly trace: Trace | undefined;
}

/** The handler ran and was content. */
export type Completed = ToldOutcome & { readonly status: 'completed' };

/** The layer's refusal, or the handler's own with a code of the developer's. */
export type Refused = ToldOutcome & { readonly status: 'refused' } & (
    | (Coded<RefusedCode> & { readonly by: 'layer' })
    | { readonly by: 'handler'; readonly code: string; readonly parameters: { readonly reason: string } }
  );

/** What was typed does not read; `code` and `parameters` are those of the first of `problems`. */
export type Invalid = ToldOutcome & {
  readonly status: 'invalid';
  readonly problems: readonly Problem[];
} & Coded<InvalidCode>;

/**
 * What is asked for: an argument that is missing or wrong, or that the caller means it. An `answer` is what a handler
 * waits for, whose outcome comes later: only what is played on the stand-in ends a line with that.
 */
export type Asked =
  | { readonly for: 'argument'; readonly argument: string; readonly problem: Problem }
  | { readonly for: 'confirmation'; readonly question: string }
  | { readonly for: 'answer'; readonly question: string };

/** The layer asked for something, and the call goes on with the answer. */
export type Waiting = ToldOutcome & {
  readonly status: 'waiting';
  readonly asks: Asked;
  /** Until when an answer is taken, in milliseconds since 1970-01-01 UTC. */
  readonly until: number;
};

/** Something threw, or did not come in time; the caller reads a reference. */
export type Failed = ToldOutcome & { readonly status: 'failed' } & Coded<FailedCode>;

/**
 * Ordinary chat, or something the bot does not answer; `malformed` is what a platform gave that is no input, and `answer`
 * what a handler has asked for, which goes on with it.
 */
export interface Ignored {
  readonly status: 'ignored';
  readonly because: 'chat' | 'bot' | 'repeated' | 'malformed' | 'answer';
}

/** What became of one input; `switch` on its `status`. */
export type Outcome = Completed | Refused | Invalid | Waiting | Failed | Ignored;
/** How an input ended. */
export type Status = Outcome['status'];
