import { type Clock, type CommandLayer, createCommandLayer, type Log } from 'taxeon';
import type { Registrar } from 'taxeon/platform';

export const openBot = (given: { readonly clock?: Clock; readonly log?: Log }) =>
  createCommandLayer({ ...given, commands: [], prefixes: ['!'] });
export declare const layer: CommandLayer;
export declare function myRegistrar(credential: string): Registrar;
