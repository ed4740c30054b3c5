/** Mallet, the bot of the Saltmarsh Tool Library: its commands, its state and its demo data. */
import { type Clock, type Command, type CommandLayer, createCommandLayer, type Log } from 'taxeon';
import type { World } from 'taxeon/stand-in';
import { borrow, giveBack, reserve, shelf } from './commands/lending.js';
import { announce, fine, induct } from './commands/stewarding.js';
import { memoryShelves, type Tool, type ToolLibrary, toolLibrary } from './library.js';

export { memoryShelves, type ShelfStore, type Tool, type ToolLibrary, toolLibrary } from './library.js';

/** All of Mallet's commands, for one library whose main guild is `home`. */
export function commands(library: ToolLibrary, home: string): readonly Command[] {
  return [
    borrow(library),
    giveBack(library),
    reserve(library),
    shelf(library, home),
    induct(library),
    fine(library),
    announce(),
  ];
}

/** What data/saltmarsh.yaml holds. */
export interface DemoData {
  readonly world: World;
  /** By guild id. */
  readonly prefixes: Readonly<Record<string, readonly string[]>>;
  /** By guild id; the first is the main one. */
  readonly tools: Readonly<Record<string, readonly Tool[]>>;
}

export interface MalletOptions {
  readonly clock?: Clock;
  readonly log?: Log;
}

/** Mallet on the demo data, with the shelves in memory. */
export function mallet(
  { prefixes, tools }: Pick<DemoData, 'prefixes' | 'tools'>,
  options: MalletOptions = {},
): CommandLayer {
  const library = toolLibrary(memoryShelves(tools));
  const guilds = Object.fromEntries(Object.entries(prefixes).map(([id, own]) => [id, { prefixes: own }]));
  return createCommandLayer({
    commands: commands(library, Object.keys(tools)[0] ?? ''),
    prefixes: ['!'],
    guilds,
    ...options,
  });
}
