import type { Actor, Clock, Place } from 'taxeon';

export interface Library {
  lend(tool: string, to: Actor): string;
  tools(guild: string): readonly { readonly name: string; readonly kind: string }[];
  late(): readonly string[];
  search(place: Place, typed: string, options: { readonly signal: AbortSignal }): Promise<readonly string[]>;
}
export declare const library: Library;
export declare function openLibrary(clock: Clock): Library;
