/** What is wrong with modules together: names that two of them have, and files that import each other in a circle. */
import { relative } from 'node:path';
import { fileURLToPath, pathToFileURL } from 'node:url';
import { foldName } from '../base/text.js';
import type { ModuleProblem } from './problems.js';
import type { ReadModule } from './read.js';

export function twiceProblems(modules: readonly ReadModule[]): ModuleProblem[] {
  const problems: ModuleProblem[] = [];
  const files = new Map<string, string>();
  for (const { file, commands } of modules) {
    for (const one of commands) {
      const { name, aliases = [] } = 'group' in one ? one.group : one.declaration;
      for (const called of [name, ...aliases].filter((text) => typeof text === 'string')) {
        const folded = foldName(called);
        const other = files.get(folded);
        files.set(folded, file);
        if (other === undefined || other === file) continue;
        const problem = `has the command "${called}", which ${other} has too; rename one of them`;
        problems.push({ file, line: undefined, problem });
      }
    }
  }
  return problems;
}

/** A module in a circle may find another one half read; which one depends on where Node.js begins. */
export function circleProblems(folder: string, importers: ReadonlyMap<string, ReadonlySet<string>>): ModuleProblem[] {
  const under = `${pathToFileURL(folder).href}/`;
  const problems: ModuleProblem[] = [];
  const done = new Set<string>();
  const visit = (url: string, path: readonly string[]): void => {
    const at = path.indexOf(url);
    if (at >= 0) {
      const circle = [...path.slice(at), url].reverse().map((one) => relative(folder, fileURLToPath(one)));
      const [file = ''] = circle;
      problems.push({
        file,
        line: undefined,
        problem: `imports itself in a circle: ${circle.join(' → ')}; move what they share into a file of its own`,
      });
      return;
    }
    if (done.has(url)) return;
    done.add(url);
    for (const importer of importers.get(url) ?? []) if (importer.startsWith(under)) visit(importer, [...path, url]);
  };
  for (const url of importers.keys()) if (url.startsWith(under)) visit(url, []);
  return problems;
}
