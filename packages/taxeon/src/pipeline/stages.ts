/** The one list of the stages, in the order that is part of the contract. Trace, timings, `explain` and docs derive from it. */
import type { Platform } from '../contract/platform.js';
import type { StageName } from '../contract/trace.js';
import type { StageOrder } from '../observe/recorder.js';
import { access } from './access.js';
import { intake } from './intake.js';
import { limits } from './limits.js';
import { match } from './match.js';
import { reach } from './reach.js';
import { read } from './read.js';
import { type Answered, reply } from './reply.js';
import { resolve } from './resolve.js';
import { run } from './run.js';
import type { Services } from './services.js';
import { settle } from './settle.js';
import type { AnyStage, Gate, ReplyEnd, SettleEnd, Step } from './stage.js';
import { standing } from './standing.js';
import type { Admitted, Charged, HandlerAsking, Heard, Read, Resolved } from './state.js';

const inOrder: readonly [
  Gate,
  Gate,
  Step<Heard, Resolved>,
  Step<Resolved, Resolved>,
  Step<Resolved, Admitted>,
  Step<Admitted, Read>,
  Step<Read, Read>,
  Step<Read, Read | Charged>,
  Step<Read | Charged, never>,
  ReplyEnd<Answered>,
  SettleEnd<Answered>,
] = [intake, match, resolve, reach, access, read, standing, limits, run, reply, settle];

/** All eleven; those that only refuse (`reach`, `access`, `standing`, `limits`) can be left out. */
export const stages: readonly AnyStage[] = inOrder;

/** The stages as they are used. */
export interface Pipeline {
  readonly stages: readonly AnyStage[];
  readonly gates: readonly [Gate, Gate];
  readonly steps: readonly AnyStep[];
  /** All steps but the handler: what is done where only the way is of interest. */
  readonly stepsBeforeRun: readonly AnyStep[];
  readonly order: StageOrder;
  readonly asking: HandlerAsking | undefined;
  /** How many questions are open. */
  openQuestions(): number;
}

/** Stages that ask, in place of those that refuse, and what handlers ask through. */
export interface Asking {
  within(all: readonly AnyStage[]): readonly AnyStage[];
  readonly ask: HandlerAsking;
  /** Once a platform is connected: what was asked before the process ended. */
  connected(platform: Platform): void;
  /** How many questions are open. */
  openQuestions(): number;
  close(): void;
}

export type AnyStep = Extract<AnyStage, { kind: 'step' }>;

/** What `askInChat` gives for the layer that it is given to. */
export type AskingFor = (services: Services) => Asking;

export function pipelineOf(given: readonly AnyStage[], asking?: Asking): Pipeline {
  const all = asking?.within(given) ?? given;
  const steps = all.filter((stage) => stage.kind === 'step');
  return {
    stages: all,
    gates: all.slice(0, 2) as [Gate, Gate],
    asking: asking?.ask,
    openQuestions: () => asking?.openQuestions() ?? 0,
    steps,
    stepsBeforeRun: steps.filter((step) => step.name !== 'run'),
    order: { names: all.map(({ name }) => name), endsAt: all.findIndex(({ kind }) => kind === 'end') },
  };
}

/** In the order in which an input passes them. */
export const stageNames: readonly StageName[] = stages.map(({ name }) => name);
