/** Mallet, the bot of the Oddmere Tool Library: its commands, its state and its demo data. */

import { japanese, polish } from '@taxeon/icu';
import type { World } from '@taxeon/testing';
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
  type LayerOptions,
  type Log,
  memoryStore,
  type Store,
  settingsCommands,
  systemClock,
} from 'taxeon';
import { askInChat } from 'taxeon/asking';
import { allCommands } from './all-commands.js';
import { type Loan, memoryShelves, type Tool, toolLibrary } from './library.js';
import { type Scanners, simulatedScanner } from './scanner.js';
import type { Board, Services } from './services.js';

export { memoryShelves, type ShelfStore, type Tool, type ToolLibrary, toolLibrary } from './library.js';
export type { Board, Services } from './services.js';

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
  /** Where what is late is posted each morning. */
  readonly boards?: readonly Board[];
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
  /** Finds failures again in the log; something random by default. */
  readonly reference?: () => string;
  /** Where a second delivery is recognised; in memory by default. */
  readonly repeats?: NonNullable<LayerOptions['repeats']>;
  /** Runs around every handler. */
  readonly around?: NonNullable<LayerOptions['around']>;
  /** What the bot's own console may do; nothing by default. */
  readonly console?: NonNullable<LayerOptions['console']>;
}

/** Mallet with its parts, to look at them or change them. */
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
  const parts = partsOf(data, options);
  const commands = (layer: CommandLayer) => [...allCommands(parts.services), ...parts.ready(layer)];
  const layer = layerOf(data, parts, commands, options);
  return { layer, settings: parts.settings, commands: commands(layer) };
}

/** What Mallet is put together from, besides its commands. */
export interface MalletParts {
  readonly services: Services;
  readonly store: Store;
  readonly settings: GuildSettingsBook;
  /** Commands that come ready with the library. */
  readonly ready: (layer: CommandLayer) => readonly CommandOrGroup[];
}

export function partsOf(data: Omit<DemoData, 'world'>, options: MalletOptions): MalletParts {
  const { guilds, tools, scanners = {}, loans = {}, boards = [] } = data;
  const { log, store = memoryStore(options), clock = systemClock } = options;
  const library = toolLibrary(memoryShelves(tools, dueAt(loans)), simulatedScanner(scanners, clock));
  const settings = guildSettings({ guilds, store, ...(log === undefined ? {} : { log }) });
  const managing = settingsCommands(settings, { requires: ({ caller }) => [caller.can('manage')] });
  return {
    services: { library, home: Object.keys(tools)[0] ?? '', boards },
    store,
    settings,
    ready: (layer) => [helpCommand(layer, { aliases: ['how'] }), ...managing],
  };
}

export function layerOf(
  { roles }: Pick<DemoData, 'roles'>,
  { store, settings }: MalletParts,
  commands: (layer: CommandLayer) => readonly CommandOrGroup[],
  options: MalletOptions,
): CommandLayer {
  return createCommandLayer({
    commands,
    prefixes: ['!'],
    settings,
    roles,
    program: { can: ['remind'] },
    scopes: { staging: ['stand-in/workbench'] },
    languages: [polish(), japanese()],
    usage: countUsage,
    asking: askInChat(),
    ...options,
    store,
  });
}

function dueAt(loans: NonNullable<DemoData['loans']>): Readonly<Record<string, readonly Loan[]>> {
  return Object.fromEntries(
    Object.entries(loans).map(([guild, all]) => [
      guild,
      all.map((loan) => ({ ...loan, until: Date.parse(loan.until) })),
    ]),
  );
}
