/** Module hooks that strip types from TypeScript as Node loads it; registered only for a `.ts` configuration. */
import { existsSync, readFileSync } from 'node:fs';
import type { LoadHook, ResolveHook } from 'node:module';
import { fileURLToPath } from 'node:url';
import { transformSync } from 'oxc-transform';

const typeScript = /\.[cm]?ts$/;

/** TypeScript files name each other by the `.js` that they would become. */
export const resolve: ResolveHook = (specifier, context, next) => {
  const parent = context.parentURL;
  if (parent !== undefined && specifier.startsWith('.') && typeScript.test(parent) && /\.[cm]?js$/.test(specifier)) {
    const source = new URL(specifier.replace(/js$/, 'ts'), parent);
    if (existsSync(source)) return { url: source.href, shortCircuit: true };
  }
  return next(specifier, context);
};

export const load: LoadHook = (url, context, next) => {
  if (!typeScript.test(url)) return next(url, context);
  const path = fileURLToPath(url);
  const { code, errors } = transformSync(path, readFileSync(path, 'utf8'));
  const [first] = errors;
  if (first !== undefined) throw new SyntaxError(`${path}: ${first.message}`);
  return { format: 'module', source: code, shortCircuit: true };
};
