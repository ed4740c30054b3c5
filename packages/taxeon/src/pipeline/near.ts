/** Names like one that was typed, of what the caller may be shown. */
import type { CompiledCommand, CompiledGroup } from '../catalogue/catalogue.js';
import { isEntryShown } from '../catalogue/entries.js';
import type { Heard } from './state.js';
import { accessProblem, reachProblem } from './viewer.js';

/** Whether a command may be shown. */
export type Shows = (command: CompiledCommand) => boolean;

/** What a call would get as far as its arguments: whether the bot is able to is told to who may ask for it. */
export function showsTo(heard: Heard): Shows {
  const known = new Map<CompiledCommand, boolean>();
  return (command) => {
    let isShown = known.get(command);
    if (isShown === undefined) {
      isShown = reachProblem(command, heard) === undefined && accessProblem(command, heard) === undefined;
      known.set(command, isShown);
    }
    return isShown;
  };
}

/**
 * The nearest names, with the group's name in front.
 *
 * @param group where it was looked for; everywhere outside of groups by default
 */
export function nearIn(heard: Heard, typed: string, group?: CompiledGroup): readonly string[] {
  const isShown = showsTo(heard);
  return (group ?? heard.catalogue).names
    .near(typed)
    .filter(([, entry]) => isEntryShown(entry, isShown))
    .slice(0, MOST_NEAR)
    .map(([name]) => (group === undefined ? name : `${group.name} ${name}`));
}

const MOST_NEAR = 3;
