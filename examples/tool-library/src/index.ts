/** Mallet, the bot of the Oddmere Tool Library: its commands, its state and its demo data. */
import {
  type Clock,
  type CommandLayer,
  type CommandOrGroup,
  countUsage,
  createCommandLayer,
  type GuildSettings,
  type GuildSettingsBook,
  guildSettings,
  helpCommand,
  type Key,
  type Log,
  memoryStore,
  type Store,
  settingsCommands,
  systemClock,
} from 'taxeon';
import { askInChat } from 'taxeon/asking';
import { japanese, polish } from 'taxeon/icu';
import type { World } from 'taxeon/stand-in';
import { borrow, giveBack, reserve, shelf } from './commands/lending.js';
import { overdue } from './commands/overdue.js';
import { announce, fine, induct } from './commands/stewarding.js';
import { stocktake } from './commands/stocktaking.js';
import { type Loan, memoryShelves, type Tool, type ToolLibrary, toolLibrary } from './library.js';
import { type Scanners, simulatedScanner } from './scanner.js';

export { memoryShelves, type ShelfStore, type Tool, type ToolLibrary, toolLibrary } from './library.js';

/** All of Mallet's commands, for one library whose main guild is `home`. */
export function commands(library: ToolLibrary, home: string, layer: CommandLayer): readonly CommandOrGroup[] {
  return [
    borrow(library),
    giveBack(library),
    reserve(library),
    shelf(library, home),
    induct(library),
    fine(library),
    announce(),
    stocktake(library),
    overdue(library),
    helpCommand(layer, { aliases: ['how'] }),
  ];
}

/** What data/oddmere.yaml holds. */
export interface DemoData {
  readonly world: World;
  /** By guild id. */
  readonly guilds: Readonly<Record<string, GuildSettings>>;
  /** What each of the bot's own roles may do. */
  readonly roles: Readonly<Record<string, readonly string[]>>;
  /** By guild id; the first is the main one. */
  readonly tools: Readonly<Record<string, readonly Tool[]>>;
  /** What each token may do where commands are registered. */
  readonly tokens?: Readonly<Record<string, readonly string[]>>;
  /** What is lent, by guild id; the time it is due in ISO 8601. */
  readonly loans?: Readonly<Record<string, readonly (Omit<Loan, 'until'> & { readonly until: string })[]>>;
  /** How the scanners at the shelves behave, by guild id. */
  readonly scanners?: Scanners;
}

export interface MalletOptions {
  readonly clock?: Clock;
  readonly log?: Log;
  /** Where limits and settings are kept; this process's memory by default. */
  readonly store?: Store;
  /** Keys of those who run the bot: `irc/odalys`. */
  readonly owners?: readonly Key[];
}

/** Mallet with its parts, for whoever wants to look at them or change them. */
export interface OpenedMallet {
  readonly layer: CommandLayer;
  readonly settings: GuildSettingsBook;
  readonly commands: readonly CommandOrGroup[];
}

/** Mallet on the demo data, with shelves and settings in memory. */
export function mallet(data: Omit<DemoData, 'world'>, options: MalletOptions = {}): CommandLayer {
  return openMallet(data, options).layer;
}

export function openMallet(data: Omit<DemoData, 'world'>, options: MalletOptions = {}): OpenedMallet {
  const { guilds, roles, tools, scanners = {}, loans = {} } = data;
  const { log, store = memoryStore(options), clock = systemClock } = options;
  const library = toolLibrary(memoryShelves(tools, dueAt(loans)), simulatedScanner(scanners, clock));
  const settings = guildSettings({ guilds, store, ...(log === undefined ? {} : { log }) });
  const managing = settingsCommands(settings, { requires: ({ caller }) => [caller.can('manage')] });
  const home = Object.keys(tools)[0] ?? '';
  const all = (layer: CommandLayer) => [...commands(library, home, layer), ...managing];
  const layer = createCommandLayer({
    commands: all,
    prefixes: ['!'],
    settings,
    roles,
    scopes: { staging: ['stand-in/workbench'] },
    languages: [polish(), japanese()],
    usage: countUsage,
    asking: askInChat(),
    ...options,
    store,
  });
  return { layer, settings, commands: all(layer) };
}

function dueAt(loans: NonNullable<DemoData['loans']>): Readonly<Record<string, readonly Loan[]>> {
  return Object.fromEntries(
    Object.entries(loans).map(([guild, all]) => [
      guild,
      all.map((loan) => ({ ...loan, until: Date.parse(loan.until) })),
    ]),
  );
}
