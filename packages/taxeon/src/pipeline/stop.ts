/** Why an input goes no further: its outcome, without the delivery. Messages, events, log, trace and hooks read this one value. */
import type { AccessRefusal } from '../access/algebra.js';
import type { Sayable } from '../commands/call.js';
import type { Code, Coded, FailedCode, InvalidCode, RefusedCode } from '../contract/codes.js';
import type { Reply } from '../contract/notice.js';
import type { Asked, Problem } from '../contract/outcome.js';

export type Stop = Done | RefusedStop | InvalidStop | FailedStop | WaitingStop;

/** The handler ran, and this is what it answered. */
export interface Done {
  readonly status: 'completed';
  readonly answer: Sayable | undefined;
}

export type RefusedStop =
  | ({ readonly status: 'refused'; readonly by: 'layer' } & Coded<RefusedCode>)
  | {
      readonly status: 'refused';
      readonly by: 'handler';
      readonly code: string;
      readonly parameters: Readonly<Record<string, unknown>> & { readonly reason: string };
    };

export type InvalidStop = {
  readonly status: 'invalid';
  readonly problems: readonly [Problem, ...Problem[]];
  /** A line that would have read, where one is known. */
  readonly example: string | undefined;
} & Coded<InvalidCode>;

export type FailedStop = {
  readonly status: 'failed';
  /** What was thrown, where something was; for listeners, and never for the chat. */
  readonly error: unknown;
} & Coded<FailedCode>;

/** The caller is asked for something. */
export interface WaitingStop {
  readonly status: 'waiting';
  readonly asks: Exclude<Asked, { for: 'answer' }>;
  readonly until: number;
  /** By which repeats of the same question are damped. */
  readonly code: Code;
  readonly parameters: { readonly argument?: string };
  /** The question; nothing where the platform shows a form. */
  readonly reply: Reply | undefined;
  /** Told whether the question has arrived. */
  asked(isTold: boolean): void;
}

/** Every stop that a caller is told of by its code. */
export type Unsuccessful = Exclude<Stop, Done>;

export function refused(coded: Coded<RefusedCode>): RefusedStop {
  return { status: 'refused', by: 'layer', code: coded.code, parameters: coded.parameters } as RefusedStop;
}

export function invalid(problems: readonly [Problem, ...Problem[]], example?: string): InvalidStop {
  const [{ code, parameters }] = problems;
  return { status: 'invalid', problems, example, code, parameters } as InvalidStop;
}

export function failed(coded: Coded<FailedCode>, error?: unknown): FailedStop {
  return { status: 'failed', code: coded.code, parameters: coded.parameters, error } as FailedStop;
}

/** What access says no to; where a function of the developer's failed, the call does. */
export function barred(refusal: AccessRefusal): RefusedStop | FailedStop {
  return refusal.code === 'callback.failed' ? failed(refusal) : refused(refusal);
}

export function codeOf(stop: Stop): string | undefined {
  return stop.status === 'completed' || stop.status === 'waiting' ? undefined : stop.code;
}
