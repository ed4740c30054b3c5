/** Finding the one of many that a text names: what users, members, roles and channels share. */
import { oneOf } from '../../base/fields.js';
import { calledName, echo, foldName } from '../../base/text.js';
import { Misread } from '../kind.js';

/** How a name may be given. `'exact'` leaves out unique beginnings, for commands that must not hit the wrong one. */
export type NameMatch = 'beginning' | 'exact';

export const matchFields = { match: oneOf('beginning', 'exact') };

interface Named {
  readonly id: string;
  readonly name: string;
}

const MOST_NAMED = 5;

/**
 * Picks by id, exact name, or unique beginning, in this order.
 *
 * @returns `undefined` where nothing fits, and a `Misread` that names the matches where several do.
 */
export function pickNamed<T extends Named>(
  typed: string,
  all: readonly T[],
  match: NameMatch,
): T | Misread | undefined {
  const wanted = plainName(typed);
  if (wanted === '') return undefined;
  const exact = all.filter(({ id, name }) => id === typed || plainName(name) === wanted);
  const matches =
    exact.length > 0 || match === 'exact' ? exact : all.filter(({ name }) => plainName(name).startsWith(wanted));
  if (matches.length < 2) return matches[0];
  const told = matches.slice(0, MOST_NAMED);
  const names = told.map(calledName);
  // Those who are called alike are told apart by what can be typed for each.
  const apart = names.map((name, at) =>
    names.indexOf(name) === names.lastIndexOf(name) ? name : echo((told[at] as T).id),
  );
  return new Misread('argument.ambiguous', { matches: apart });
}

/** Some systems show a channel's name with a sign in front, which people leave out. */
function plainName(name: string): string {
  return foldName(name.replace(/^#/, ''));
}
