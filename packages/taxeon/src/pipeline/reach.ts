/** Stage 4: whether the command is reached where the caller is. */
import { calledName } from '../base/text.js';
import type { CompiledCommand, CompiledGroup, CompiledScope } from '../catalogue/catalogue.js';
import type { Coded, CodeParameters } from '../contract/codes.js';
import { keyOf } from '../contract/key.js';
import type { StageInWords, Step } from './stage.js';
import type { Resolved, Viewer } from './state.js';
import { refused } from './stop.js';

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

/** Why a command is not reached where a person is. */
export function reachProblem(
  { ids, name, in: where, surfaces, scope, overviewOf }: CompiledCommand,
  viewer: Pick<Viewer, 'surface' | 'place' | 'platformName' | 'settings'>,
): Coded<'command.unavailable' | 'place.wrong'> | undefined {
  const { surface, place, settings } = viewer;
  if (overviewOf !== undefined) return firstProblem(overviewOf, (command) => reachProblem(command, viewer));
  if (!surfaces.has(surface)) return unavailable(name, 'surface', surface);
  if (where !== 'anywhere' && where !== place.kind) {
    return { code: 'place.wrong', parameters: { command: name, allowed: where, atConsole: surface === 'console' } };
  }
  if (!isInScope(scope, viewer)) return unavailable(name, 'scope', surface);
  return settings.isOff(ids) ? unavailable(name, 'off', surface) : undefined;
}

/** The console and the bot's own code are in no guild that a command could be registered for. */
export function isInScope(
  { isEverywhere, guilds }: CompiledScope,
  { surface, place, platformName }: Pick<Viewer, 'surface' | 'place' | 'platformName'>,
): boolean {
  if (isEverywhere || surface === 'console' || surface === 'program') return true;
  return place.kind === 'guild' && guilds.has(keyOf(platformName, place.guild.id));
}

export function unavailable(
  command: string,
  because: CodeParameters['command.unavailable']['because'],
  surface: Viewer['surface'],
): Coded<'command.unavailable'> {
  return { code: 'command.unavailable', parameters: { command, because, surface } };
}

/** A group called alone is refused only where all of its commands are. */
export function firstProblem<Problem>(
  { commands }: CompiledGroup,
  problemOf: (command: CompiledCommand) => Problem | undefined,
): Problem | undefined {
  let first: Problem | undefined;
  for (const command of commands) {
    const problem = problemOf(command);
    if (problem === undefined) return undefined;
    first ??= problem;
  }
  return first;
}
