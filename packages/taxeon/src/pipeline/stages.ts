/** The one list of the stages, in the order that is part of the contract. Trace, timings, `explain` and docs derive from it. */
import type { Outcome } from '../contract/outcome.js';
import type { StageName } from '../contract/trace.js';
import type { Handed } from '../delivery/deliver.js';
import { watchFor } from '../delivery/hold.js';
import { access } from './access.js';
import { responderOf } from './call.js';
import { intake } from './intake.js';
import { limits } from './limits.js';
import { match } from './match.js';
import { reach } from './reach.js';
import { read } from './read.js';
import { reply } from './reply.js';
import { resolve } from './resolve.js';
import { run } from './run.js';
import type { Services } from './services.js';
import { settle } from './settle.js';
import type { AnyStage, Course, End, Gate, Step } from './stage.js';
import { standing } from './standing.js';
import type { Admitted, Asking, Heard, Read, Resolved, Stopped } from './state.js';

const inOrder: readonly [
  Gate,
  Gate,
  Step<Heard, Resolved>,
  Step<Resolved, Resolved>,
  Step<Resolved, Admitted>,
  Step<Admitted, Read>,
  Step<Read, Read>,
  Step<Read, Read>,
  Step<Read, never>,
  End<Stopped, Stopped, Handed | undefined>,
  End<Stopped, Outcome>,
] = [intake, match, resolve, reach, access, read, standing, limits, run, reply, settle];

/** All eleven; those that only refuse (`reach`, `access`, `standing`, `limits`) can be left out. */
export const stages: readonly AnyStage[] = inOrder;

export function courseOf(all: readonly AnyStage[], services: Services, asking: Asking | undefined): Course {
  const endsAt = all.findIndex(({ kind }) => kind === 'end');
  const order = { names: all.map(({ name }) => name), endsAt };
  return { services, asking, stages: all, endsAt, order, looks: false, traces: false, watch };
}

/** The same for somebody who only looks: up to the handler, and without it. */
export function lookingAt(course: Course, traces: boolean): Course {
  const stages = course.stages.slice(0, course.endsAt).filter(({ name }) => name !== 'run');
  return { ...course, stages, endsAt: stages.length, looks: true, traces, watch: undefined };
}

function watch(heard: Heard): (() => void) | undefined {
  return watchFor(heard.conversation, () => void responderOf(heard)?.hold());
}

/** In the order in which an input passes them. */
export const stageNames: readonly StageName[] = stages.map(({ name }) => name);
