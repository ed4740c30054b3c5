/** `taxeon register`: the difference to what a platform holds, and carrying it out. */
import { readFileSync } from 'node:fs';
import { homedir } from 'node:os';
import colors from 'picocolors';
import {
  type Difference,
  differenceTo,
  isPlatformError,
  manifestOf,
  RegistrationError,
  type RegistrationStep,
  register,
  scopeName,
  scopesNamed,
  systemClock,
} from 'taxeon';
import type { RegistrationConfig } from 'taxeon/testing';
import { errorMessage, UsageError } from './errors.js';
import { printJson } from './json.js';
import { openForRegistering } from './open.js';
import { print } from './print.js';
import { differenceLines, doneLines, stepLine } from './print-difference.js';
import { terminalWidth, wrap } from './terminal.js';

export interface RegisterCommandOptions {
  readonly now: boolean;
  readonly removeLeftOver: boolean;
  readonly scope?: readonly string[];
  readonly aliases: boolean;
  readonly manifest: boolean;
  readonly json: boolean;
  readonly config?: string;
  readonly expect?: 'same';
}

export async function registerCommands(options: RegisterCommandOptions): Promise<void> {
  if (options.removeLeftOver && !options.now) throw new UsageError('--remove-left-over goes with --now.');
  const { layer, registration } = await openForRegistering(options.config, systemClock);
  const manifest = manifestOf(layer, { aliases: options.aliases ? 'registered' : 'left-out' });
  if (options.manifest) return printJson(manifest);
  const credential = credentialOf(registration);
  try {
    const registrar = await registration.open({ credential, clock: systemClock });
    const scopes = options.scope?.flatMap((name) => scopesNamed(layer, name, registrar.name));
    const choice = scopes === undefined ? {} : { scopes };
    const difference = await differenceTo(manifest, registrar, choice);
    show(difference, options, registration);
    if (difference.problems.length > 0) process.exitCode = 1;
    if (options.expect === 'same') await expectSameDifference(difference);
    if (!isCarriedOut(options, difference)) return;
    const onProgress = options.json ? undefined : (step: RegistrationStep) => print(stepLine(step));
    const done = await register(manifest, registrar, {
      ...choice,
      removeLeftOver: options.removeLeftOver,
      ...(onProgress === undefined ? {} : { onProgress }),
    });
    if (options.json) return printJson({ ...difference, registered: done });
    for (const line of doneLines(done, difference)) print(line);
  } catch (error) {
    if (isPlatformError(error) || error instanceof RegistrationError) {
      throw new UsageError(errorMessage(error).replaceAll(credential, '[left out]'));
    }
    throw new UsageError(`Registering failed: ${errorMessage(error).replaceAll(credential, '[left out]')}`);
  }
}

async function expectSameDifference({ scopes }: Difference): Promise<void> {
  const others = scopes.flatMap(({ scope, entries }) =>
    entries
      .filter(({ state }) => state !== 'same' && state !== 'foreign')
      .map(({ state, name }) => `${scopeName(scope)}: ${name} is ${state}; expected the same as declared`),
  );
  if (others.length === 0) return;
  const { failExpectation } = await import('./expect.js');
  failExpectation(others);
}

function isCarriedOut({ now }: RegisterCommandOptions, { problems }: Difference): boolean {
  return now && problems.length === 0;
}

function show(difference: Difference, options: RegisterCommandOptions, { keptIn }: RegistrationConfig): void {
  if (options.json) {
    // What is carried out is told with what came of it, in one object.
    if (!isCarriedOut(options, difference)) printJson(difference);
    return;
  }
  for (const line of differenceLines(difference, options.now)) print(line);
  if (keptIn === undefined) return;
  const where = wrap(`What this platform holds is kept in ${fromHome(keptIn)}`, terminalWidth() - 2);
  print(`${where.map((part) => `  ${colors.dim(part)}`).join('\n')}\n`);
}

function fromHome(path: string): string {
  return path.startsWith(homedir()) ? `~${path.slice(homedir().length)}` : path;
}

/** From the environment, or from a file that the environment names; never from the command line. */
function credentialOf({ credential: name }: RegistrationConfig): string {
  const value = process.env[name];
  if (value !== undefined && value !== '') return value;
  const path = process.env[`${name}_FILE`];
  if (path === undefined || path === '') {
    throw new UsageError(
      `Set ${name} to the credential that the platform gave the bot, or ${name}_FILE to a file that holds it.`,
    );
  }
  try {
    const read = readFileSync(path, 'utf8').trim();
    if (read !== '') return read;
  } catch {
    throw new UsageError(`The file that ${name}_FILE names does not read; name one that holds the credential.`);
  }
  throw new UsageError(`The file that ${name}_FILE names is empty; write the credential into it.`);
}
