/** Finding and opening the bot that a command is about. */
import { existsSync } from 'node:fs';
import { register } from 'node:module';
import { resolve } from 'node:path';
import { pathToFileURL } from 'node:url';
import type { Clock, Log } from 'taxeon';
import type {
  FolderConfig,
  OpeningConfig,
  RegistrationConfig,
  Rehearsal,
  Surroundings,
  TaxeonConfig,
} from 'taxeon/testing';
import { messageOf, UsageError } from './errors.js';

const configNames = ['taxeon.config.ts', 'taxeon.config.js', 'taxeon.config.mjs'];
/** Where this package is built to, wherever the bundler put this very file. */
const built = new URL('dist/', import.meta.resolve('@taxeon/command/package.json'));

/** Files of the demo bot, which ships with the command. */
export function demoFile(name: string): URL {
  return new URL(`demo/${name}`, built);
}

/**
 * Opens the configured bot: `path`, or the configuration in this folder, or the demo's.
 *
 * @throws UsageError naming the file and what is wrong with it.
 */
export async function openBot(path: string | undefined, clock: Clock): Promise<Rehearsal> {
  return openFrom(await findConfig(path), { clock, log: quiet });
}

/** A bot with its way of registering, and the names of both for sentences. */
export interface OpenedBot extends Rehearsal {
  readonly registration: RegistrationConfig;
}

/** @throws UsageError where the configuration has no `registration`, too. */
export async function openForRegistering(path: string | undefined, clock: Clock): Promise<OpenedBot> {
  const found = await findConfig(path);
  const { config, name } = found;
  if (config.registration === undefined) {
    throw new UsageError(`${name} has no \`registration\`; say in it how slash commands are registered.`);
  }
  return { ...(await openFrom(found, { clock, log: quiet })), registration: config.registration };
}

interface FoundConfig {
  readonly config: TaxeonConfig;
  readonly name: string;
  readonly url: URL;
}

async function findConfig(path: string | undefined): Promise<FoundConfig> {
  const file = path === undefined ? configHere() : configAt(path);
  if (file === undefined) return load(demoFile('taxeon.config.js'), 'the demo');
  if (/\.[cm]?ts$/.test(file)) register(new URL('typescript-hooks.js', built));
  return load(pathToFileURL(file), path ?? file);
}

/** What the bot logs would stand between the lines that were asked for. */
const quiet: Log = { error: () => undefined, warn: () => undefined };

export async function openDemo(surroundings: Surroundings): Promise<Rehearsal> {
  return openFrom(await load(demoFile('afternoon.config.js'), 'the demo'), surroundings);
}

function configHere(): string | undefined {
  return configNames.map((name) => resolve(name)).find((file) => existsSync(file));
}

function configAt(path: string): string {
  const file = resolve(path);
  if (!existsSync(file)) throw new UsageError(`There is no configuration at ${path}; name a file that exists.`);
  return file;
}

async function load(url: URL, name: string): Promise<FoundConfig> {
  let config: TaxeonConfig | undefined;
  try {
    config = ((await import(url.href)) as { default?: TaxeonConfig }).default;
  } catch (error) {
    throw new UsageError(`${name} does not load: ${messageOf(error)}`, { cause: error });
  }
  const { open, modules } = (config ?? {}) as Partial<OpeningConfig & FolderConfig>;
  if (config === undefined || (typeof open === 'function') === (typeof modules === 'string')) {
    throw new UsageError(
      `${name} has no default export made with defineConfig({ open }) or defineConfig({ modules, world }); add one.`,
    );
  }
  return { config, name, url };
}

async function openFrom({ config, name, url }: FoundConfig, surroundings: Surroundings): Promise<Rehearsal> {
  try {
    return await ('open' in config ? config.open(surroundings) : openFolder(config, url, surroundings));
  } catch (error) {
    throw new UsageError(`${name} does not open its bot: ${messageOf(error)}`, { cause: error });
  }
}

async function openFolder(config: FolderConfig, url: URL, surroundings: Surroundings): Promise<Rehearsal> {
  const [{ loadModules }, { createCommandLayer }, { createStandIn }] = await Promise.all([
    import('taxeon/modules'),
    import('taxeon'),
    import('taxeon/stand-in'),
  ]);
  const services = config.services?.(surroundings);
  const modules = await loadModules(new URL(config.modules, url), { services });
  const layer = createCommandLayer({ ...(config.layer?.(surroundings) ?? surroundings), commands: modules.commands });
  return { layer, platform: createStandIn(config.world, surroundings), modules };
}
