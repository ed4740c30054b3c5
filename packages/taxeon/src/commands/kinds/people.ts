import { aFlag, type Fields, oneOf } from '../../base/fields.js';
import { nearNames } from '../../base/near.js';
import { echoText, isLetter } from '../../base/text.js';
import { andThen, isThenable, type MaybePromise, textAtOnce } from '../../base/thenable.js';
import { isPerson, type Member, type User } from '../../contract/actors.js';
import type { Guild } from '../../contract/places.js';
import type { Directory } from '../../contract/platform.js';
import { type ArgOf, type ArgOptions, type DefaultFrom, type Exactly, makeArg, type NoOptions } from '../arg.js';
import { isNotOfShape, type Kind, Misread, notOfShape, type ReadingContext, type ReadResult, takeIf } from '../kind.js';
import { plainly } from './expected.js';
import { AskedLists, foundIn, matchFields, named } from './named.js';
import { firstWord, isWord, LONGEST_NAME, MOST_WORDS, type NameMatch, withoutAccents, withoutStop } from './names.js';

export interface MemberOptions extends ArgOptions<DefaultFrom<Member>> {
  readonly match?: NameMatch;
  /** `'mention'` reads mentions alone, so that an optional member can tell whether a word is meant for it. */
  readonly by?: 'mention';
  /** Whether the bot itself may be named; what is done to it is refused otherwise. */
  readonly orBot?: boolean;
}

const memberFields: Fields<Omit<MemberOptions, keyof ArgOptions<unknown>>> = {
  ...matchFields,
  by: oneOf('mention'),
  orBot: aFlag,
};

/**
 * A person in this guild, by mention, id, exact name or unique beginning of a name.
 * Several matches are named in the reply, never guessed between. A command with one is `in: 'guild'`.
 *
 * @example
 * arg.member({ description: 'Who was shown the machine' })
 */
export function member<const Options extends MemberOptions = NoOptions>(
  options?: Exactly<Options, MemberOptions>,
): ArgOf<Member, 'member', Options> {
  const kind =
    options?.by === 'mention' ? mentionedMember : (memberKinds[options?.match ?? 'beginning'] ?? memberKinds.exact);
  const orBot = { ...kind, traits: { ...kind.traits, orBot: true } } as const;
  return makeArg('member', options?.orBot === true ? orBot : kind, options as Options, [], memberFields);
}

export interface UserOptions extends ArgOptions<DefaultFrom<User>> {}

/**
 * A person the platform knows, in this guild or not, by mention, id or exact name.
 *
 * @example
 * arg.user({ description: 'Whose card it is' })
 */
export function user<const Options extends UserOptions = NoOptions>(
  options?: Exactly<Options, UserOptions>,
): ArgOf<User, 'user', Options> {
  return makeArg('user', userKind, options as Options);
}

/** Where a name was mistyped, more are not compared. */
const MOST_COMPARED = 1000;

const nothing = () => undefined;
const isMember = (value: unknown) => isKind(value, 'member');
const isUser = (value: unknown) => isKind(value, 'user') || isMember(value);

function isKind(value: unknown, kind: string): boolean {
  return typeof value === 'object' && value !== null && (value as { kind?: unknown }).kind === kind;
}

/** Those whose names begin with a word. */
const begunBy = new AskedLists<Member>(
  ({ platform }) => ({ name: ({ name }) => name, apart: (member) => mentionOf(member, platform?.directory) }),
  ({ platform, guild }, word) =>
    platform === undefined || guild === undefined ? undefined : platform.directory.membersNamed(guild, barely(word)),
  true,
);

/** By what people who are called alike are told apart; a number is nothing that they see. */
function mentionOf(member: Member, directory: Directory | undefined): string | undefined {
  const mention = textAtOnce(directory?.mention?.(member));
  return /^\d+$/.test(member.id) && mention?.includes(member.id) === true ? undefined : mention;
}

/** A word without the sign in front of a name, and what ends a sentence behind it. */
function barely(word: string): string {
  return withoutStop(word.replace(/^@(?=.)/, ''));
}

const memberKinds: Readonly<Record<NameMatch, Kind<Member>>> = {
  beginning: memberKind('beginning'),
  exact: memberKind('exact'),
};

const mentionedMember: Kind<Member> = {
  ...memberKinds.exact,
  tokens: 1,
  expected: plainly('mention', 'a person here, by mention'),
  leavesQuoted: true,
  // Mentions differ from system to system; what none of them begins with is a letter or a digit.
  shape: (typed) => typed.length > 1 && !/^[\p{L}\p{N}]/u.test(typed),
  read(typed, context) {
    const id = textAtOnce(context.platform?.directory.mentioned(typed, 'person'));
    return id === undefined ? notOfShape : readMember(typed, 'exact', context);
  },
  write(member, directory) {
    const mention = textAtOnce(directory?.mention?.(member));
    if (mention !== undefined) return mention;
    throw new TypeError(`${member.name} is written as a mention, which only their platform knows; pass it`);
  },
  suggest: (typed, context) =>
    suggested(typed, context, (member, { mention }) => textAtOnce(mention?.(member)) ?? member.name),
  // Who is picked from a list is given by id, which is as sure as a mention; a name is not.
  get asOption() {
    return mentionedOption;
  },
};

const mentionedOption: Kind<Member> = {
  ...memberKinds.exact,
  expected: mentionedMember.expected,
  read(typed, context) {
    const { guild, platform } = context;
    if (guild === undefined || platform === undefined || typed === '') return notOfShape;
    const id = textAtOnce(platform.directory.mentioned(typed, 'person'));
    if (id !== undefined) return readMember(typed, 'exact', context);
    return andThen(platform.directory.member(guild, typed), (found: Member | undefined) => found ?? notOfShape);
  },
  suggest: mentionedMember.suggest as NonNullable<Kind<Member>['suggest']>,
};

function memberKind(match: NameMatch): Kind<Member> {
  return {
    name: 'member',
    expected: plainly('member', 'a person here, by mention or name'),
    example: mentionOfCaller,
    tokens: MOST_WORDS,
    begins: (word) => isWord(barely(word)),
    goesOnWith: isLetter,
    // Who is mentioned, or named by an id, is found without.
    prepare: (word, context) => {
      if (textAtOnce(context.platform?.directory.mentioned(word, 'person')) !== undefined) return undefined;
      const list = begunBy.of(context, word);
      return isThenable(list) ? list.then(nothing, nothing) : undefined;
    },
    goesOn: (word, typed, context) =>
      isWord(word) && begunBy.atHand(context, firstWord(typed))?.index.goesOn(typed, word) === true,
    leavesQuoted: false,
    read: (typed, context) => readMember(typed, match, context),
    take: takeIf(isMember),
    write: ({ id }) => id,
    suggest: (typed, context) => suggested(typed, context, ({ name }) => name),
    isValue: isMember,
    traits: { ofGuild: true, members: true, looksUp: ['member', 'membersNamed'], namesCaller: true },
  };
}

const userKind: Kind<User> = {
  name: 'user',
  expected: plainly('user', 'a person, by mention or name'),
  example: mentionOfCaller,
  tokens: 1,
  leavesQuoted: false,
  read(typed, { platform }) {
    const directory = platform?.directory;
    if (directory === undefined || typed === '') return notOfShape;
    const found = directory.user(textAtOnce(directory.mentioned(typed, 'person')) ?? typed);
    return isThenable(found) ? found.then((somebody) => somebody ?? notOfShape) : (found ?? notOfShape);
  },
  take: takeIf(isUser),
  traits: { looksUp: ['user'], namesCaller: true },
  write: ({ id }) => id,
  isValue: isUser,
};

/** The caller exists. */
function mentionOfCaller({ caller, platform }: ReadingContext): string | undefined {
  return isPerson(caller) ? textAtOnce(platform?.directory.mention?.(caller)) : undefined;
}

/** Hot path: bench/rows/calls. Mention and id first: they say exactly who is meant. */
function readMember(typed: string, match: NameMatch, context: ReadingContext): MaybePromise<ReadResult<Member>> {
  const directory = context.platform?.directory;
  const { guild } = context;
  if (directory === undefined || guild === undefined || typed === '') return notOfShape;
  const id = textAtOnce(directory.mentioned(typed, 'person'));
  const found = directory.member(guild, id ?? typed);
  if (found !== undefined && !isThenable(found)) return found;
  return andThen(
    found,
    (somebody: Member | undefined) =>
      somebody ??
      (id === undefined
        ? memberByName(typed, match, context, directory, guild)
        : absent(id, context, directory, guild)),
  );
}

function memberByName(
  typed: string,
  match: NameMatch,
  context: ReadingContext,
  directory: Directory,
  guild: Guild,
): MaybePromise<ReadResult<Member>> {
  const name = typed.replace(/^@(?=.)/, '');
  return andThen(begunBy.of(context, firstWord(typed)), (list): MaybePromise<ReadResult<Member>> => {
    const read = foundIn(list, name, match);
    // Several words were taken together since they almost are a name.
    if (!isNotOfShape(read)) return read;
    return andThen(absent(name, context, directory, guild), (found: Member | Misread) =>
      found === notOfShape ? likely(name, match, directory, guild) : found,
    );
  });
}

/** Who is called so but for accents, or nearly so: among those whose names begin with the same letter. */
function likely(typed: string, match: NameMatch, directory: Directory, guild: Guild): MaybePromise<ReadResult<Member>> {
  if (typed.length > LONGEST_NAME || !isWord(typed)) return notOfShape;
  return andThen(directory.membersNamed(guild, withoutAccents(typed).slice(0, 1)), (all): ReadResult<Member> => {
    const compared = all.slice(0, MOST_COMPARED);
    const wanted = withoutAccents(typed);
    const same = match === 'exact' ? [] : compared.filter(({ name }) => withoutAccents(name) === wanted);
    const [first] = same;
    if (first !== undefined) return named(first.name, same) ?? notOfShape;
    const names = new Map(compared.map(({ name }) => [withoutAccents(name), name]));
    const near = nearNames(wanted, names.keys()).map((name) => names.get(name) ?? name);
    return near.length === 0
      ? notOfShape
      : new Misread('argument.invalid', { misfit: 'shape', near: near.map((name) => echoText(name)) });
  });
}

/**
 * A person the platform knows under that name may be here under another spelling of it. That the bot knows them from
 * elsewhere is for its owners alone.
 */
function absent(
  idOrName: string,
  { ownsBot }: ReadingContext,
  directory: Directory,
  guild: Guild,
): MaybePromise<Member | Misread> {
  return andThen(directory.user(idOrName), (somebody: User | undefined) => {
    if (somebody === undefined) return notOfShape;
    return andThen(
      somebody.id === idOrName ? undefined : directory.member(guild, somebody.id),
      (found: Member | undefined) => found ?? (ownsBot ? new Misread('argument.absent-member', {}) : notOfShape),
    );
  });
}

function suggested(
  typed: string,
  { platform, guild }: ReadingContext,
  written: (member: Member, directory: Directory) => string,
): MaybePromise<readonly string[]> {
  if (platform === undefined || guild === undefined) return [];
  const { directory } = platform;
  return andThen(
    directory.membersNamed(guild, textAtOnce(directory.mentioned(typed, 'person')) ?? typed),
    (all: readonly Member[]) => all.map((member) => written(member, directory)),
  );
}
