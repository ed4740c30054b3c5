/** Opening the bot that a command is about. */

import type { FolderConfig, RegistrationConfig, Rehearsal, Surroundings } from '@taxeon/testing';
import type { Clock, Log } from 'taxeon';
import { demoFile, type FoundConfig, findConfig, readConfig } from './config.js';
import { errorMessage, UsageError } from './errors.js';

/**
 * Opens the bot of `path`, or of the configuration in this folder.
 *
 * @throws UsageError naming the file and what is wrong with it.
 */
export async function openBot(path: string | undefined, clock: Clock, log: Log = quiet): Promise<Rehearsal> {
  return openFrom(await findConfig(path), { clock, log });
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

export async function openDemo(surroundings: Surroundings): Promise<Rehearsal> {
  return openFrom(await readConfig(demoFile('afternoon.config.js'), 'The demo'), surroundings);
}

/** What the bot logs would stand between the lines that were asked for. */
const quiet: Log = { error: () => undefined, warn: () => undefined };

/** @throws UsageError naming the file and what is wrong with it. */
export async function openFrom({ config, name, url }: FoundConfig, given: Surroundings): Promise<Rehearsal> {
  const surroundings = { reference: countedReferences(), ...given };
  let opened: Rehearsal;
  try {
    opened = await ('open' in config ? config.open(surroundings) : openFolder(config, url, surroundings));
  } catch (error) {
    throw new UsageError(`${name} does not open its bot: ${errorMessage(error)}`, { cause: error });
  }
  const problem = rehearsalProblem(opened);
  if (problem === undefined) return opened;
  throw new UsageError(`${name} does not open its bot: \`open\` gives ${problem}`);
}

/** `ref-1`, `ref-2`: equal runs print the same. */
function countedReferences(): () => string {
  let count = 0;
  return () => {
    count += 1;
    return `ref-${count}`;
  };
}

async function openFolder(config: FolderConfig, url: URL, surroundings: Surroundings): Promise<Rehearsal> {
  const [{ loadModules }, { createCommandLayer }, { standIn }] = await Promise.all([
    import('taxeon/modules'),
    import('taxeon'),
    import('@taxeon/testing'),
  ]);
  const services = config.services?.(surroundings);
  const modules = await loadModules(new URL(config.modules, url), {
    services,
    transform: import.meta.resolve('oxc-transform'),
  });
  const layer = createCommandLayer({ ...(config.layer?.(surroundings) ?? surroundings), commands: modules.commands });
  return { layer, platform: standIn(config.world, surroundings), modules };
}

/** Types do not hold in JavaScript. */
function rehearsalProblem(opened: unknown): string | undefined {
  const { layer, platform, modules, events, state, ...others } = Object(opened) as Partial<Rehearsal>;
  const has = (one: unknown, method: string) => typeof Object(one)[method] === 'function';
  if (!has(layer, 'handle')) return 'no `layer`; return { layer, platform }, the layer as createCommandLayer makes it.';
  if (!has(platform, 'typed') || !has(platform, 'send'))
    return 'no `platform`; return { layer, platform }, the platform as standIn(world) makes it.';
  if (modules !== undefined && !has(modules, 'open')) return '`modules` that are none; give what loadModules gives.';
  const wrong = Object.entries({ ...events, ...state }).find(([, one]) => typeof one !== 'function');
  if (wrong !== undefined) return `"${wrong[0]}" among its events or state that is no function; give one.`;
  const [unknown] = Object.keys(others);
  return unknown === undefined
    ? undefined
    : `\`${unknown}\`, which is not known; return layer, platform, modules, events and state.`;
}
