/** For adapters to systems that tell little about who is where. */
import type { Member } from './actors.js';
import { nobody, none } from './look-ups.js';
import type { Directory } from './platform.js';

/**
 * A directory that knows nobody and nothing: spread it, and write what your system knows over it. What it does not
 * know is refused, and never guessed.
 *
 * @example
 * const directory: Directory = { ...emptyDirectory, bot: () => ({ kind: 'user', id: 'mallet', name: 'Mallet' }) };
 */
export const emptyDirectory: Directory = {
  bot: nobody,
  self: nobody,
  mentioned: nobody,
  member: nobody,
  membersNamed: none,
  user: nobody,
  roles: none,
  channels: none,
};

/**
 * What a member has where the platform does not tell it: no permissions and no roles, of which `explain` says that they
 * were not told. Spread it.
 *
 * @example
 * const member: Member = { kind: 'member', id: 'wren', name: 'Wren', ownsGuild: false, ...unknownRights };
 */
export const unknownRights: Pick<Member, 'permissions' | 'roles' | 'rank'> = {
  permissions: Object.assign(new Set<string>(), { add: cannotAdd }),
  roles: Object.freeze([]),
  rank: undefined,
};

/** It is shared by all who have it: what is added for one would be allowed to all. */
function cannotAdd(): never {
  throw new TypeError('What a platform does not tell is not added to; give the member a Set of its own');
}
