/** Looking through commands and groups side by side. */
import { NameTable } from '../base/name-table.js';
import type { CompiledCommand, Entry } from './catalogue.js';

export function namesOf(entries: readonly Entry[]): NameTable<Entry> {
  const names = new NameTable<Entry>();
  for (const entry of entries) addNames(names, entry);
  return names;
}

/** By name and alias. */
export function addNames(names: NameTable<Entry>, entry: Entry): void {
  names.add([entry.word, ...entry.aliases], entry);
}

/** Whether there is anything in it that may be shown. */
export function isEntryShown(entry: Entry, isShown: (command: CompiledCommand) => boolean): boolean {
  return entry.kind === 'group' ? entry.commands.some(isShown) : isShown(entry);
}
