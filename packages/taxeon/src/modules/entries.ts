/** The commands of modules, as the layer gets them, and what it tells of them. */
import { DeclarationError, problemInWords } from '../catalogue/problem.js';
import type { CommandOrGroup } from '../commands/group.js';
import type { CommandLayer } from '../layer/command-layer.js';
import { insideOf } from '../layer/inside.js';
import { manifestOf } from '../queries/manifest.js';
import { ModulesError } from './problems.js';
import type { ReadModule } from './read.js';

export function entryName(one: CommandOrGroup): string {
  return 'group' in one ? one.group.name : one.declaration.name;
}

/** With the module that it is in, and the folder's name as its heading, where it has none of its own. */
export function placed(one: CommandOrGroup, { id, section }: ReadModule): CommandOrGroup {
  const outer = section === undefined ? { module: id } : { section, module: id };
  if ('group' in one) return { ...one, group: { ...outer, ...one.group } };
  return { ...one, declaration: { ...outer, ...one.declaration } };
}

/** Names of commands and groups that a layer has besides these. */
export function commandsBesides(layer: CommandLayer, names: readonly string[]): readonly string[] {
  const { commands, groups } = insideOf(layer).current.catalogue;
  const all = [...commands, ...groups].map(({ name }) => name).filter((name) => !name.includes(' '));
  return [...new Set(all)].filter((name) => !names.includes(name));
}

/** What people see of each slash command. */
export function entriesSeenBy(layer: CommandLayer): ReadonlyMap<string, string> {
  return new Map(manifestOf(layer).commands.map((one) => [one.name, JSON.stringify(one)]));
}

export function changedEntries(
  before: ReadonlyMap<string, string>,
  after: ReadonlyMap<string, string>,
): readonly string[] {
  return [...new Set([...before.keys(), ...after.keys()])].filter((name) => before.get(name) !== after.get(name));
}

/** What the layer finds wrong, with the file that each command is in. */
export function declarationProblems(error: unknown, modules: readonly ReadModule[]): unknown {
  if (!(error instanceof DeclarationError)) return error;
  return new ModulesError(
    error.problems.map((problem) => {
      const [word] = problem.command.split(' ', 1);
      const module = modules.find(({ commands }) => commands.some((one) => entryName(one) === word));
      return { file: module?.file ?? `(${problem.command})`, line: undefined, problem: problemInWords(problem) };
    }),
  );
}
