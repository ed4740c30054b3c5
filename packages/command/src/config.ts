/** The configuration of a bot: finding it, reading it, and telling what is wrong with it. */
import { existsSync } from 'node:fs';
import { register } from 'node:module';
import { basename, resolve } from 'node:path';
import { pathToFileURL } from 'node:url';
import type { FolderConfig, OpeningConfig, RegistrationConfig, TaxeonConfig } from '@taxeon/testing';
import { errorMessage, UsageError } from './errors.js';

const names = ['taxeon.config.ts', 'taxeon.config.mts', 'taxeon.config.js', 'taxeon.config.mjs'];
/** Where this package is built to, wherever the bundler put this very file. */
const built = new URL('dist/', import.meta.resolve('@taxeon/command/package.json'));

export interface FoundConfig {
  readonly config: TaxeonConfig;
  /** For sentences. */
  readonly name: string;
  readonly url: URL;
}

/**
 * The configuration at `path`, or the one in this folder.
 *
 * @throws UsageError naming the file, the line where it is known, and what mends it.
 */
export function findConfig(path: string | undefined): Promise<FoundConfig> {
  const file = path === undefined ? configHere() : configAt(path);
  if (/\.m?ts$/.test(file)) register(new URL('typescript-hooks.js', built));
  return readConfig(pathToFileURL(file), path ?? basename(file));
}

/** Files of the demo bot, which ships with the command. */
export function demoFile(name: string): URL {
  return new URL(`demo/${name}`, built);
}

function configHere(): string {
  const [first, second] = names.filter((name) => existsSync(name));
  if (first === undefined) {
    throw new UsageError(
      'There is no taxeon.config.ts in this folder, so there is no bot to ask. Make one with `taxeon new`, name a configuration with --config, or see the demo with `taxeon demo`.',
    );
  }
  if (second !== undefined) {
    throw new UsageError(`There are ${first} and ${second} in this folder; remove one, or name one with --config.`);
  }
  return resolve(first);
}

function configAt(path: string): string {
  const file = resolve(path);
  if (!existsSync(file)) throw new UsageError(`There is no configuration at ${path}; name a file that exists.`);
  if (!/\.m?[jt]s$/.test(file))
    throw new UsageError(`${path} is no configuration; name a file like ${names.join(', ')}.`);
  return file;
}

/** @throws UsageError */
export async function readConfig(url: URL, name: string): Promise<FoundConfig> {
  let exported: { readonly default?: unknown };
  try {
    exported = (await import(url.href)) as { readonly default?: unknown };
  } catch (error) {
    const line = await errorLine(error, url);
    const where = line === undefined ? name : `${name}:${line}`;
    throw new UsageError(`${where} does not load: ${withMend(error)}`, { cause: error });
  }
  const problem = configProblem(exported.default);
  if (problem !== undefined) throw new UsageError(`${name} ${problem}`);
  return { config: exported.default as TaxeonConfig, name, url };
}

/** Of JavaScript, Node.js does not say where its syntax is wrong. */
async function errorLine(error: unknown, url: URL): Promise<number | undefined> {
  const { lineThrown } = await import('taxeon/modules');
  const { transformSync } = await import('oxc-transform');
  const line = lineThrown(error, url, transformSync);
  if (line !== undefined || (error as Partial<Error> | null)?.name !== 'SyntaxError') return line;
  const { withoutTypes } = await import('./syntax.js');
  const read = withoutTypes(url.href);
  return typeof read === 'string' ? undefined : read.line;
}

/** The first line of what was thrown; a package that is not there can be installed. */
function withMend(error: unknown): string {
  const [first = ''] = errorMessage(error).split('\n', 1);
  const missing = /Cannot find package '((?:@[^/']+\/)?[^/']+)/.exec(first)?.[1];
  return missing === undefined ? first : `the package ${missing} is not installed; npm install ${missing} mends that`;
}

const ways = 'give it one made with defineConfig({ open }) or defineConfig({ modules, world })';
const fields = ['open', 'modules', 'world', 'services', 'layer', 'registration'];

function configProblem(config: unknown): string | undefined {
  if (typeof config !== 'object' || config === null) return `has no default export; ${ways}.`;
  const { open, modules, services, layer, registration } = config as Partial<OpeningConfig & FolderConfig>;
  const [unknown] = Object.keys(config).filter((name) => !fields.includes(name));
  if (unknown !== undefined) return `has a field \`${unknown}\`, which there is not; there are ${fields.join(', ')}.`;
  if ((open === undefined) === (modules === undefined)) return `needs either \`open\` or \`modules\`; ${ways}.`;
  if (modules !== undefined && typeof modules !== 'string') return 'has `modules` that is no path; give a text.';
  for (const [name, value] of Object.entries({ open, services, layer })) {
    if (value !== undefined && typeof value !== 'function') return `has \`${name}\` that is no function; give one.`;
  }
  return registration === undefined ? undefined : registrationProblem(registration);
}

function registrationProblem(registration: Partial<RegistrationConfig>): string | undefined {
  const { credential, open } = Object(registration) as Partial<RegistrationConfig>;
  if (typeof credential === 'string' && typeof open === 'function') return undefined;
  return 'has a `registration` that is not right; give { credential, open }, the name of an environment variable and a function.';
}
