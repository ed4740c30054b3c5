import { isThenable, type MaybePromise } from '../../base/thenable.js';
import type { Member } from '../../contract/actors.js';
import type { Guild } from '../../contract/places.js';
import { type Directory, guildOf } from '../../contract/platform.js';
import { type ArgOf, type ArgOptions, type DefaultFrom, type Exactly, makeArg, type NoOptions } from '../arg.js';
import { type Kind, Misread, notOfShape, type ReadingContext } from '../kind.js';

export interface MemberOptions extends ArgOptions<DefaultFrom<Member>> {
  /** `'exact'` leaves out unique beginnings, for commands that must not hit the wrong person. */
  readonly match?: 'beginning' | 'exact';
}

/**
 * Somebody in this guild, by mention, id, exact name or unique beginning of a name.
 * Several matches are named in the reply, never guessed between. A command with one is `in: 'guild'`.
 *
 * @example
 * arg.member({ description: 'Who was shown the machine' })
 */
export function member<const Options extends MemberOptions = NoOptions>(
  options?: Exactly<Options, MemberOptions>,
): ArgOf<Member, 'member', Options> {
  return makeArg('member', options?.match === 'exact' ? exactMember : anyMember, options as Options);
}

const anyMember = memberKind(false);
const exactMember = memberKind(true);

function memberKind(exact: boolean): Kind<Member> {
  return {
    name: 'member',
    expected: 'somebody in this guild, by mention or name',
    example: 'Wren',
    tokens: 1,
    leavesQuoted: false,
    read: (typed, context) => readMember(typed, exact, context),
    accepts: (value) => typeof value === 'object' && value !== null && (value as { kind?: unknown }).kind === 'member',
  };
}

/** Hot path: bench/dispatch. Mention and id first: they say exactly who is meant. */
function readMember(typed: string, exact: boolean, context: ReadingContext): MaybePromise<Member | Misread> {
  const directory = context.platform?.directory;
  const guild = guildOf(context.place);
  if (directory === undefined || guild === undefined || typed === '') return notOfShape;
  const mentioned = directory.mentionedId(typed);
  const found = directory.member(guild, mentioned ?? typed);
  const settle = (member: Member | undefined) =>
    member ?? (mentioned === undefined ? byName(typed, exact, directory, guild) : absent(mentioned, directory));
  return isThenable(found) ? found.then(settle) : settle(found);
}

function byName(typed: string, exact: boolean, directory: Directory, guild: Guild): MaybePromise<Member | Misread> {
  const settle = (matches: readonly Member[]) => pick(typed, exact, matches) ?? absent(typed, directory);
  const matches = directory.membersNamed(guild, typed);
  return isThenable(matches) ? matches.then(settle) : settle(matches);
}

function pick(typed: string, exact: boolean, matches: readonly Member[]): Member | Misread | undefined {
  const same = matches.filter((member) => member.name.length === typed.length);
  const candidates = exact || same.length > 0 ? same : matches;
  if (candidates.length < 2) return candidates[0];
  return new Misread('argument.ambiguous', { matches: candidates.slice(0, 5).map((member) => member.name) });
}

function absent(idOrName: string, directory: Directory): MaybePromise<Misread> {
  const settle = (user: unknown) => (user === undefined ? notOfShape : new Misread('argument.absent-member', {}));
  const user = directory.user(idOrName);
  return isThenable(user) ? user.then(settle) : settle(user);
}
