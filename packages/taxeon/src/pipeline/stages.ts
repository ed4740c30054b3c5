/** The one list of the stages, in the order that is part of the contract. Trace, timings, `explain` and docs derive from it. */
import type { Judge } from '../access/check.js';
import type { Outcome } from '../contract/outcome.js';
import type { StageName } from '../contract/trace.js';
import type { Handed } from '../delivery/deliver.js';
import { watchFor } from '../delivery/hold.js';
import { access } from './access.js';
import { responderOf } from './call.js';
import { intake } from './intake.js';
import { type LimitsNeeds, limits } from './limits.js';
import { type MatchNeeds, match } from './match.js';
import { reach } from './reach.js';
import { type ReadNeeds, read } from './read.js';
import { type ReplyNeeds, reply } from './reply.js';
import { type ResolveNeeds, resolve } from './resolve.js';
import { type RunNeeds, run } from './run.js';
import { type SettleNeeds, settle } from './settle.js';
import type { AnyStage, Course, End, Gate, Step, WiredStage } from './stage.js';
import { standing } from './standing.js';
import type { Heard, Stopped } from './state.js';

/** What each stage says that it needs. */
export interface StageNeeds {
  readonly match: MatchNeeds;
  readonly resolve: ResolveNeeds;
  readonly read: ReadNeeds;
  readonly standing: Judge;
  readonly limits: LimitsNeeds;
  readonly run: RunNeeds;
  readonly reply: ReplyNeeds;
  readonly settle: SettleNeeds;
}

/** Each builds on what the one before gives: without one that others build on, the list does not compile. */
type Fitting<List extends readonly unknown[], At> = List extends readonly [
  Step<infer From, infer To, never>,
  ...infer Rest,
]
  ? [At] extends [From]
    ? readonly [List[0], ...Fitting<Rest, To>]
    : readonly [{ readonly buildsOn: From }, ...Rest]
  : [At] extends [never]
    ? readonly [End<Stopped, Stopped, ReplyNeeds, Handed | undefined>, End<Stopped, Outcome, SettleNeeds>]
    : readonly [{ readonly endsOf: At }];

export function inOrder<const List extends readonly AnyStage[]>(
  first: Gate,
  second: Gate<MatchNeeds>,
  ...rest: List & Fitting<List, Heard>
): readonly AnyStage[] {
  return [first, second, ...(rest as List)];
}

/** All eleven; those that only refuse (`reach`, `access`, `standing`, `limits`) can be left out. */
export const stages: readonly AnyStage[] = inOrder(
  intake,
  match,
  resolve,
  reach,
  access,
  read,
  standing,
  limits,
  run,
  reply,
  settle,
);

type Shared = Pick<Course, 'basis' | 'current' | 'beginning' | 'malformed' | 'asking'>;

/** Wires each stage with what it needs. */
export function courseOf(all: readonly AnyStage[], shared: Shared, needs: StageNeeds): Course {
  const wired = all.map(
    (stage): WiredStage => ({ ...stage, needs: (needs as Partial<Record<StageName, unknown>>)[stage.name] }),
  );
  const endsAt = all.findIndex(({ kind }) => kind === 'end');
  const order = { names: all.map(({ name }) => name), endsAt };
  const { basis, current, beginning, malformed, asking } = shared;
  return {
    basis,
    current,
    beginning,
    malformed,
    asking,
    stages: wired,
    endsAt,
    order,
    looks: false,
    traces: false,
    watch: watchInput,
  };
}

/** The same for a query: up to the handler, and without it. */
export function lookingAt(course: Course, traces: boolean): Course {
  const through = course.stages.slice(0, course.endsAt).filter(({ name }) => name !== 'run');
  return { ...course, stages: through, endsAt: through.length, looks: true, traces, watch: undefined };
}

function watchInput(heard: Heard): (() => void) | undefined {
  return watchFor(heard.conversation, () => void responderOf(heard)?.hold());
}

/** In the order in which an input passes them. */
export const stageNames: readonly StageName[] = stages.map(({ name }) => name);
