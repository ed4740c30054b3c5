/** What a layer shows to queries, and to nobody else: found by a mark, so that several copies of the library get along. */
import { compatible, version } from '../base/version.js';
import type { Input } from '../contract/input.js';
import type { Platform } from '../contract/platform.js';
import { undecided } from '../guilds/book.js';
import { nameBehind } from '../pipeline/match.js';
import type { Course } from '../pipeline/stage.js';
import { lookingAt } from '../pipeline/stages.js';
import { type Heard, heardOn } from '../pipeline/state.js';
import type { Language } from '../replies/language.js';
import type { Wiring } from './wiring.js';

const MARK = 'taxeon.layer@';

/** What stands behind it may change with the next version that is not compatible. */
const insideKey: unique symbol = Symbol.for(`${MARK}${compatible}`);

export interface Inside extends Omit<Wiring, 'malformed'> {
  readonly version: string;
  readonly course: Course;
  /** Those that are connected, by name. */
  readonly platforms: ReadonlyMap<string, Platform>;
  /** Sets of guilds by name. */
  readonly scopes: Readonly<Record<string, readonly string[]>>;
  /** Besides English. */
  readonly languages: readonly Language[];
}

interface WithInside {
  readonly [insideKey]: Inside;
}

export function withInside(inside: Inside): object {
  return { [insideKey]: inside } satisfies WithInside;
}

/**
 * What stands behind a layer.
 *
 * @throws TypeError where it is none, or one of a version that is not compatible.
 */
export function insideOf(layer: object): Inside {
  const inside = (layer as Partial<WithInside>)[insideKey];
  if (inside !== undefined) return inside;
  const other = Object.getOwnPropertySymbols(layer).find(({ description = '' }) => description.startsWith(MARK));
  if (other === undefined)
    throw new TypeError('This is no command layer, or it is not made yet; give what createCommandLayer has given');
  const { version: theirs } = (layer as unknown as Readonly<Record<symbol, { readonly version: string }>>)[other] ?? {
    version: 'another version',
  };
  throw new TypeError(
    `The layer was made by taxeon ${theirs}, and this function is of taxeon ${version}; install one of the two for both`,
  );
}

/**
 * What stands behind a layer; nothing where it is a double of one.
 *
 * @throws TypeError where it is one of a version that is not compatible.
 */
export function insideIfLayer(handler: object): Inside | undefined {
  const isLayer = Object.getOwnPropertySymbols(handler).some(({ description = '' }) => description.startsWith(MARK));
  return isLayer ? insideOf(handler) : undefined;
}

/**
 * The state of an input for a query; the guild's settings are read where they are not in memory.
 *
 * @param known where in the text the command's name begins, if that is known
 */
export async function lookFrom(
  { addressing, current, guilds, course }: Inside,
  input: Input,
  platform: Platform | undefined,
  known?: number,
): Promise<Heard> {
  const { place } = input;
  const { compiled, prefixes = addressing.prefixes } =
    place.kind === 'guild' ? await guilds.read(platform?.name ?? '', place.guild.id) : undecided;
  const nameAt = known ?? Math.max(0, nameBehind(addressing, current, input, platform, prefixes));
  return heardOn(lookingAt(course, false), input, platform, nameAt, compiled);
}
