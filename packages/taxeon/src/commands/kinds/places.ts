import { isLetter } from '../../base/text.js';
import { andThen, isThenable, type MaybePromise, textAtOnce } from '../../base/thenable.js';
import type { Actor, Role } from '../../contract/actors.js';
import type { Channel, Guild } from '../../contract/places.js';
import type { Directory } from '../../contract/platform.js';
import { type ArgOf, type ArgOptions, type DefaultFrom, type Exactly, makeArg, type NoOptions } from '../arg.js';
import { type Kind, notOfShape, type ReadingContext, takeIf } from '../kind.js';
import { plainly } from './expected.js';
import { beginningWith, isWord, MOST_WORDS, matchFields, type NameMatch, namesGoOn, pickNamed } from './named.js';

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

type ListedBy<T> = (directory: Directory, guild: Guild) => MaybePromise<readonly T[]>;

const rolesOf: ListedBy<Role> = (directory, guild) => directory.roles(guild);
const channelsOf: ListedBy<Channel> = (directory, guild) => directory.channels(guild);

const roleKinds = bothMatches((match) => listedKind('role', ({ caller }) => exampleRole(caller), match, rolesOf));
const channelKinds = bothMatches((match) =>
  listedKind('channel', ({ place }) => (place.kind === 'guild' ? place.channel.name : undefined), match, channelsOf),
);

function exampleRole(caller: Actor): string | undefined {
  return caller.kind === 'member' ? caller.roles[0]?.name : undefined;
}

function bothMatches<T>(make: (match: NameMatch) => T): Readonly<Record<NameMatch, T>> {
  return { beginning: make('beginning'), exact: make('exact') };
}

function listedKind<T extends RoleOrChannel>(
  what: 'role' | 'channel',
  example: Kind<T>['example'],
  match: NameMatch,
  listing: ListedBy<T>,
): Kind<T> {
  function listed<R>(
    context: ReadingContext,
    otherwise: R,
    use: (all: readonly T[], directory: Directory) => R,
  ): MaybePromise<R> {
    const directory = context.platform?.directory;
    const { guild } = context;
    if (directory === undefined || guild === undefined) return otherwise;
    return andThen(listing(directory, guild), (entries) => use(entries, directory));
  }
  const isValue = (value: unknown) =>
    typeof value === 'object' &&
    value !== null &&
    typeof (value as Partial<RoleOrChannel>).id === 'string' &&
    typeof (value as Partial<RoleOrChannel>).name === 'string';
  return {
    name: what,
    expected: plainly(what, `a ${what} here, by mention or name`),
    traits: { ofGuild: true, looksUp: [`${what}s`] },
    example,
    tokens: MOST_WORDS,
    begins: (word) => isWord(word.replace(/^#/, '')),
    goesOnWith: isLetter,
    goesOn: namesGoOn((directory, guild, name) => {
      const all = listing(directory, guild);
      return isThenable(all) ? all : beginningWith(all, name);
    }),
    leavesQuoted: false,
    read: (typed, context) =>
      listed<ReturnType<Kind<T>['read']>>(context, notOfShape, (all, directory) => {
        if (typed === '') return notOfShape;
        const id = textAtOnce(directory.mentioned(typed, what));
        return (
          (id === undefined
            ? pickNamed(typed.replace(/\s+/g, ' '), all, match)
            : all.find((entry) => entry.id === id)) ?? notOfShape
        );
      }) as ReturnType<Kind<T>['read']>,
    take: takeIf(isValue),
    write: ({ id }) => id,
    suggest: (_, context) => listed<readonly string[]>(context, [], (all) => all.map(({ name }) => name)),
    isValue,
  };
}
