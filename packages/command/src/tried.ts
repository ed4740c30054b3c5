/** What came of tryouts. */
import type { StandIn } from '@taxeon/testing';
import type { Mismatch, Played } from '@taxeon/testing/tryouts';
import type { Untried } from 'taxeon/queries';
import type { FileProblem, TryoutFile } from './tryout-file.js';

export interface TryOptions {
  readonly config?: string;
  readonly update: boolean;
  readonly watch: boolean;
  readonly all: boolean;
  readonly uncovered: boolean;
  readonly json: boolean;
  readonly format: 'text' | 'junit';
}

/** A tryout that was played, a file that does not read, or a bot that did not open for it. */
export type Tried =
  | { readonly path: string; readonly problems: readonly FileProblem[] }
  | {
      readonly path: string;
      readonly file: TryoutFile;
      readonly platform: StandIn;
      readonly played: readonly Played[];
      /** How many values were written into the file. */
      readonly updated: number;
    };

export interface AllTried {
  readonly tried: readonly Tried[];
  readonly untried: Untried | undefined;
}

/** What was written into its file is as expected now; what nothing in it would make right, is not. */
export function isWrong(one: Tried): boolean {
  if ('problems' in one) return true;
  const mismatches = one.played.flatMap(mismatchesOf);
  return (one.updated === 0 ? mismatches : mismatches.filter(({ at }) => at === undefined)).length > 0;
}

export function mismatchesOf(step: Played): readonly Mismatch[] {
  return 'differences' in step ? step.differences : [];
}

export function hasMismatch(step: Played): boolean {
  return mismatchesOf(step).length > 0;
}
