/** Module hooks that strip types from TypeScript as Node loads it; registered only for a `.ts` configuration. */
import { existsSync } from 'node:fs';
import type { LoadHook, ResolveHook } from 'node:module';
import { withoutTypes } from './syntax.js';

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
  const source = withoutTypes(url);
  if (typeof source === 'string') return { format: 'module', source, shortCircuit: true };
  // As Node.js writes it of JavaScript: the words, and then the place.
  throw new SyntaxError(`${source.message}\n${url}:${source.line ?? 1}`);
};
