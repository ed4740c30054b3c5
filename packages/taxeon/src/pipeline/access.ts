/** Stage 5: what the caller alone decides, so that who may not run a command learns nothing of its arguments. */
import { isExcused } from '../access/check.js';
import type { StageInWords, Step } from './stage.js';
import type { Admitted, Resolved } from './state.js';
import { barred } from './stop.js';
import { accessProblem } from './viewer.js';

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
