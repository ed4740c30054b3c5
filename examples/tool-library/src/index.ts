/** Mallet, the bot of the Saltmarsh Tool Library: its commands, its state and its demo data. */
import {
  type Clock,
  type Command,
  type CommandLayer,
  createCommandLayer,
  type GuildSettings,
  guildSettings,
  type Log,
  memoryStore,
  type Store,
  settingsCommands,
  systemClock,
} from 'taxeon';
import { japanese, polish } from 'taxeon/icu';
import type { World } from 'taxeon/stand-in';
import { borrow, giveBack, reserve, shelf } from './commands/lending.js';
import { announce, fine, induct } from './commands/stewarding.js';
import { stocktake } from './commands/stocktaking.js';
import { memoryShelves, type Tool, type ToolLibrary, toolLibrary } from './library.js';
import { type Scanners, simulatedScanner } from './scanner.js';

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
    stocktake(library),
  ];
}

/** What data/saltmarsh.yaml holds. */
export interface DemoData {
  readonly world: World;
  /** By guild id. */
  readonly guilds: Readonly<Record<string, GuildSettings>>;
  /** What each of the bot's own roles may do. */
  readonly roles: Readonly<Record<string, readonly string[]>>;
  /** By guild id; the first is the main one. */
  readonly tools: Readonly<Record<string, readonly Tool[]>>;
  /** How the scanners at the shelves behave, by guild id. */
  readonly scanners?: Scanners;
}

export interface MalletOptions {
  readonly clock?: Clock;
  readonly log?: Log;
  /** Where limits and settings are kept; this process's memory by default. */
  readonly store?: Store;
}

/** Mallet on the demo data, with shelves and settings in memory. */
export function mallet(data: Omit<DemoData, 'world'>, options: MalletOptions = {}): CommandLayer {
  const { guilds, roles, tools, scanners = {} } = data;
  const { log, store = memoryStore(options), clock = systemClock } = options;
  const library = toolLibrary(memoryShelves(tools), simulatedScanner(scanners, clock));
  const settings = guildSettings({ guilds, store, ...(log === undefined ? {} : { log }) });
  const managing = settingsCommands(settings, { requires: ({ caller }) => [caller.can('manage')] });
  return createCommandLayer({
    commands: [...commands(library, Object.keys(tools)[0] ?? ''), ...managing],
    prefixes: ['!'],
    settings,
    roles,
    languages: [polish(), japanese()],
    usage: true,
    ...options,
    store,
  });
}
