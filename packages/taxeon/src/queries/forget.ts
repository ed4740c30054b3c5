/** Forgetting a person: what a bot keeps of them in its store. */

import { withdrawAll } from '../asking/question-keys.js';
import { shown } from '../base/fields.js';
import { joinedParts } from '../base/text.js';
import { isKey, type Key, partsOf } from '../contract/key.js';
import type { CommandLayer } from '../layer/command-layer.js';
import { insideOf } from '../layer/inside.js';
import { liveUsesIn } from '../limits/live.js';

/** What was forgotten. */
export interface Forgotten {
  /** Cooldowns and running limits in which uses of theirs counted. */
  readonly limits: number;
  /** Rules of guilds about them. */
  readonly rules: number;
  /** Questions that they are asked. */
  readonly questions: number;
}

/**
 * Removes what is kept of a person: their uses of cooldowns, the rules of guilds about them, and what they are asked in
 * the chat, with what they had answered. What is counted under
 * a key of the bot's own is found where that key is the person's id, or ends with a space and the id.
 *
 * @param person a platform's name and an id of that platform, such as `irc/odalys`
 * @throws TypeError for what is no key, and whatever the store throws; what was removed by then stays removed
 *
 * @example
 * await forgetPerson(layer, 'irc/odalys');
 */
export async function forgetPerson(layer: CommandLayer, person: Key): Promise<Forgotten> {
  if (!isKey(person)) throw new TypeError(`${shown(person)} is no key; write it as 'irc/odalys'`);
  const { guilds, asking } = insideOf(layer);
  const { store } = asking;
  const { platform, id } = partsOf(person);
  const own = await liveUsesIn(store, (one) => one.id.startsWith(`${platform}/`) && isOf(one.key, id));
  for (const one of own) await store.reset(one.id, one.key);
  const questions = await withdrawAll(store, platform, id);
  return { limits: own.length, rules: await guilds.forget(person), questions };
}

function isOf(key: string, person: string): boolean {
  const [, own] = joinedParts(key);
  return own === undefined ? key === person || key.endsWith(` ${person}`) : own === person;
}
