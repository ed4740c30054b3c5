import { type Clock, type CommandLayer, createCommandLayer, type Log, type Registrar } from 'taxeon';

export const openBot = (given: { readonly clock?: Clock; readonly log?: Log }) =>
  createCommandLayer({ ...given, commands: [], prefixes: ['!'] });
export declare const layer: CommandLayer;
export declare function myRegistrar(credential: string): Registrar;
