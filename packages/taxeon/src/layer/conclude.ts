/** Stages 10 and 11: what is said, handing it over, and the outcome. */
import { isThenable, type MaybePromise, patiently } from '../base/thenable.js';
import type { RefusalHook, RefusalTold } from '../commands/call.js';
import type { Code, Coded } from '../contract/codes.js';
import type { Notice, Reply } from '../contract/notice.js';
import type { Delivery, Outcome } from '../contract/outcome.js';
import { PlatformError } from '../contract/platform.js';
import type { Lowered } from '../reading/reading.js';
import { english } from '../replies/messages.js';
import { settleLimits } from './limiting.js';
import type { Run } from './run.js';
import type { Stop } from './stages.js';

type Conclusion = Exclude<Stop, { status: 'runs' }>;

/** Hands over the one first reply and gives the outcome; never throws. */
export function conclude(run: Run, stop: Conclusion): MaybePromise<Outcome> {
  const reply = replyTo(run, stop);
  const hook = stop.status === 'completed' ? undefined : (run.found?.onRefusal ?? run.services.onRefusal);
  if (hook === undefined) return handOver(run, stop, reply);
  const hooked = askHook(run, stop as Exclude<Conclusion, { status: 'completed' }>, reply, hook);
  return isThenable(hooked) ? hooked.then((settled) => handOver(run, stop, settled)) : handOver(run, stop, hooked);
}

function handOver(run: Run, stop: Conclusion, wanted: Reply | undefined): MaybePromise<Outcome> {
  const reply = wanted === undefined || isDamped(run, stop) ? undefined : wanted;
  const delivery = reply === undefined ? undefined : deliver(run, reply);
  return isThenable(delivery)
    ? delivery.then((settled) => settle(run, stop, reply, settled))
    : settle(run, stop, reply, delivery);
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
  const use = (notice: Notice | undefined): Reply | undefined =>
    notice === undefined ? reply : { notice, visibleTo: reply?.visibleTo ?? 'caller' };
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
    return { code: stop.refusal.code, parameters: { reason: stop.refusal.reason } };
  }
  return { code: stop.code, parameters: { ...stop.parameters } };
}

/** What the caller reads; `undefined` where nothing is said. */
export function replyTo(run: Run, stop: Conclusion): Reply | undefined {
  switch (stop.status) {
    case 'completed':
      return answerReply(run, stop.answer);
    case 'refused':
      if (stop.by === 'handler') return problemReply(stop.refusal.reason);
      if (stop.code === 'requirement.failed') return problemReply(message(stop), howToWrite(run));
      return isSilent(run, stop) ? undefined : problemReply(message(stop));
    case 'failed':
      return problemReply(message(stop));
    case 'invalid':
      return problemReply(stop.problems.slice(0, MOST_TOLD).map(message).join('\n'), howToWrite(run));
  }
}

/** A slash command must be answered, even where its handler has nothing to say. */
function answerReply(run: Run, answer: string | Notice | undefined): Reply | undefined {
  const { lowered } = run;
  if (lowered !== undefined) return { notice: withLowered(answer, lowered), visibleTo: 'everyone' };
  if (typeof answer === 'string') return { notice: { body: answer }, visibleTo: 'everyone' };
  if (answer !== undefined) return { notice: answer, visibleTo: 'everyone' };
  return run.surface === 'slash' ? { notice: { body: 'Done.' }, visibleTo: 'caller' } : undefined;
}

/** Whoever asked for more than there may be is told what they got. */
function withLowered(answer: string | Notice | undefined, lowered: readonly Lowered[]): Notice {
  const notes = lowered.map(({ argument, to }) => `${argument} is lowered to ${to}, the most there may be.`);
  const notice = typeof answer === 'object' ? answer : { body: answer ?? '' };
  return { ...notice, details: [...(notice.details ?? []), ...notes] };
}

/** On text an unknown name may be meant for another bot: only one that is nearly ours is answered. */
function isSilent(run: Run, stop: Extract<Conclusion, { by: 'layer' }>): boolean {
  return stop.code === 'command.unknown' && stop.parameters.near.length === 0 && run.surface === 'text';
}

function problemReply(body: string, details?: readonly string[]): Reply {
  const notice: Notice = details === undefined ? { tone: 'problem', body } : { tone: 'problem', body, details };
  return { notice, visibleTo: 'caller' };
}

function message<C extends Code>({ code, parameters }: Coded<C>): string {
  return english[code](parameters as never);
}

/** More wrong arguments than these are not told at once. */
const MOST_TOLD = 5;

/** How the command is written where the input came from, with the prefix that was used, and one example. */
function howToWrite({ found, input, nameAt, surface }: Run): string[] {
  if (found === undefined) return [];
  const prefix = surface === 'slash' ? '/' : (input.text?.slice(0, nameAt) ?? '');
  const written = (args: string) => `${prefix}${found.name} ${args}`.trimEnd();
  const usage = `Usage: ${written(found.notation)}`;
  return found.example === '' ? [usage] : [usage, `Example: ${written(found.example)}`];
}

function deliver(run: Run, reply: Reply): MaybePromise<Delivery | undefined> {
  const { platform } = run;
  if (platform === undefined) return undefined;
  try {
    const delivering = platform.deliver(reply, run.input);
    return isThenable(delivering) ? delivering.then(delivered, (error) => undelivered(run, error)) : delivered();
  } catch (error) {
    return undelivered(run, error);
  }
}

const handedOver: Delivery = { delivered: true };

function delivered(): Delivery {
  return handedOver;
}

function undelivered({ services, found, platform }: Run, error: unknown): Delivery {
  const code = error instanceof PlatformError ? error.code : 'platform.failed';
  services.log.error({ code, command: found?.name, platform: platform?.name, error }, 'A reply was not delivered');
  return { delivered: false, code };
}

function settle(run: Run, stop: Conclusion, reply: Reply | undefined, delivery: Delivery | undefined): Outcome {
  settleLimits(run, stop.status === 'completed');
  const told = {
    command: run.found?.name,
    args: run.hasArgs ? run.args : undefined,
    reply,
    delivery,
    trace: run.recorder === undefined ? undefined : finishTrace(run, reply, delivery),
  };
  switch (stop.status) {
    case 'completed':
      return { status: 'completed', ...told };
    case 'invalid': {
      const { code, parameters } = stop.problems[0];
      return { status: 'invalid', ...told, problems: stop.problems, code, parameters } as Outcome;
    }
    case 'failed':
      return { ...told, ...stop };
    case 'refused': {
      if (stop.by === 'layer') return { ...told, ...stop };
      const { code, reason } = stop.refusal;
      return { ...told, status: 'refused', by: 'handler', code, parameters: { reason } };
    }
  }
}

function finishTrace({ recorder }: Run, reply: Reply | undefined, delivery: Delivery | undefined) {
  const said = () => (reply === undefined ? 'nothing to say' : `to ${reply.visibleTo}`);
  if (delivery?.delivered === false) recorder?.stopped('reply', () => `${delivery.code}: ${said()}`);
  else recorder?.passed('reply', said);
  recorder?.passed('settle');
  return recorder?.trace();
}
