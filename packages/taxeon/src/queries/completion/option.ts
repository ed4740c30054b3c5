/** Completing an option of a slash command. */
import { foldName } from '../../base/text.js';
import type { CompiledCommand } from '../../catalogue/catalogue.js';
import { readOptions } from '../../reading/read-options.js';
import { Reading } from '../../reading/reading.js';
import type { Slot } from '../../reading/slots.js';
import { quotedAsNeeded } from './line.js';
import {
  type CompletionView,
  isForMore,
  MOST_READ,
  namedIn,
  offeredFor,
  type Suggestion,
  suggestion,
} from './offered.js';

/** For a slash command: the option under the cursor, and what was given for the others. */
export async function completeOption(
  view: CompletionView,
  command: CompiledCommand,
  options: Readonly<Record<string, unknown>>,
  name: string,
): Promise<readonly Suggestion[]> {
  const slot = command.slots.all.find((one) => one.name === name);
  if (slot === undefined || !view.isShown(command)) return [];
  const { [name]: given, ...others } = options;
  const typed = typeof given === 'string' || typeof given === 'number' ? String(given) : '';
  const reading = new Reading(command.slots, view.context, false);
  await readOptions(others, reading);
  const { head, part, given: had } = slot.kind.item === undefined ? oneValue(typed) : lastOfList(typed);
  const found: Suggestion[] = [];
  for (const one of (await offeredFor(view, slot, part, reading.args(), had)).slice(0, MOST_READ)) {
    const written = head + (head === '' ? one.value : quotedInList(one.value));
    if (await isOption(view, command, slot, written))
      found.push(suggestion({ label: one.value, ...one }, written, { start: 0, end: typed.length }));
    if (found.length === view.most) break;
  }
  return found;
}

function oneValue(typed: string) {
  return { head: '', part: typed, given: new Set<string>() };
}

/** What of the one text that a slash command has for a list is typed at the moment, behind the last comma. */
function lastOfList(typed: string) {
  const at = typed.lastIndexOf(',') + 1;
  const given = new Set(
    typed
      .slice(0, at)
      .split(',')
      .map((text) => foldName(text.trim().replace(/^"|"$/g, ''))),
  );
  return { head: at === 0 ? '' : `${typed.slice(0, at)} `, part: typed.slice(at).trimStart(), given };
}

function quotedInList(value: string): string {
  return /^[\p{L}\p{N} ]+$/u.test(value) ? value : quotedAsNeeded(value);
}

/** Whether a value reads as this option. */
async function isOption(view: CompletionView, command: CompiledCommand, slot: Slot, value: string): Promise<boolean> {
  const { name } = slot;
  const reading = new Reading(command.slots, view.context, false);
  await readOptions({ [name]: value }, reading);
  if (!(await view.mayName(command, slot, namedIn(reading, slot)))) return false;
  return !(reading.problems ?? []).some(
    (problem) => 'argument' in problem.parameters && problem.parameters.argument === name && !isForMore(problem),
  );
}
