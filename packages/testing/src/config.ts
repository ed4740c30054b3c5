/** What `taxeon.config.ts` holds: how a bot is opened on a simulated platform. */
import type { Clock, CommandLayer, LayerOptions, Log, Store } from 'taxeon';
import type { Modules } from 'taxeon/modules';
import type { Registrar } from 'taxeon/platform';
import type { StandIn } from './stand-in/stand-in.js';
import type { World } from './stand-in/world.js';

/** A bot ready to be tried: its layer and the simulated platform it lives on. */
export interface Rehearsal {
  readonly layer: CommandLayer;
  readonly platform: StandIn;
  /** Those that its commands come from: opened where the bot is played, and only then. */
  readonly modules?: Pick<Modules, 'open'>;
  /** What may happen in a tryout besides what people do, by name. */
  readonly events?: Readonly<Record<string, () => unknown>>;
  /** What a tryout can look at besides what is said, by name: plain data. */
  readonly state?: Readonly<Record<string, () => unknown>>;
}

/** What a bot under trial is given in place of the real ones. */
export interface Surroundings {
  readonly clock: Clock;
  readonly log: Log;
  /** Where to keep what is counted; the bot's own choice where it is absent. */
  readonly store?: Store;
  /** What failures are found again by, in place of something random: equal runs give equal ones. */
  readonly reference?: () => string;
}

/** How the bot's slash commands are registered. */
export interface RegistrationConfig {
  /**
   * The environment variable that holds what the platform wants to know the bot by; the same name with `_FILE`
   * behind it may name a file that holds it.
   */
  readonly credential: string;
  /** Where a simulated platform keeps what it holds, for people to know; a path. */
  readonly keptIn?: string;
  open(given: { readonly credential: string; readonly clock: Clock }): Registrar | Promise<Registrar>;
}

/** A bot that opens itself. */
export interface OpeningConfig {
  readonly registration?: RegistrationConfig;
  /** Opens the bot afresh. Everything in it should read time from `clock`, and log to `log`. */
  open(given: Surroundings): Rehearsal | Promise<Rehearsal>;
}

/** A bot whose commands are the modules of a folder. */
export interface FolderConfig {
  readonly registration?: RegistrationConfig;
  /** The folder, from the configuration's own on. */
  readonly modules: string;
  /** Who is there: the simulated platform's people and guilds. */
  readonly world: World;
  /** What modules get whose default export is a function. */
  services?(given: Surroundings): unknown;
  /** How the layer is made, besides its commands; `given` is to be passed on. */
  layer?(given: Surroundings): Omit<LayerOptions, 'commands'>;
}

/** What a `taxeon.config.ts` exports. */
export type TaxeonConfig = OpeningConfig | FolderConfig;

/**
 * Gives the default export of `taxeon.config.ts` its type.
 *
 * @example
 * export default defineConfig({
 *   modules: './commands/',
 *   world,
 *   layer: (given) => ({ ...given, prefixes: ['!'] }),
 * });
 *
 * @example
 * export default defineConfig({
 *   open: ({ clock, log }) => ({ layer: openBot({ clock, log }), platform: standIn(world, { clock }) }),
 * });
 */
export function defineConfig(config: TaxeonConfig): TaxeonConfig {
  return config;
}
