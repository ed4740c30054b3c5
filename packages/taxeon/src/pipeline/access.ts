/** Stage 5: what the caller alone decides, so that who may not run a command learns nothing of its arguments. */

import type { AccessRefusal } from '../access/algebra.js';
import { checkCaller, isExcused } from '../access/check.js';
import type { CompiledCommand } from '../catalogue/catalogue.js';
import type { Coded } from '../contract/codes.js';
import { firstProblem, reachProblem } from './reach.js';
import type { StageInWords, Step } from './stage.js';
import type { Admitted, Resolved, Viewer } from './state.js';
import { barred } from './stop.js';

export const access: Step<Resolved, Admitted> = {
  kind: 'step',
  name: 'access',
  take(state) {
    const refusal = accessProblem(state.command, state.heard);
    return refusal === undefined ? state : barred(refusal);
  },
  passed({ command, heard }) {
    const own = command.requires.filter(({ byCaller }) => byCaller);
    if (own.length === 0) return 'nothing is asked of the caller alone';
    const inWords = own.map(({ requirement }) => requirement.english.plain).join('; ');
    return isExcused(command, heard) ? `${inWords}; granted` : inWords;
  },
};

export const accessInWords: StageInWords = {
  does: 'refuses what is already no, without arguments and bot',
  stopsWith: ['permission.caller'],
};

/** Why the caller alone may not run it. */
function accessProblem(command: CompiledCommand, viewer: Viewer): AccessRefusal | undefined {
  const { overviewOf } = command;
  if (overviewOf === undefined) return checkCaller(command, viewer);
  return firstProblem(overviewOf, (one) =>
    reachProblem(one, viewer) === undefined ? checkCaller(one, viewer) : undefined,
  );
}

/** Why a person may not reach or run a command where they are; nothing where they may ask for it. */
export function barredFrom(
  command: CompiledCommand,
  viewer: Viewer,
): AccessRefusal | Coded<'command.unavailable' | 'place.wrong'> | undefined {
  return reachProblem(command, viewer) ?? accessProblem(command, viewer);
}
