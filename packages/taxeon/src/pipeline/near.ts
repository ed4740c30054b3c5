/** Names like one that was typed, of what the caller may be shown. */
import { lookUpBot } from '../access/check.js';
import { isThenable, type MaybePromise } from '../base/thenable.js';
import type { CompiledCommand, CompiledGroup } from '../catalogue/catalogue.js';
import { isEntryShown, nearEntries } from '../catalogue/entries.js';
import type { Member } from '../contract/actors.js';
import type { Heard } from './state.js';
import { mayRun, reachProblem, standingOf } from './viewer.js';

/** Whether a command may be shown, once it is known how the bot stands here. */
export type Shows = (command: CompiledCommand) => boolean;

/** Asks the platform for the bot only once; synchronous where the platform is. */
export function showsTo(heard: Heard): MaybePromise<Shows> {
  const shows = (bot: Member | 'absent'): Shows => {
    const known = new Map<CompiledCommand, boolean>();
    return (command) => {
      let isShown = known.get(command);
      if (isShown === undefined) {
        isShown = reachProblem(command, heard) === undefined && mayRun(standingOf(command, heard, bot));
        known.set(command, isShown);
      }
      return isShown;
    };
  };
  const bot = lookUpBot(heard.place, heard.platform?.directory);
  return isThenable(bot) ? bot.then(shows) : shows(bot);
}

/**
 * The nearest names, with the group's name in front.
 *
 * @param group where it was looked for; everywhere outside of groups by default
 */
export function nearIn(heard: Heard, typed: string, group?: CompiledGroup): MaybePromise<readonly string[]> {
  const near = nearEntries(typed, group?.members ?? heard.catalogue.entries);
  if (near.length === 0) return [];
  const pick = (shows: Shows) =>
    near
      .filter(([, entry]) => isEntryShown(entry, shows))
      .slice(0, MOST_NEAR)
      .map(([name]) => (group === undefined ? name : `${group.name} ${name}`));
  const shows = showsTo(heard);
  return isThenable(shows) ? shows.then(pick) : pick(shows);
}

const MOST_NEAR = 3;
