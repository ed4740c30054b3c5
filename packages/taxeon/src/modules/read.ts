/** Reading one file as a module: what it exports, or what is wrong with it. */

import { pathToFileURL } from 'node:url';
import { isRecord, shown } from '../base/fields.js';
import { nearNames } from '../base/near.js';
import { inTime, TooLate } from '../base/thenable.js';
import { durationInWords, systemClock } from '../base/time.js';
import type { CommandOrGroup } from '../commands/group.js';
import type { ModuleFile } from './find.js';
import type { Imports } from './imports.js';
import { type ModuleProblem, thrownProblem } from './problems.js';
import type { Transform } from './transform.js';

/** A module as it was read. */
export interface ReadModule extends ModuleFile {
  readonly section: string | undefined;
  readonly commands: readonly CommandOrGroup[];
  readonly opened: ((context: never) => unknown) | undefined;
  readonly closing: (() => unknown) | undefined;
}

/** A module that does not end being read must not keep the bot from starting. */
const PATIENCE_MS = 30_000;

export async function readModule(
  file: ModuleFile,
  services: unknown,
  imports: Imports,
  transform: Transform | undefined,
): Promise<ReadModule | readonly ModuleProblem[]> {
  const url = pathToFileURL(file.path).href;
  const thrown = (error: unknown, what: string) => [thrownProblem(endedInTime(error), file, what, transform)];
  let exported: Readonly<Record<string, unknown>>;
  try {
    exported = await patientRead(() => imports.import(url));
  } catch (error) {
    return thrown(error, isSyntax(error) ? 'does not read' : 'fails while it is read');
  }
  let given = exported['default'] ?? exported['commands'];
  if (typeof given === 'function') {
    const make = given as (services: unknown) => unknown;
    try {
      given = await patientRead(() => make(services));
    } catch (error) {
      return thrown(error, exported['default'] === undefined ? 'its commands throw' : 'its default export throws');
    }
  }
  if (!isModuleObject(given)) return checkedModule(file, exported, given);
  return checkedModule(file, { ...exported, ...given }, given['commands'] ?? [], Object.keys(given));
}

/**
 * What a function may give in place of its commands: they and what starts with the bot, which then share what stands
 * around them.
 */
function isModuleObject(given: unknown): given is Readonly<Record<string, unknown>> {
  if (!isRecord(given) || isEntry(given)) return false;
  return parts.some((name) => name in given);
}

function patientRead<T>(what: () => T): Promise<Awaited<T>> {
  return inTime(systemClock, PATIENCE_MS, what) as Promise<Awaited<T>>;
}

function endedInTime(error: unknown): unknown {
  return error instanceof TooLate ? new Error(`it did not end within ${durationInWords(PATIENCE_MS)}`) : error;
}

/** By its name: the file may have been read by another thread. */
function isSyntax(error: unknown): boolean {
  return (error as Partial<Error> | null)?.name === 'SyntaxError';
}

const parts = ['commands', 'section', 'opened', 'closing'];
const known = ['default', ...parts];

function checkedModule(
  file: ModuleFile,
  exported: Readonly<Record<string, unknown>>,
  given: unknown,
  /** Names of what its function gives beside commands. */
  beside: readonly string[] = [],
): ReadModule | readonly ModuleProblem[] {
  const problems: ModuleProblem[] = [];
  const tell = (problem: string) => void problems.push({ file: file.file, line: undefined, problem });
  const { section, opened, closing } = exported;
  if (section !== undefined && (typeof section !== 'string' || section.trim() === ''))
    tell(`exports a section that is ${shown(section)}; give a text`);
  for (const name of ['opened', 'closing']) {
    const hook = exported[name];
    if (hook !== undefined && typeof hook !== 'function')
      tell(`exports ${name} that is ${shown(hook)}; give a function`);
  }
  for (const [name, value] of Object.entries(exported)) {
    const [near] = known.includes(name) || isEntry(value) ? [] : nearNames(name, parts);
    if (near !== undefined) tell(`exports "${name}"; write ${near}, or give it a name that is less like it`);
  }
  for (const name of beside) {
    if (!parts.includes(name)) tell(`gives "${name}", which modules do not have; there are ${parts.join(', ')}`);
  }
  const named = Object.entries(exported).flatMap(([name, value]) =>
    name !== 'default' && isEntry(value) ? [value] : [],
  );
  const all = given === undefined ? named : Array.isArray(given) ? given : [given];
  const commands = all.filter(isEntry);
  for (const one of all) {
    if (!isEntry(one))
      tell(`exports ${shown(one)}, which is no command; give what command({ … }) or group({ … }) gives`);
  }
  if (all.length === 0 && opened === undefined)
    tell('exports no command; export default what command({ … }) or group({ … }) gives');
  if (problems.length > 0) return problems;
  return {
    ...file,
    section: (section as string | undefined) ?? sectionOf(file.id),
    commands,
    opened: opened as ReadModule['opened'],
    closing: closing as ReadModule['closing'],
  };
}

/** Types do not hold in JavaScript. */
function isEntry(value: unknown): value is CommandOrGroup {
  if (typeof value !== 'object' || value === null) return false;
  const { declaration, group } = value as { readonly declaration?: unknown; readonly group?: unknown };
  return typeof (declaration ?? group) === 'object';
}

/** `late-returns/close` stands under Late returns. */
function sectionOf(id: string): string | undefined {
  const folder = id.split('/').at(-2);
  const words = folder?.replace(/[-_]+/g, ' ').trim() ?? '';
  return words === '' ? undefined : `${words[0]?.toUpperCase()}${words.slice(1)}`;
}
