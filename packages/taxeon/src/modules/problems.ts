/** What is wrong with modules, and where. */
import { pathToFileURL } from 'node:url';
import type { ModuleFile } from './find.js';

export interface ModuleProblem {
  /** The file, from the folder on. */
  readonly file: string;
  /** From 1 on, where it is known. */
  readonly line: number | undefined;
  /** What is wrong, and what mends it. */
  readonly problem: string;
}

/** Modules that do not load, with every problem of every file. */
export class ModulesError extends Error {
  override readonly name = 'ModulesError';

  constructor(readonly problems: readonly ModuleProblem[]) {
    const files = new Set(problems.map(({ file }) => file)).size;
    const lines = problems.map(
      ({ file, line, problem }) => `  ${file}${line === undefined ? '' : `:${line}`}: ${problem}`,
    );
    super(`${files === 1 ? 'A module is' : `${files} modules are`} wrong:\n${lines.join('\n')}`);
  }
}

/** What was thrown, in one line, and the line of the file that it is about. */
export function thrownProblem(error: unknown, { file, path }: ModuleFile, what: string): ModuleProblem {
  const url = pathToFileURL(path).href;
  const { message = String(error), stack = '' } = (error ?? {}) as Partial<Error>;
  const [first = ''] = message.split('\n', 1);
  const line = lineIn(stack, url) ?? lineIn(stack, path);
  return { file, line, problem: `${what}: ${first.replaceAll(url, file).replaceAll(path, file)}` };
}

/** In a stack, or in front of a syntax error, as V8 writes both. */
function lineIn(stack: string, place: string): number | undefined {
  const at = stack.indexOf(place);
  if (at < 0) return undefined;
  const found = /^(?:\?[^:\s]*)?:(\d+)/.exec(stack.slice(at + place.length));
  return found?.[1] === undefined ? undefined : Number(found[1]);
}
