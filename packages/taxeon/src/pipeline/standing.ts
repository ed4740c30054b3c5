/** Stage 7: what needs the arguments or the bot: rank, the bot's permission, targets, conditions, and arguments that go together. */

import type { AccessRefusal } from '../access/algebra.js';
import { checkStanding, type Judge } from '../access/check.js';
import { andThen, isThenable, type MaybePromise, patiently } from '../base/thenable.js';
import { Blame, isBlame } from '../commands/call.js';
import type { StageInWords, Step } from './stage.js';
import type { Read } from './state.js';
import { barred, refused, type Stop } from './stop.js';

export const standing: Step<Read, Read, Judge> = {
  kind: 'step',
  name: 'standing',
  // Each thing that is asked has a patience of its own.
  waitsItself: true,
  take: judgeStanding,
  passed({ command }) {
    const requirements = command.standing.map(({ requirement }) => requirement.english.plain);
    const together = command.together === undefined ? [] : ['the arguments go together'];
    return [...requirements, ...together].join('; ') || 'nothing else is required';
  },
};

export const standingInWords: StageInWords = {
  does: 'decides what needs arguments or the bot: rank, the bot’s permission, targets, own conditions, `together`',
  stopsWith: [
    'permission.rank',
    'permission.bot',
    'permission.target',
    'requirement.failed',
    'callback.failed',
    'waiting',
    'answer.none',
    'answer.stopped',
  ],
};

function judgeStanding(state: Read, judge: Judge): MaybePromise<Read | Stop> {
  const { asking } = state.heard;
  const checked = decideStanding(state, judge);
  return asking === undefined || state.command.confirm === undefined ? checked : asking.confirm(checked);
}

function decideStanding(state: Read, judge: Judge): MaybePromise<Read | Stop> {
  const { heard, command } = state;
  return andThen(checkStanding(command, heard, state, heard.platform?.directory, judge), (settled) =>
    stopOrPass(state, judge, settled),
  );
}

function stopOrPass(state: Read, judge: Judge, refusal: AccessRefusal | undefined): MaybePromise<Read | Stop> {
  return refusal === undefined ? checkTogether(state, judge) : barred(refusal);
}

function checkTogether(state: Read, { clock, patienceMs }: Judge): MaybePromise<Read | Stop> {
  const { command, args } = state;
  if (command.together === undefined) return state;
  const blameOrPass = (blame: Blame | undefined) =>
    isBlame(blame)
      ? refused({ code: 'requirement.failed', parameters: { argument: blame.argument, reason: blame.reason } })
      : state;
  const blame = command.together(args, (argument, reason) => new Blame(argument, reason));
  return isThenable(blame) ? patiently(clock, blame, patienceMs).then(blameOrPass) : blameOrPass(blame);
}
