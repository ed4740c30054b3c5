/** What one input went through. */
import type { Span } from './outcome.js';

export const stageNames = [
  'intake',
  'match',
  'resolve',
  'reach',
  'access',
  'read',
  'standing',
  'limits',
  'run',
  'reply',
  'settle',
] as const;

export type StageName = (typeof stageNames)[number];

export interface TracedStage {
  readonly name: StageName;
  readonly verdict: 'passed' | 'stopped' | 'skipped';
  /** What the stage found, in words for the bot's developer. */
  readonly reason: string;
  readonly tookMs: number;
}

/** A piece of the line and the argument that took it; `undefined` where none did. */
export interface ReadToken {
  readonly span: Span;
  readonly argument: string | undefined;
}

export interface Trace {
  readonly stages: readonly TracedStage[];
  readonly tokens: readonly ReadToken[];
}
