/** What leaves the types out of TypeScript: the bot names it, since a bot in JavaScript does without. */
import { createRequire } from 'node:module';
import { join } from 'node:path';
import { pathToFileURL } from 'node:url';

/** As the package oxc-transform has it. */
export type Transform = (path: string, text: string, options: { readonly sourcemap: boolean }) => Transformed;

interface Transformed {
  readonly code: string;
  readonly map?: unknown;
  /** What is wrong with the text, and at which of its characters. */
  readonly errors: readonly { readonly message: string; readonly labels?: readonly { readonly start: number }[] }[];
}

/**
 * Where a module lies, by its name or its address.
 *
 * @throws TypeError where the folder's bot has none
 */
export function transformUrl(name: string, folder: string): string {
  if (name.startsWith('file:')) return name;
  try {
    return pathToFileURL(createRequire(join(folder, '_')).resolve(name)).href;
  } catch (cause) {
    throw new TypeError(`loadModules, transform: there is no ${name}; install it with: npm install ${name}`, { cause });
  }
}

/** @throws TypeError where the module is another */
export async function loadTransform(url: string): Promise<Transform> {
  const { transformSync } = (await import(url)) as { readonly transformSync?: unknown };
  if (typeof transformSync === 'function') return transformSync as Transform;
  throw new TypeError(`loadModules, transform: ${url} exports no transformSync; give 'oxc-transform'`);
}
