/** Names like one that was typed, of what the caller may be shown. */

import { foundOrMade } from '../base/bounded-map.js';
import type { NameTable } from '../base/name-table.js';
import type { CompiledCommand, CompiledGroup, Entry } from '../catalogue/catalogue.js';
import { isEntryShown } from '../catalogue/entries.js';
import { barredFrom } from './access.js';
import type { Heard } from './state.js';

/** Whether a command may be shown. */
export type Shows = (command: CompiledCommand) => boolean;

/** What a call would get as far as its arguments: whether the bot is able to is told to who may ask for it. */
export function showsTo(heard: Heard): Shows {
  const known = new Map<CompiledCommand, boolean>();
  return (command) => foundOrMade(known, command, () => barredFrom(command, heard) === undefined);
}

/**
 * The nearest names, with the group's name in front.
 *
 * @param group where it was looked for; everywhere outside of groups by default
 */
export function nearIn(heard: Heard, typed: string, group?: CompiledGroup): readonly string[] {
  const near = nearShown((group ?? heard.catalogue).names, typed, showsTo(heard));
  return near.map(([name]) => (group === undefined ? name : `${group.name} ${name}`));
}

const MOST_NEAR = 3;
/** A person who may run none of these is told no name. */
const MOST_LOOKED_AT = 100;

/** A few names that may be shown, the nearest first, with what has them. */
export function nearShown(names: NameTable<Entry>, typed: string, isShown: Shows): (readonly [string, Entry])[] {
  const near: (readonly [string, Entry])[] = [];
  let lookedAt = 0;
  for (const one of names.near(typed)) {
    if (isEntryShown(one[1], isShown)) near.push(one);
    lookedAt += 1;
    if (near.length === MOST_NEAR || lookedAt === MOST_LOOKED_AT) break;
  }
  return near;
}
