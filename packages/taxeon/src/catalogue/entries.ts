/** Looking through commands and groups side by side. */
import { nearNames } from '../base/near.js';
import { foldName } from '../base/text.js';
import type { CompiledCommand, Entry } from './catalogue.js';

/** By name and alias, folded. */
export function entriesByName(entries: readonly Entry[]): Map<string, Entry> {
  const byName = new Map<string, Entry>();
  for (const entry of entries) {
    for (const name of [entry.word, ...entry.aliases]) byName.set(foldName(name), entry);
  }
  return byName;
}

/** Whether there is anything in it that may be shown. */
export function isEntryShown(entry: Entry, isShown: (command: CompiledCommand) => boolean): boolean {
  return entry.kind === 'group' ? entry.commands.some(isShown) : isShown(entry);
}

/** Names and aliases like one that was typed, the nearest first, with what has them. */
export function nearEntries(typed: string, entries: readonly Entry[]): readonly (readonly [string, Entry])[] {
  const byName = entriesByName(entries);
  return nearNames(foldName(typed), byName.keys(), byName.size).map((name) => [name, byName.get(name) as Entry]);
}
