/** Importing the files of a folder, and importing them anew: through hooks, of which there is one set in a process. */

import { createRequire, register } from 'node:module';
import { fileURLToPath, pathToFileURL } from 'node:url';
import { MessageChannel, type MessagePort } from 'node:worker_threads';
import { foundOrMade } from '../base/bounded-map.js';
import type { HookAnswer, HookRequest } from './hooks.js';

const built = new URL('dist/', import.meta.resolve('taxeon/package.json'));

export class Imports {
  /** Who imports a file, by its address. */
  readonly importers = new Map<string, Set<string>>();
  private readonly versions = new Map<string, number>();
  /** CommonJS keeps its modules by path, and knows who requires whom; the hooks hear nothing of it. */
  private readonly required = createRequire(import.meta.url).cache;
  private readonly folders = new Set<string>();
  private readonly answered = new Map<number, () => void>();
  private readonly port: MessagePort;
  private asked = 0;

  constructor() {
    const { port1, port2 } = new MessageChannel();
    register(new URL('modules/hooks.js', built), { data: { port: port2 }, transferList: [port2] });
    this.port = port1;
    port1.on('message', (answer: HookAnswer) => this.heard(answer));
    port1.unref();
  }

  /** Lets the files of a folder be read anew from now on. */
  watch(folder: string, transform: string | undefined): Promise<void> {
    this.folders.add(fileURLToPath(folder));
    return this.ask({ folder, transform });
  }

  /** The next import of each of these reads it anew. */
  renew(urls: Iterable<string>): Promise<void> {
    const versions: Record<string, number> = {};
    for (const url of urls) {
      const version = (this.versions.get(url) ?? 0) + 1;
      this.versions.set(url, version);
      versions[url] = version;
      delete this.required[fileURLToPath(url)];
      for (const importers of this.importers.values()) importers.delete(url);
    }
    return this.ask({ versions });
  }

  import(url: string): Promise<Readonly<Record<string, unknown>>> {
    return import(url);
  }

  /** Until all is known of who imports whom. */
  async settled(): Promise<void> {
    await this.ask({});
    for (const [path, module] of Object.entries(this.required)) {
      if (![...this.folders].some((folder) => path.startsWith(folder))) continue;
      for (const child of module?.children ?? [])
        this.imports(pathToFileURL(path).href, pathToFileURL(child.filename).href);
    }
  }

  /** These files, and all that import them, be it through others. */
  withImporters(urls: Iterable<string>): Set<string> {
    const all = new Set(urls);
    for (const url of all) for (const importer of this.importers.get(url) ?? []) all.add(importer);
    return all;
  }

  private heard(answer: HookAnswer): void {
    if ('id' in answer) {
      this.answered.get(answer.id)?.();
      this.answered.delete(answer.id);
      return;
    }
    this.imports(answer.importer, answer.imported);
  }

  private imports(importer: string, imported: string): void {
    foundOrMade(this.importers, imported, () => new Set<string>()).add(importer);
  }

  private ask(request: Omit<HookRequest, 'id'>): Promise<void> {
    this.asked += 1;
    const id = this.asked;
    this.port.ref();
    return new Promise((resolve) => {
      this.answered.set(id, () => {
        if (this.answered.size <= 1) this.port.unref();
        resolve();
      });
      this.port.postMessage({ ...request, id });
    });
  }
}

let shared: Imports | undefined;

/** Made when the first folder is loaded: a thread for the hooks takes a moment. */
export function sharedImports(): Imports {
  shared ??= new Imports();
  return shared;
}
