/** Stages 10 and 11: what is said, handing it over, and the outcome. */
import { isThenable, type MaybePromise, patiently } from '../base/thenable.js';
import type { RefusalHook, RefusalTold } from '../commands/call.js';
import type { Coded } from '../contract/codes.js';
import type { Notice, Reply } from '../contract/notice.js';
import type { Delivery, Outcome } from '../contract/outcome.js';
import { handReply } from '../delivery/deliver.js';
import { endRun } from './ending.js';
import { tellReplied } from './replied.js';
import type { Run } from './run-object.js';
import type { Stop } from './stages.js';
import { replyTo } from './wording.js';

export type Conclusion = Exclude<Stop, { status: 'runs' }>;

/** Hands over the one first reply and gives the outcome; never throws. */
export function conclude(run: Run, stop: Conclusion): MaybePromise<Outcome> {
  run.unwatch?.();
  const reply = wordedReply(run, stop);
  const hook = stop.status === 'completed' ? undefined : (run.found?.onRefusal ?? run.services.onRefusal);
  if (hook === undefined) return handOver(run, stop, reply);
  const hooked = askHook(run, stop as Exclude<Conclusion, { status: 'completed' }>, reply, hook);
  return isThenable(hooked) ? hooked.then((settled) => handOver(run, stop, settled)) : handOver(run, stop, hooked);
}

/** A wording of the developer's may throw: then the code alone is said. */
function wordedReply(run: Run, stop: Conclusion): Reply | undefined {
  try {
    return replyTo(run, stop);
  } catch (error) {
    const { services } = run;
    const reference = services.reference();
    services.log.error({ reference, command: run.found?.name, error }, 'A message could not be worded');
    const body = run.language.messages['callback.failed']({ reference });
    return { notice: { tone: 'problem', body }, visibleTo: 'caller' };
  }
}

function handOver(run: Run, stop: Conclusion, wanted: Reply | undefined): MaybePromise<Outcome> {
  const reply = wanted === undefined || isDamped(run, stop) ? undefined : wanted;
  const { platform, madeResponder } = run;
  if (platform === undefined) return settle(run, stop, reply, undefined);
  if (madeResponder !== undefined) {
    return madeResponder.finish(reply).then((handed) => settle(run, stop, reply, handed?.delivery));
  }
  run.isOver = true;
  if (reply === undefined) return settle(run, stop, reply, undefined);
  return handReply(run, platform, reply, ({ delivery }) => settle(run, stop, reply, delivery));
}

/** A slash invocation and a console line are always answered; on text, enough is enough. */
function isDamped(run: Run, stop: Conclusion): boolean {
  const { damping } = run.services;
  if (stop.status === 'completed' || run.surface !== 'text' || damping === undefined) return false;
  return damping.isSilent(run, stop);
}

/** The developer's word on a refusal; the catalogue's stands where it gives none. */
function askHook(
  run: Run,
  stop: Exclude<Conclusion, { status: 'completed' }>,
  reply: Reply | undefined,
  hook: RefusalHook,
): MaybePromise<Reply | undefined> {
  const use = (notice: Notice | undefined): Reply | undefined => {
    if (notice === undefined) return reply;
    run.hookSpoke = true;
    return { visibleTo: 'caller', ...reply, notice };
  };
  const failed = (error: unknown) => {
    run.services.log.error(
      { reference: run.services.reference(), command: run.found?.name, error },
      'onRefusal failed',
    );
    return reply;
  };
  try {
    const hooked = hook({ status: stop.status, notice: reply?.notice, ...codedOf(stop) }, run);
    return isThenable(hooked) ? patiently(hooked, run.services.patienceMs).then(use, failed) : use(hooked);
  } catch (error) {
    return failed(error);
  }
}

function codedOf(stop: Exclude<Conclusion, { status: 'completed' }>): Pick<RefusalTold, 'code' | 'parameters'> {
  if (stop.status === 'invalid') return { code: stop.problems[0].code, parameters: { ...stop.problems[0].parameters } };
  if (stop.status === 'refused' && stop.by === 'handler') {
    const { code, parameters, reason } = stop.refusal;
    return { code, parameters: typeof reason === 'string' ? { reason, ...parameters } : parameters };
  }
  return { code: stop.code, parameters: { ...stop.parameters } };
}

function settle(run: Run, stop: Conclusion, reply: Reply | undefined, delivery: Delivery | undefined): Outcome {
  tellReplied(run, reply, delivery);
  const command = run.found?.name;
  const args = run.hasArgs ? run.args : undefined;
  const trace = run.recorder === undefined ? undefined : finishTrace(run, reply, delivery);
  // Written out, since spreading costs more than all of it: bench/dispatch.
  if (stop.status === 'completed') return endRun(run, { status: 'completed', command, args, reply, delivery, trace });
  return endRun(run, outcomeOf(stop, { command, args, reply, delivery, trace }, reply));
}

type Told = Omit<Extract<Outcome, { status: 'completed' }>, 'status'>;

function outcomeOf(
  stop: Exclude<Conclusion, { status: 'completed' }>,
  told: Told,
  reply: Reply | undefined,
): Exclude<Outcome, { status: 'ignored' }> {
  switch (stop.status) {
    case 'invalid': {
      const { code, parameters } = stop.problems[0];
      const coded = { code, parameters } as Coded<typeof code>;
      return { status: 'invalid', ...told, problems: stop.problems, ...coded } as Extract<
        Outcome,
        { status: 'invalid' }
      >;
    }
    case 'failed':
      return { ...told, ...stop };
    case 'refused': {
      if (stop.by === 'layer') return { ...told, ...stop };
      const { code, reason, parameters } = stop.refusal;
      const inWords = typeof reason === 'string' ? reason : (reply?.notice.body ?? '');
      return { ...told, status: 'refused', by: 'handler', code, parameters: { ...parameters, reason: inWords } };
    }
  }
}

function finishTrace(
  { recorder, madeResponder, hookSpoke }: Run,
  reply: Reply | undefined,
  delivery: Delivery | undefined,
) {
  const said = () => {
    if (reply === undefined) return madeResponder?.hasSpoken === true ? 'the handler has said it' : 'nothing to say';
    const as = delivery?.delivered === true && delivery.as !== 'reply' ? `, as a ${delivery.as}` : '';
    return `to ${madeResponder?.held ?? reply.visibleTo}${madeResponder?.held === undefined ? '' : ', held'}${as}${hookSpoke ? ', in the words of onRefusal' : ''}`;
  };
  if (delivery?.delivered === false) recorder?.stopped('reply', () => `${delivery.code}: ${said()}`);
  else recorder?.passed('reply', said);
  recorder?.passed('settle');
  return recorder?.trace();
}
