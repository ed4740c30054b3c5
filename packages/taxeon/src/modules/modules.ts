/** The modules of a folder: loaded all or not at all, and read anew while the bot runs. */
import { readFile, realpath } from 'node:fs/promises';
import { resolve } from 'node:path';
import { fileURLToPath, pathToFileURL } from 'node:url';
import { aFunction, anything, aText, checkFields, type Fields } from '../base/fields.js';
import type { CommandOrGroup } from '../commands/group.js';
import type { CommandLayer } from '../layer/command-layer.js';
import { insideOf } from '../layer/inside.js';
import { circleProblems, twiceProblems } from './check.js';
import { changedEntries, commandsBesides, declarationProblems, entriesSeenBy, entryName, placed } from './entries.js';
import { findModules, type ModuleFile } from './find.js';
import { type Imports, sharedImports } from './imports.js';
import { ModuleOpening } from './opening.js';
import { type ModuleProblem, ModulesError } from './problems.js';
import { type ReadModule, readModule } from './read.js';
import { loadTransform, type Transform, transformUrl } from './transform.js';
import { watchFolder } from './watch.js';

/** What modules get, and what stands beside them. */
export interface ModulesOptions<Services> {
  /** What modules get whose default export is a function. */
  readonly services?: Services;
  /**
   * What leaves the types out of files in TypeScript: `'oxc-transform'`, or the address of a module of your own that
   * exports such a `transformSync`. Without it Node.js does that, from 22.18 on.
   */
  readonly transform?: string;
  /** Commands that stand in no file. */
  readonly commands?: (layer: CommandLayer) => readonly CommandOrGroup[];
}

/** A module, as it is listed. */
export interface ModuleListed {
  /** Its path from the folder on, without extension: `lending/borrow`. */
  readonly id: string;
  readonly file: string;
  readonly section: string | undefined;
  /** Names of its commands and groups. */
  readonly commands: readonly string[];
}

/** What a reload has changed. */
export interface Reloaded {
  /** Ids of the modules that were read anew, and of those that are new or gone. */
  readonly changed: readonly string[];
  readonly added: readonly string[];
  readonly removed: readonly string[];
  /** Names of slash commands that people would see otherwise, once they are registered. Nothing is by itself. */
  readonly toRegister: readonly string[];
}

/** The commands of a folder: opened with the bot, read anew while it runs. */
export interface Modules {
  readonly list: readonly ModuleListed[];
  /** For `createCommandLayer`: the commands of all modules, and those of one's own. */
  readonly commands: (layer: CommandLayer) => readonly CommandOrGroup[];
  /** Opens all modules, once the layer is made; what one throws is logged, and stops no other. */
  open(): Promise<void>;
  /**
   * Reads what has changed anew, or one module and what imports it. Everything stays as it is where anything is wrong.
   *
   * @throws ModulesError with every problem
   */
  reload(id?: string): Promise<Reloaded>;
  /** Reloads by itself whenever a file changes, until the layer closes. Gives what ends that sooner. */
  watch(): () => void;
}

/**
 * Loads the commands of a folder.
 *
 * @param folder a path, or an address such as `new URL('./commands/', import.meta.url)`
 * @throws ModulesError with every problem of every file, and TypeError where there is no such folder or option
 *
 * @example
 * const modules = await loadModules(new URL('./commands/', import.meta.url), { services: { library } });
 * const layer = createCommandLayer({ commands: modules.commands, prefixes: ['!'] });
 * await modules.open();
 */
export async function loadModules<Services>(
  folder: string | URL,
  options: ModulesOptions<Services> = {},
): Promise<Modules> {
  const problems: string[] = [];
  checkFields(
    options,
    fields,
    (field, problem) => void problems.push(`loadModules, ${field || 'options'}: ${problem}`),
  );
  if (problems.length > 0) throw new TypeError(problems.join('\n'));
  const path = await realPath(folder instanceof URL ? fileURLToPath(folder) : folder);
  const imports = sharedImports();
  const url = options.transform === undefined ? undefined : transformUrl(options.transform, path);
  const transform = url === undefined ? undefined : await loadTransform(url);
  await imports.watch(`${pathToFileURL(path).href}/`, url);
  const loaded = new LoadedModules(path, imports, transform, options as ModulesOptions<unknown>);
  await loaded.load();
  return loaded;
}

const fields: Fields<ModulesOptions<unknown>> = { services: anything, transform: aText, commands: aFunction };

/** Node.js knows files by where they really are. */
function realPath(folder: string): Promise<string> {
  return realpath(resolve(folder)).catch(() => {
    throw new TypeError(`There is no folder ${folder} to load modules from`);
  });
}

class LoadedModules implements Modules {
  private modules: readonly ReadModule[] = [];
  /** Texts of all files that were read, by their addresses. */
  private texts = new Map<string, string>();
  private readonly openings = new Map<string, ModuleOpening>();
  private layer: CommandLayer | undefined;
  /** Of all commands and groups that the layer was given. */
  private names: readonly string[] = [];
  private isOpen = false;
  /** One thing after the other. */
  private last: Promise<unknown> = Promise.resolve();

  constructor(
    private readonly folder: string,
    private readonly imports: Imports,
    private readonly transform: Transform | undefined,
    private readonly options: ModulesOptions<unknown>,
  ) {}

  async load(): Promise<void> {
    this.modules = await this.read(await findModules(this.folder), new Set());
    this.texts = await this.textsNow();
  }

  get list(): readonly ModuleListed[] {
    return this.modules.map(({ id, file, section, commands }) => ({
      id,
      file,
      section,
      commands: commands.map(entryName),
    }));
  }

  readonly commands = (layer: CommandLayer): readonly CommandOrGroup[] => {
    if (this.isOpen && layer !== this.layer)
      throw new TypeError('These modules serve another layer; load them once more');
    this.layer = layer;
    const own = this.options.commands?.(layer) ?? [];
    const all = [...this.modules.flatMap((module) => module.commands.map((one) => placed(one, module))), ...own];
    this.names = all.map(entryName);
    return all;
  };

  async open(): Promise<void> {
    const { layer } = this;
    if (layer === undefined)
      throw new TypeError('Give `modules.commands` to createCommandLayer before the modules open');
    if (this.isOpen) return;
    const others = commandsBesides(layer, this.names);
    if (others.length > 0) {
      throw new TypeError(
        `The layer has commands that no module gives: ${others.join(', ')}. A reload would lose them; give them to loadModules as \`commands\``,
      );
    }
    this.isOpen = true;
    layer.on('closed', () => void this.closeAll([...this.openings.keys()]));
    await this.openAll(this.modules);
  }

  reload(id?: string): Promise<Reloaded> {
    const next = this.last.then(() => this.reloadNow(id));
    this.last = next.catch(() => undefined);
    return next;
  }

  watch(): () => void {
    const { layer } = this;
    if (layer === undefined)
      throw new TypeError('Give `modules.commands` to createCommandLayer before they are watched');
    const { log } = insideOf(layer).basis;
    let told = '';
    const reload = async () => {
      try {
        const reloaded = await this.reload();
        told = '';
        if (Object.values(reloaded).some(({ length }) => length > 0))
          log.info?.({ ...reloaded }, 'Modules were reloaded');
      } catch (error) {
        // One that was under way as the bot closed has nothing to tell.
        if (insideOf(layer).current.isClosing) return;
        const { message } = error as Error;
        if (message !== told) log.error({ error }, 'Modules were not reloaded; the old ones run on');
        told = message;
      }
    };
    const stop = watchFolder(this.folder, reload, (error) => log.error({ error }, 'Modules are not watched any more'));
    const forget = layer.on('closed', stop);
    return () => {
      forget();
      stop();
    };
  }

  private async reloadNow(id: string | undefined): Promise<Reloaded> {
    const { layer, modules: before } = this;
    if (layer === undefined)
      throw new TypeError('Give `modules.commands` to createCommandLayer before they are reloaded');
    if (insideOf(layer).current.isClosing) throw new TypeError('The layer is closed; nothing is reloaded');
    const files = await findModules(this.folder);
    const texts = await this.textsNow(files);
    const known = new Map(before.map((module) => [module.id, module]));
    const stale = this.imports.withImporters(id === undefined ? this.changedSince(texts) : [this.urlOf(id, files)]);
    await this.imports.renew(stale);
    const read = await this.read(files, stale);
    const seen = entriesSeenBy(layer);
    this.modules = read;
    try {
      layer.replace(this.commands);
    } catch (error) {
      this.modules = before;
      throw declarationProblems(error, read);
    }
    this.texts = texts;
    const changed = read.filter((module) => known.get(module.id) !== module);
    const removed = before.filter(({ id: old }) => !read.some((module) => module.id === old)).map(({ id: old }) => old);
    if (this.isOpen) {
      await this.closeAll([...changed.map((module) => module.id), ...removed]);
      await this.openAll(changed);
    }
    const isNew = ({ id: now }: ReadModule) => !known.has(now);
    const ids = (all: readonly ReadModule[]) => all.map((module) => module.id);
    return {
      changed: ids(changed.filter((one) => !isNew(one))),
      added: ids(changed.filter(isNew)),
      removed,
      toRegister: changedEntries(seen, entriesSeenBy(layer)),
    };
  }

  /**
   * All modules: those that are stale or new are read, the others stay.
   *
   * @throws ModulesError with every problem of every file
   */
  private async read(files: readonly ModuleFile[], stale: ReadonlySet<string>): Promise<readonly ReadModule[]> {
    const known = new Map(this.modules.map((module) => [module.id, module]));
    const read = await Promise.all(
      files.map((file) => {
        const old = known.get(file.id);
        if (old !== undefined && old.path === file.path && !stale.has(urlOf(file))) return old;
        return readModule(file, this.options.services, this.imports, this.transform);
      }),
    );
    await this.imports.settled();
    const problems: ModuleProblem[] = [];
    const modules: ReadModule[] = [];
    for (const one of read) {
      if (Array.isArray(one)) problems.push(...one);
      else modules.push(one as ReadModule);
    }
    problems.push(...twiceProblems(modules), ...circleProblems(this.folder, this.imports.importers));
    if (problems.length > 0) throw new ModulesError(problems.sort((a, b) => (a.file < b.file ? -1 : 1)));
    return modules;
  }

  /** Of the modules, and of what they import from the folder. */
  private async textsNow(files?: readonly ModuleFile[]): Promise<Map<string, string>> {
    const under = `${pathToFileURL(this.folder).href}/`;
    const urls = new Set([...(files ?? this.modules).map(urlOf), ...this.texts.keys()]);
    for (const imported of this.imports.importers.keys()) if (imported.startsWith(under)) urls.add(imported);
    const texts = await Promise.all([...urls].map(async (url) => [url, await sourceText(url)] as const));
    return new Map(texts);
  }

  private changedSince(texts: ReadonlyMap<string, string>): readonly string[] {
    return [...texts].filter(([url, text]) => this.texts.get(url) !== text).map(([url]) => url);
  }

  private urlOf(id: string, files: readonly ModuleFile[]): string {
    const file = files.find((one) => one.id === id || one.file === id);
    if (file === undefined) throw new TypeError(`There is no module ${id}`);
    return urlOf(file);
  }

  private async openAll(modules: readonly ReadModule[]): Promise<void> {
    const { layer, options } = this;
    if (layer === undefined) return;
    await Promise.all(
      modules.map((module) => {
        const opening = new ModuleOpening(module, layer, options.services);
        this.openings.set(module.id, opening);
        return opening.open();
      }),
    );
  }

  private async closeAll(ids: readonly string[]): Promise<void> {
    await Promise.all(
      ids.map((id) => {
        const opening = this.openings.get(id);
        this.openings.delete(id);
        return opening?.close();
      }),
    );
  }
}

function urlOf({ path }: ModuleFile): string {
  return pathToFileURL(path).href;
}

/** Nothing where the file is gone. */
function sourceText(url: string): Promise<string> {
  return readFile(new URL(url), 'utf8').catch(() => '');
}
