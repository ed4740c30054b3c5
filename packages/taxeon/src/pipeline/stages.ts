/** Stages 3 to 9, in the order that is part of the contract. Stages 1, 2, 10 and 11 stand in layer.ts and conclude.ts. */
import { checkStanding } from '../access/check.js';
import type { AccessRefusal } from '../access/decide.js';
import { isThenable, type MaybePromise } from '../base/thenable.js';
import type { CompiledCommand } from '../catalogue/compile.js';
import { type Answer, Blame, Refusal, type Sayable } from '../commands/call.js';
import { isWorded } from '../commands/worded.js';
import type { Coded, FailedCode, RefusedCode } from '../contract/codes.js';
import type { Problem } from '../contract/outcome.js';
import { PlatformError } from '../contract/platform.js';
import type { StageName } from '../contract/trace.js';
import { overviewFor } from '../queries/help/for.js';
import { readOptions, readValues } from '../reading/read-options.js';
import { readText } from '../reading/read-text.js';
import { Reading } from '../reading/reading.js';
import { aliasOf } from './ending.js';
import { type LimitRefusal, takeLimits } from './limits.js';
import { cursorOf, resolve, typedByText } from './resolve.js';
import type { Run } from './run-object.js';
import { accessProblem, reachProblem } from './viewer.js';
import { inTime } from './waiting.js';

/** Why an input goes no further, or what its handler answered. */
export type Stop =
  | { readonly status: 'completed'; readonly answer: Sayable | undefined }
  | ({ readonly status: 'refused'; readonly by: 'layer' } & Coded<RefusedCode>)
  | { readonly status: 'refused'; readonly by: 'handler'; readonly refusal: Refusal }
  | { readonly status: 'invalid'; readonly problems: readonly [Problem, ...Problem[]] }
  | ({ readonly status: 'failed' } & Coded<FailedCode>)
  /** The handler would run, and was not wanted to. */
  | { readonly status: 'runs' };

export interface Stage {
  readonly name: StageName;
  /** Gives nothing to let the input go on. */
  readonly step: (run: Run) => MaybePromise<Stop | undefined>;
}

export const stages: readonly Stage[] = [
  { name: 'resolve', step: resolve },
  { name: 'reach', step: reach },
  { name: 'access', step: access },
  { name: 'read', step: read },
  { name: 'standing', step: standing },
  { name: 'limits', step: limits },
  { name: 'run', step: runHandler },
];

function refused(coded: Coded<RefusedCode>): Stop {
  return { status: 'refused', by: 'layer', ...coded };
}

/** The command a run has after `resolve`. */
function commandOf(run: Run): CompiledCommand {
  return run.found as CompiledCommand;
}

function reach(run: Run): Stop | undefined {
  const problem = reachProblem(commandOf(run), run);
  return problem === undefined ? undefined : refused(problem);
}

function access(run: Run): Stop | undefined {
  const refusal = accessProblem(commandOf(run), run);
  return refusal === undefined ? undefined : refused(refusal);
}

function read(run: Run): MaybePromise<Stop | undefined> {
  const reading = new Reading(commandOf(run).slots, run, run.recorder !== undefined);
  const pending = readInto(reading, run);
  return isThenable(pending) ? pending.then(() => settleReading(reading, run)) : settleReading(reading, run);
}

function readInto(reading: Reading, run: Run): MaybePromise<void> {
  const { input } = run;
  if (typedByText(run)) return readText(cursorOf(run), reading);
  if (input.surface === 'program') return readValues(input.options ?? {}, reading);
  return input.text === undefined ? readOptions(input.options ?? {}, reading) : readText(cursorOf(run), reading);
}

function settleReading(reading: Reading, run: Run): Stop | undefined {
  const { problems, tokens } = reading;
  if (tokens !== undefined) run.recorder?.tokens.push(...tokens);
  if (problems !== undefined) return { status: 'invalid', problems: problems as [Problem, ...Problem[]] };
  run.args = reading.args();
  run.hasArgs = true;
  run.lowered = reading.lowered;
  return undefined;
}

function standing(run: Run): MaybePromise<Stop | undefined> {
  const command = commandOf(run);
  const settle = (refusal: AccessRefusal | undefined) =>
    refusal === undefined ? checkTogether(run) : refused(refusal);
  const refusal = checkStanding(command, run, run.directory);
  return isThenable(refusal) ? refusal.then(settle) : settle(refusal);
}

function checkTogether(run: Run): MaybePromise<Stop | undefined> {
  const { together } = commandOf(run);
  if (together === undefined) return undefined;
  const settle = (blame: Blame | undefined) =>
    blame instanceof Blame
      ? refused({ code: 'requirement.failed', parameters: { argument: blame.argument, reason: blame.reason } })
      : undefined;
  const blame = together(run.args, (argument, reason) => new Blame(argument, reason));
  return isThenable(blame) ? blame.then(settle) : settle(blame);
}

function limits(run: Run): MaybePromise<Stop | undefined> {
  const command = commandOf(run);
  if (command.counted.length === 0) return undefined;
  const refusal = takeLimits(command, run);
  const settle = (settled: LimitRefusal | undefined) => (settled === undefined ? undefined : refused(settled));
  return isThenable(refusal) ? refusal.then(settle) : settle(refusal);
}

function runHandler(run: Run): MaybePromise<Stop> {
  if (run.purpose === 'explain') return { status: 'runs' };
  tellStarted(run);
  const command = commandOf(run);
  try {
    const answer: MaybePromise<Answer | void> =
      command.overviewOf === undefined ? command.run(run) : overviewFor(run, command.overviewOf);
    if (!isThenable(answer)) return answered(run, answer);
    return inTime(run, answer, {
      answered: (given) => answered(run, given),
      threw: (error) => handlerThrew(run, error),
    });
  } catch (error) {
    return handlerThrew(run, error);
  }
}

function tellStarted(run: Run): void {
  const { events } = run.services;
  if (!events.hearing.started) return;
  const { input, platform, command, args } = run;
  events.tell('started', { input, platform: platform?.name, command, alias: aliasOf(run), args });
}

export function answered(run: Run, answer: Answer | void): Stop {
  if (answer instanceof Refusal) return { status: 'refused', by: 'handler', refusal: answer };
  if (answer === undefined || answer === null || answer === '') return { status: 'completed', answer: undefined };
  if (typeof answer === 'string' || isSayable(answer)) return { status: 'completed', answer };
  return handlerThrew(run, new TypeError('The handler gave back what is no text, no notice and no refusal'));
}

/** Types do not hold in JavaScript. */
function isSayable(answer: Exclude<Sayable, string>): boolean {
  return typeof answer === 'object' && (isWorded(answer) || typeof answer.body === 'string');
}

function handlerThrew(run: Run, error: unknown): Stop {
  if (error instanceof Refusal) return answered(run, error);
  const { services, found } = run;
  const reference = services.reference();
  const code = error instanceof PlatformError ? error.code : 'handler.failed';
  services.log.error({ reference, code, command: found?.name, error }, 'A handler failed');
  return { status: 'failed', code, parameters: { reference } };
}
