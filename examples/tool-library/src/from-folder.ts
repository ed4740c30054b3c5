/** Mallet with its commands read from their folder, so that they can be read anew while it runs. */
import type { CommandLayer } from 'taxeon';
import { loadModules, type Modules, modulesCommand } from 'taxeon/modules';
import { type DemoData, layerOf, type MalletOptions, partsOf } from './index.js';

export interface LoadedMallet {
  readonly layer: CommandLayer;
  readonly modules: Modules;
}

export interface FolderOptions extends MalletOptions {
  /** The folder; the one beside this file by default. */
  readonly folder?: URL;
}

export async function malletFromFolder(
  data: Omit<DemoData, 'world'>,
  { folder = new URL('./commands/', import.meta.url), ...options }: FolderOptions = {},
): Promise<LoadedMallet> {
  const parts = partsOf(data, options);
  const modules: Modules = await loadModules(folder, {
    services: parts.services,
    // Tells the line of a mistake, also in JavaScript.
    transform: import.meta.resolve('oxc-transform'),
    commands: (layer) => [...parts.ready(layer), modulesCommand(modules)],
  });
  return { layer: layerOf(data, parts, modules.commands, options), modules };
}
