import { andThen, type MaybePromise, textAtOnce } from '../../base/thenable.js';
import type { Role } from '../../contract/actors.js';
import type { Channel, Guild } from '../../contract/places.js';
import type { Directory } from '../../contract/platform.js';
import { type ArgOf, type ArgOptions, type DefaultFrom, type Exactly, makeArg, type NoOptions } from '../arg.js';
import { type Kind, notOfShape, type ReadingContext, type ReadResult, takeIf } from '../kind.js';
import { plainly } from './expected.js';
import { AskedLists, asked, foundIn, matchFields, type NameList, namedBy } from './named.js';
import type { NameMatch } from './names.js';

export interface RoleOptions extends ArgOptions<DefaultFrom<Role>> {
  readonly match?: NameMatch;
}

/**
 * A role of this guild, by mention, id, exact name or unique beginning. A command with one is `in: 'guild'`.
 *
 * @example
 * arg.role({ description: 'Who may borrow it' })
 */
export function role<const Options extends RoleOptions = NoOptions>(
  options?: Exactly<Options, RoleOptions>,
): ArgOf<Role, 'role', Options> {
  return makeArg(
    'role',
    roleKinds[options?.match ?? 'beginning'] ?? roleKinds.exact,
    options as Options,
    [],
    matchFields,
  );
}

export interface ChannelOptions extends ArgOptions<DefaultFrom<Channel>> {
  readonly match?: NameMatch;
}

/**
 * A channel of this guild, by mention, id, exact name or unique beginning, with or without a `#` in front.
 * A command with one is `in: 'guild'`.
 *
 * @example
 * arg.channel({ description: 'Where to tell it' })
 */
export function channel<const Options extends ChannelOptions = NoOptions>(
  options?: Exactly<Options, ChannelOptions>,
): ArgOf<Channel, 'channel', Options> {
  return makeArg(
    'channel',
    channelKinds[options?.match ?? 'beginning'] ?? channelKinds.exact,
    options as Options,
    [],
    matchFields,
  );
}

interface RoleOrChannel {
  readonly id: string;
  readonly name: string;
}

const byName = { name: ({ name }: RoleOrChannel) => name };

const roleKinds = bothMatches(
  'role',
  ({ caller }) => (caller.kind === 'member' ? caller.roles[0]?.name : undefined),
  (directory, guild) => directory.roles(guild),
);
const channelKinds = bothMatches(
  'channel',
  ({ place }) => (place.kind === 'guild' ? place.channel.name : undefined),
  (directory, guild) => directory.channels(guild),
);

function bothMatches<T extends RoleOrChannel>(
  what: 'role' | 'channel',
  example: Kind<T>['example'],
  listing: (directory: Directory, guild: Guild) => MaybePromise<readonly T[]>,
): Readonly<Record<NameMatch, Kind<T>>> {
  const lists = new AskedLists<T>(
    () => byName,
    ({ platform, guild }) =>
      platform === undefined || guild === undefined ? undefined : listing(platform.directory, guild),
  );
  /** Mention and id first: they say exactly which is meant. */
  const exactly = (list: NameList<T>, typed: string, { platform }: ReadingContext) => {
    const id = textAtOnce(platform?.directory.mentioned(typed, what));
    return list.things.find((one) => one.id === (id ?? typed)) ?? (id === undefined ? undefined : notOfShape);
  };
  const kindOf = (match: NameMatch, byName = namedBy(asked(lists, false), match)): Kind<T> => ({
    ...byName,
    name: what,
    expected: plainly(what, `a ${what} here, by mention or name`),
    traits: { ofGuild: true, looksUp: [`${what}s`] },
    example,
    shape(typed, context) {
      const list = context && lists.atHand(context, '');
      return (
        list !== undefined &&
        (exactly(list, typed, context as ReadingContext) !== undefined || byName.shape(typed, context))
      );
    },
    read: (typed, context) =>
      andThen(lists.of(context, ''), (list): ReadResult<T> => {
        if (typed === '') return notOfShape;
        return exactly(list, typed, context) ?? foundIn(list, typed, match);
      }),
    take: takeIf(isValue),
    write: ({ id }) => id,
    isValue,
  });
  return { beginning: kindOf('beginning'), exact: kindOf('exact') };
}

function isValue(value: unknown): boolean {
  const { id, name } = Object(value) as Partial<RoleOrChannel>;
  return typeof id === 'string' && typeof name === 'string';
}
