/** Stage 4: whether the command is reached where the caller is. */
import { calledName } from '../base/text.js';
import type { StageInWords, Step } from './stage.js';
import type { Resolved } from './state.js';
import { refused } from './stop.js';
import { reachProblem } from './viewer.js';

export const reach: Step<Resolved, Resolved> = {
  kind: 'step',
  name: 'reach',
  take(state) {
    const problem = reachProblem(state.command, state.heard);
    return problem === undefined ? state : refused(problem);
  },
  passed: ({ heard: { surface, place } }) => `${surface}, ${whereabouts(place)}`,
};

export const reachInWords: StageInWords = {
  does: 'looks whether the command is for this surface, guild and place, and not switched off here',
  stopsWith: ['place.wrong', 'command.unavailable'],
};

function whereabouts(place: Resolved['heard']['place']): string {
  switch (place.kind) {
    case 'guild':
      return `in ${calledName(place.guild)}, ${calledName(place.channel)}`;
    case 'direct':
      return 'in a direct message';
    case 'console':
      return 'in no guild';
  }
}
