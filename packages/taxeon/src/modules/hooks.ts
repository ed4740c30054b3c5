/**
 * Module hooks, which Node.js runs in a thread of their own: they give the files of a folder another address each time
 * that they are to be read anew, tell who imports whom, and strip types from TypeScript.
 */
import { existsSync, readFileSync } from 'node:fs';
import type { InitializeHook, LoadHook, ResolveHook } from 'node:module';
import { fileURLToPath } from 'node:url';
import type { MessagePort } from 'node:worker_threads';
import { loadTransform, type Transform } from './transform.js';

/** What the main thread asks for; answered with its `id`. */
export interface HookRequest {
  readonly id: number;
  /** The address of a folder whose files may be read anew. */
  readonly folder?: string;
  /** That of what leaves types out of them. */
  readonly transform?: string | undefined;
  /** How often each file was to be read anew, by its address. */
  readonly versions?: Readonly<Record<string, number>>;
}

export type HookAnswer = { readonly id: number } | { readonly importer: string; readonly imported: string };

const typeScript = /\.[cm]?ts$/;
/** Of JavaScript, Node.js does not always say where its syntax is wrong. */
const isScript = /\.[cm]?[jt]s$/;
const folders = new Map<string, Transform | undefined>();
const versions = new Map<string, number>();
let port: MessagePort | undefined;

export const initialize: InitializeHook<{ readonly port: MessagePort }> = (data) => {
  port = data.port;
  port.on('message', async ({ id, folder, transform, versions: changed = {} }: HookRequest) => {
    // The other thread has loaded it before, and knows that it is one.
    if (folder !== undefined) folders.set(folder, transform === undefined ? undefined : await loadTransform(transform));
    for (const [url, version] of Object.entries(changed)) versions.set(url, version);
    tell({ id });
  });
  port.unref();
};

function tell(answer: HookAnswer): void {
  port?.postMessage(answer);
}

export const resolve: ResolveHook = async (specifier, context, next) => {
  const parent = context.parentURL === undefined ? undefined : plain(context.parentURL);
  const source = parent === undefined ? undefined : sourceOf(specifier, parent);
  const found = source === undefined ? await next(specifier, context) : { url: source, shortCircuit: true };
  const url = plain(found.url);
  if (!isInFolder(url)) return found;
  if (parent !== undefined && isInFolder(parent)) tell({ importer: parent, imported: url });
  const version = versions.get(url);
  return { ...found, url: version === undefined ? url : `${url}?taxeon=${version}` };
};

/** TypeScript files name each other by the `.js` that they would become. */
function sourceOf(specifier: string, parent: string): string | undefined {
  if (!isInFolder(parent) || !specifier.startsWith('.') || !/\.[cm]?js$/.test(specifier)) return undefined;
  const source = new URL(specifier.replace(/js$/, 'ts'), parent);
  return typeScript.test(parent) && existsSync(source) ? source.href : undefined;
}

export const load: LoadHook = (url, context, next) => {
  const path = plain(url);
  const folder = isScript.test(path) ? folderOf(path) : undefined;
  if (folder === undefined) return next(url, context);
  const transform = folders.get(folder);
  if (transform === undefined) {
    // Newer versions of Node.js leave types out themselves; of JavaScript, they say where its syntax is wrong.
    if (!typeScript.test(path) || leavesTypesOut) return next(url, context);
    throw new SyntaxError(
      "reading TypeScript needs a transform; npm install oxc-transform, and give loadModules { transform: 'oxc-transform' }",
    );
  }
  const { code, errors, map } = transform(fileURLToPath(path), readFileSync(new URL(path), 'utf8'), {
    sourcemap: typeScript.test(path),
  });
  const [first] = errors;
  // As Node.js writes it of JavaScript: the place, and then the words.
  if (first !== undefined) throw new SyntaxError(`${first.message}${placeInSource(path, first)}`);
  if (!typeScript.test(path)) return next(url, context);
  // For `node --enable-source-maps`.
  const mapped = Buffer.from(JSON.stringify(map)).toString('base64');
  const source = `${code}\n//# sourceMappingURL=data:application/json;base64,${mapped}`;
  return { format: 'module', source, shortCircuit: true };
};

const leavesTypesOut = (process.features as { readonly typescript?: unknown }).typescript === 'strip';

function placeInSource(url: string, { labels }: { readonly labels?: readonly { readonly start: number }[] }): string {
  const start = labels?.[0]?.start;
  if (start === undefined) return '';
  const line = readFileSync(new URL(url), 'utf8').slice(0, start).split('\n').length;
  return `\n${url}:${line}`;
}

function plain(url: string): string {
  return url.replace(/[?#].*$/s, '');
}

function isInFolder(url: string): boolean {
  return folderOf(url) !== undefined;
}

/** The one that was named last, of several that a file is in. */
function folderOf(url: string): string | undefined {
  if (url.includes('/node_modules/')) return undefined;
  return [...folders.keys()].findLast((folder) => url.startsWith(folder));
}
