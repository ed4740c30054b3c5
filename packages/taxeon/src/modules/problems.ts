/** What is wrong with modules, and where. */
import { readFileSync } from 'node:fs';
import { SourceMap } from 'node:module';
import { fileURLToPath, pathToFileURL } from 'node:url';
import type { ModuleFile } from './find.js';
import type { Transform } from './transform.js';

/** What is wrong with one file. */
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
    const lines = problems.map((one) => `  ${moduleProblemInWords(one)}`);
    super(`${files === 1 ? 'A module is' : `${files} modules are`} wrong:\n${lines.join('\n')}`);
  }
}

/**
 * A problem as it stands in the error's message: `lending/borrow.ts:4: does not read: …`.
 *
 * @example
 * try {
 *   await loadModules(folder);
 * } catch (error) {
 *   if (error instanceof ModulesError) for (const one of error.problems) console.error(moduleProblemInWords(one));
 * }
 */
export function moduleProblemInWords({ file, line, problem }: ModuleProblem): string {
  return `${file}${line === undefined ? '' : `:${line}`}: ${problem}`;
}

/** What was thrown, in one line, and the line of the file that it is about. */
export function thrownProblem(
  error: unknown,
  { file, path }: ModuleFile,
  what: string,
  transform: Transform | undefined,
): ModuleProblem {
  const url = pathToFileURL(path);
  const { message = String(error) } = (error ?? {}) as Partial<Error>;
  const [first = ''] = message.split('\n', 1);
  return {
    file,
    line: lineThrown(error, url, transform),
    problem: `${what}: ${first.replaceAll(url.href, file).replaceAll(path, file)}`,
  };
}

/**
 * The line of a file, from 1 on, that what was thrown is about. Nothing where it is not known.
 *
 * @param transform what has left the types out of a file in TypeScript, such as oxc-transform's `transformSync`
 *
 * @example
 * try {
 *   await import(new URL('./commands/borrow.js', import.meta.url).href);
 * } catch (error) {
 *   console.error(lineThrown(error, new URL('./commands/borrow.js', import.meta.url)));
 * }
 */
export function lineThrown(error: unknown, file: URL, transform?: Transform): number | undefined {
  const { stack = '', message = '' } = Object(error) as Partial<Error>;
  const path = fileURLToPath(file);
  const places = [stack, message].flatMap((text) => [placeIn(text, file.href), placeIn(text, path)]);
  return lineInFile(
    places.find((place) => place !== undefined),
    path,
    transform,
  );
}

interface StackPlace {
  readonly line: number;
  /** From 1 on; where there is none, the line is of the file as it was written. */
  readonly column: number | undefined;
}

/** In a stack, or in front of a syntax error, as V8 writes both. */
function placeIn(stack: string, place: string): StackPlace | undefined {
  const at = stack.indexOf(place);
  if (at < 0) return undefined;
  const found = /^(?:\?[^:\s]*)?:(\d+)(?::(\d+))?/.exec(stack.slice(at + place.length));
  if (found?.[1] === undefined) return undefined;
  return { line: Number(found[1]), column: found[2] === undefined ? undefined : Number(found[2]) };
}

/** Leaving types out moves lines; what runs knows only where they are then. */
function lineInFile(place: StackPlace | undefined, path: string, transform: Transform | undefined): number | undefined {
  if (place?.column === undefined || process.sourceMapsEnabled || !isTypeScript.test(path)) return place?.line;
  try {
    const map = transform?.(path, readFileSync(path, 'utf8'), { sourcemap: true }).map;
    // Node.js itself leaves types out without moving a line.
    if (map === undefined) return place.line;
    const entry = new SourceMap(JSON.parse(JSON.stringify(map))).findEntry(place.line - 1, place.column - 1);
    return 'originalLine' in entry ? entry.originalLine + 1 : undefined;
  } catch {
    return undefined;
  }
}

const isTypeScript = /\.[cm]?ts$/;
