/** Finding and opening the bot that a command is about. */
import { existsSync } from 'node:fs';
import { register } from 'node:module';
import { resolve } from 'node:path';
import { pathToFileURL } from 'node:url';
import type { Clock } from '../base/time.js';
import type { Log } from '../contract/log.js';
import type { RegistrationConfig, Rehearsal, Surroundings, TaxeonConfig } from '../testing/config.js';
import { messageOf, UsageError } from './errors.js';

const configNames = ['taxeon.config.ts', 'taxeon.config.js', 'taxeon.config.mjs'];
/** Where this package is built to, wherever the bundler put this very file. */
const built = new URL('dist/', import.meta.resolve('taxeon/package.json'));

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
  const { config, name } = await findConfig(path);
  return openFrom(config, name, { clock, log: quiet });
}

/** A bot with its way of registering, and the names of both for sentences. */
export interface OpenedBot extends Rehearsal {
  readonly registration: RegistrationConfig;
}

/** @throws UsageError where the configuration has no `registration`, too. */
export async function openForRegistering(path: string | undefined, clock: Clock): Promise<OpenedBot> {
  const { config, name } = await findConfig(path);
  if (config.registration === undefined) {
    throw new UsageError(`${name} has no \`registration\`; say in it how slash commands are registered.`);
  }
  return { ...(await openFrom(config, name, { clock, log: quiet })), registration: config.registration };
}

interface FoundConfig {
  readonly config: TaxeonConfig;
  readonly name: string;
}

async function findConfig(path: string | undefined): Promise<FoundConfig> {
  const file = path === undefined ? configHere() : configAt(path);
  if (file === undefined) return { config: await load(demoFile('taxeon.config.js'), 'the demo'), name: 'the demo' };
  if (/\.[cm]?ts$/.test(file)) register(new URL('cli/typescript-hooks.js', built));
  return { config: await load(pathToFileURL(file), path ?? file), name: path ?? file };
}

/** What the bot logs would stand between the lines that were asked for. */
const quiet: Log = { error: () => undefined, warn: () => undefined };

export async function openDemo(surroundings: Surroundings): Promise<Rehearsal> {
  return openFrom(await load(demoFile('taxeon.config.js'), 'the demo'), 'the demo', surroundings);
}

function configHere(): string | undefined {
  return configNames.map((name) => resolve(name)).find((file) => existsSync(file));
}

function configAt(path: string): string {
  const file = resolve(path);
  if (!existsSync(file)) throw new UsageError(`There is no configuration at ${path}; name a file that exists.`);
  return file;
}

async function load(url: URL, name: string): Promise<TaxeonConfig> {
  let config: TaxeonConfig | undefined;
  try {
    config = ((await import(url.href)) as { default?: TaxeonConfig }).default;
  } catch (error) {
    throw new UsageError(`${name} does not load: ${messageOf(error)}`, { cause: error });
  }
  if (typeof config?.open !== 'function') {
    throw new UsageError(`${name} has no default export made with defineConfig({ open }); add one.`);
  }
  return config;
}

async function openFrom(config: TaxeonConfig, name: string, surroundings: Surroundings): Promise<Rehearsal> {
  try {
    return await config.open(surroundings);
  } catch (error) {
    throw new UsageError(`${name} does not open its bot: ${messageOf(error)}`, { cause: error });
  }
}
