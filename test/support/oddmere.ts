/** The demo library on a simulated platform, at a time that stands still until told to move. */
import { readFileSync } from 'node:fs';
import { type DemoData, mallet } from '@oddmere/tool-library';
import { type Exchange, type StandIn, standIn, type VirtualClock, virtualClock, type World } from '@taxeon/testing';
import {
  type CommandLayer,
  type CommandsOf,
  createCommandLayer,
  type LayerOptions,
  type Outcome,
  type Store,
} from 'taxeon';
import { emptyDirectory, type LiveLimit } from 'taxeon/platform';
import { parse } from 'yaml';

export const oddmereFile = new URL('../../examples/tool-library/data/oddmere.yaml', import.meta.url);

export function oddmereData(): DemoData {
  return parse(readFileSync(oddmereFile, 'utf8'));
}

export const startOfAfternoon = Date.parse('2026-05-09T13:00:00Z');

export interface Scene {
  readonly clock: VirtualClock;
  readonly platform: StandIn;
  readonly layer: CommandLayer;
  /** Types a line: `types('ines', '!shelf')`, at the counter unless told otherwise. */
  types(by: string, text: string, at?: string): Promise<Exchange>;
  invokes(by: string, name: string, options?: Record<string, unknown>, at?: string): Promise<Exchange>;
  /** Types a line at the bot's console. */
  console(text: string): Promise<Exchange>;
}

type OwnLayer = (options: { readonly clock: VirtualClock }) => CommandLayer;

/** Opens the demo's Mallet, or a layer of the test's own, in the demo's world. */
export async function oddmere(own?: OwnLayer, world?: World): Promise<Scene> {
  const data = oddmereData();
  const clock = virtualClock(startOfAfternoon);
  const platform = standIn(world ?? data.world, { clock });
  const layer = own?.({ clock }) ?? mallet(data, { clock, log: silentLog });
  await platform.serve(layer);
  return {
    clock,
    platform,
    layer,
    types: (by, text, at = 'oddmere/counter') => platform.send(platform.typed({ person: by, place: at, text })),
    invokes: (by, name, options = {}, at = 'oddmere/counter') =>
      platform.send(platform.invoked({ person: by, place: at, path: [name], options })),
    console: (text) => platform.send(platform.typed({ place: 'console', text })),
  };
}

/** A directory of a platform that knows nobody. */
export const nobodyKnown = emptyDirectory;

/** All that a store counts. */
export async function liveIn(store: Store): Promise<LiveLimit[]> {
  const all: LiveLimit[] = [];
  for await (const page of store.live()) all.push(...page);
  return all;
}

export const silentLog = { error: () => undefined, warn: () => undefined };

/** A layer of these commands alone, with the prefix `!`, in the demo's world or another. */
export function sceneOf(commands: CommandsOf, options: Partial<LayerOptions> = {}, world?: World): Promise<Scene> {
  const own: OwnLayer = ({ clock }) =>
    createCommandLayer({ commands, prefixes: ['!'], clock, log: silentLog, ...options });
  return oddmere(own, world);
}

/** What an outcome says of the call, without what only a surface can tell. */
export function gist(outcome: Outcome) {
  if (outcome.status === 'ignored') return { status: outcome.status };
  const { status, command, args } = outcome;
  const coded = 'code' in outcome ? { code: outcome.code, parameters: outcome.parameters } : {};
  return { status, command, args, ...coded };
}

/** The code of an outcome, or its status where it has none. */
export function codeOf(outcome: Outcome): string {
  return 'code' in outcome ? outcome.code : outcome.status;
}
