/** What one input went through. */
import type { Span } from './span.js';

/** The stages; `stageNames` has them in the order in which an input passes them. */
export type StageName =
  | 'intake'
  | 'match'
  | 'resolve'
  | 'reach'
  | 'access'
  | 'read'
  | 'standing'
  | 'limits'
  | 'run'
  | 'reply'
  | 'settle';

/** One stage of a trace: its verdict, and why. */
export interface TracedStage {
  readonly name: StageName;
  readonly verdict: 'passed' | 'stopped' | 'skipped';
  /** What the stage found, in words for the bot's developer. */
  readonly reason: string;
  readonly tookMs: number;
}

/** A piece of the line and what took it: the command, an argument by name, or nothing. */
export interface ReadToken {
  readonly span: Span;
  readonly takenBy: 'command' | 'argument' | 'nothing';
  /** The command's or the argument's name; empty where nothing took the piece. */
  readonly name: string;
}

/** The stages that one input went through, recorded only when asked for. */
export interface Trace {
  readonly stages: readonly TracedStage[];
  readonly tokens: readonly ReadToken[];
}
