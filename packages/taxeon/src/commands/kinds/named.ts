/** Finding the one of many that a text names: what users, members, roles and channels share. */
import { oneOf } from '../../base/fields.js';
import { calledName, echoText, foldName } from '../../base/text.js';
import { isThenable, type MaybePromise } from '../../base/thenable.js';
import type { Guild } from '../../contract/places.js';
import type { Directory } from '../../contract/platform.js';
import { type Kind, Misread } from '../kind.js';

/** How a name may be given. `'exact'` leaves out unique beginnings, for commands that must not hit the wrong one. */
export type NameMatch = 'beginning' | 'exact';

export const matchFields = { match: oneOf('beginning', 'exact') };

interface NamedThing {
  readonly id: string;
  readonly name: string;
}

const MOST_NAMED = 5;
/** A name of more words is written in quotes. */
export const MOST_WORDS = 4;
export const LONGEST_NAME = 100;

/**
 * Picks by id, exact name, or unique beginning, in this order.
 *
 * @returns `undefined` where nothing fits, and a `Misread` that names the matches where several do.
 */
export function pickNamed<T extends NamedThing>(
  typed: string,
  all: readonly T[],
  match: NameMatch,
): T | Misread | undefined {
  const wanted = plainName(typed);
  if (wanted === '') return undefined;
  const exact = all.filter(({ id, name }) => id === typed || plainName(name) === wanted);
  const matches = exact.length > 0 || match === 'exact' ? exact : beginningWith(all, wanted);
  if (matches.length < 2) return matches[0];
  const told = matches.slice(0, MOST_NAMED);
  const names = told.map(calledName);
  // Those who are called alike are told apart by what can be typed for each.
  const apart = names.map((name, at) =>
    names.indexOf(name) === names.lastIndexOf(name) ? name : echoText((told[at] as T).id),
  );
  return new Misread('argument.ambiguous', { matches: apart });
}

/**
 * Whether a known name begins with these words. Asked of words alone, so that `wren 50` needs no look-up, and only where
 * the answer is there at once: otherwise such a name is written in quotes.
 *
 * @param named those whose names begin with a text
 */
export function namesGoOn(
  named: (directory: Directory, guild: Guild, name: string) => MaybePromise<readonly NamedThing[]>,
): NonNullable<Kind<unknown>['goesOn']> {
  /** Directories that have to ask their platform: for what nobody waits for, they are not asked again. */
  const asking = new WeakSet<Directory>();
  return (word, typed, { platform, guild }) => {
    if (guild === undefined || platform === undefined || !isWord(word)) return false;
    const name = `${typed} ${word}`.replace(/\s+/g, ' ');
    if (name.length > LONGEST_NAME) return false;
    const { directory } = platform;
    if (asking.has(directory)) return false;
    const all = named(directory, guild, name.replace(/[,.;:!?]+$/, ''));
    if (!isThenable(all)) return all.length > 0;
    asking.add(directory);
    all.then(undefined, () => undefined);
    return false;
  };
}

/** Those of a list whose names begin with a text. */
export function beginningWith<T extends NamedThing>(all: readonly T[], name: string): readonly T[] {
  const wanted = plainName(name);
  return all.filter((one) => plainName(one.name).startsWith(wanted));
}

/** A letter first: neither a mention nor a number. */
export function isWord(text: string): boolean {
  const first = text.charCodeAt(0);
  return first < 0x80 ? (first | 0x20) >= 0x61 && (first | 0x20) <= 0x7a : /^\p{L}/u.test(text);
}

/** Some systems show a channel's name with a sign in front, which people leave out. */
function plainName(name: string): string {
  return foldName(name.replace(/^#/, ''));
}
