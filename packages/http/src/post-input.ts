/** What a post says, in the words of the layer: who used which command, where, with what. */

import type { Actor, Place, Role } from 'taxeon';
import { checkFields, type Fields, forms, type Input, unknownRights } from 'taxeon/platform';
import { isObject, shown } from './given.js';
import { PostRefusal } from './refusal.js';

/**
 * What a post says. Give what the system has posted as it stands: all of it is looked at, and what is not of the right
 * form is answered with 400, and a sentence in the log. Ids may be texts or whole numbers.
 */
export interface Posted {
  /** The event's id, the same where the system posts it again; without it, what is posted twice runs twice. */
  readonly id?: unknown;
  readonly caller: PostedCaller;
  /** Where it was used; without a guild it is a conversation with the caller alone. */
  readonly place?: PostedPlace;
  /** The command, with its groups: `'fine'`, `'/overdue remind'`, or `['overdue', 'remind']`. */
  readonly command: unknown;
  /** The options by argument name. */
  readonly options?: unknown;
  /** In place of options: what stands behind the command, as it is typed in a chat. */
  readonly text?: unknown;
  /** Where a late answer is to go: an address within `answers.origins`. */
  readonly answerTo?: unknown;
  /** The caller's language, BCP 47. */
  readonly locale?: unknown;
}

/** What a post says of the caller. What it does not say is not known, and what needs it is refused. */
export interface PostedCaller {
  readonly id: unknown;
  /** The id by default. */
  readonly name?: unknown;
  /** Names of permissions. */
  readonly permissions?: unknown;
  /** Ids, or `{ id, name }`. */
  readonly roles?: unknown;
  /** Higher is above. */
  readonly rank?: unknown;
  readonly ownsGuild?: unknown;
  readonly isBot?: unknown;
}

/** Where a command was used. */
export interface PostedPlace {
  readonly guild?: PostedName;
  readonly channel: PostedName;
}

/** Something with an id, and a name, which is the id by default. */
export interface PostedName {
  readonly id: unknown;
  readonly name?: unknown;
}

/** What a post comes to. */
export interface Mapped {
  readonly input: Input;
  readonly answerTo: string | undefined;
}

const fields: Fields<Posted> = {
  id: forms.anything,
  caller: forms.anything,
  place: forms.anything,
  command: forms.anything,
  options: forms.anything,
  text: forms.anything,
  answerTo: forms.anything,
  locale: forms.anything,
};
const callerFields: Fields<PostedCaller> = {
  id: forms.anything,
  name: forms.anything,
  permissions: forms.anything,
  roles: forms.anything,
  rank: forms.anything,
  ownsGuild: forms.anything,
  isBot: forms.anything,
};

/** The longest that a list of permissions, roles or names may be. */
const MOST = 1000;
/** In UTF-16 code units, as a layer takes them. */
const LONGEST_ID = 512;
const MOST_IN_PATH = 8;
const LONGEST_ADDRESS = 2000;

/** @param at when it arrived, in milliseconds since 1970-01-01 UTC */
export function postedInput(posted: unknown, at: number): Mapped | PostRefusal {
  try {
    return mappedInput(posted, at);
  } catch (error) {
    if (error instanceof MisfitError) return new PostRefusal(400, error.message, {}, error.of);
    throw error;
  }
}

/** What was mapped is not of the right form. */
class MisfitError extends Error {
  override readonly name = 'Misfit';

  constructor(
    message: string,
    /** Which part of it, in the words of `read`. */
    readonly of: string,
  ) {
    super(message);
  }
}

function mappedInput(posted: unknown, at: number): Mapped {
  checkShape('', posted, fields);
  const { id, caller, place, command, options, text, answerTo, locale } = posted as Posted;
  checkShape('caller', caller, callerFields);
  const where = postedPlace(place, caller);
  if (options !== undefined && text !== undefined)
    throw new MisfitError('it has options and text; map one of them', 'options');
  const input: Input = {
    surface: 'slash',
    caller: actorOf(caller, where),
    place: where,
    path: postedPath(command),
    at,
    ...(id === undefined ? {} : { id: postedId('id', id) }),
    ...(text === undefined ? { options: optionsOf(options) } : { text: postedText('text', text) }),
    ...(locale === undefined ? {} : { locale: postedText('locale', locale) }),
  };
  return { input, answerTo: answerTo === undefined ? undefined : answerAddress(answerTo) };
}

function checkShape(what: string, given: unknown, wanted: Readonly<Record<string, typeof forms.anything>>): void {
  checkFields(given, wanted, (field, problem) => {
    const where = [what, field].filter((one) => one !== '').join('.') || 'what was mapped';
    throw new MisfitError(`${where} ${problem}`, what);
  });
}

function misfit(what: string, value: unknown, wanted: string): MisfitError {
  return new MisfitError(`${what} is ${shown(value)}; map ${wanted}`, what);
}

/** A number beyond 2^53 is not the one that was sent any more. */
function postedId(what: string, value: unknown): string {
  if (typeof value === 'string' && value !== '' && value.length <= LONGEST_ID) return value;
  if (Number.isSafeInteger(value)) return String(value);
  throw misfit(what, value, `a text of 1 to ${LONGEST_ID} characters, or a whole number that fits`);
}

function postedText(what: string, value: unknown): string {
  if (typeof value === 'string') return value;
  throw misfit(what, value, 'a text');
}

function flagOf(what: string, value: unknown): boolean {
  if (value === undefined || typeof value === 'boolean') return value ?? false;
  throw misfit(what, value, 'true or false');
}

function postedName(what: string, given: unknown): { readonly id: string; readonly name: string } {
  checkShape(what, given, { id: forms.anything, name: forms.anything });
  const { id: of, name } = given as PostedName;
  const id = postedId(`${what}.id`, of);
  return { id, name: name === undefined ? id : postedText(`${what}.name`, name) };
}

function postedPlace(place: unknown, caller: PostedCaller): Place {
  if (place === undefined)
    return { kind: 'direct', channel: postedName('caller', { id: caller.id, name: caller.name }) };
  checkShape('place', place, { guild: forms.anything, channel: forms.anything });
  const { guild, channel } = place as PostedPlace;
  const where = postedName('place.channel', channel);
  return guild === undefined
    ? { kind: 'direct', channel: where }
    : { kind: 'guild', guild: postedName('place.guild', guild), channel: where };
}

function actorOf(caller: PostedCaller, { kind }: Place): Actor {
  const { permissions, roles, rank, ownsGuild, isBot } = caller;
  const who = { ...postedName('caller', { id: caller.id, name: caller.name }), isBot: flagOf('caller.isBot', isBot) };
  if (kind !== 'guild') return { kind: 'user', ...who };
  if (rank !== undefined && !Number.isFinite(rank)) throw misfit('caller.rank', rank, 'a number');
  return {
    kind: 'member',
    ...who,
    permissions:
      permissions === undefined ? unknownRights.permissions : new Set(postedTexts('caller.permissions', permissions)),
    roles: roles === undefined ? unknownRights.roles : postedList('caller.roles', roles).map(postedRole),
    rank: rank as number | undefined,
    ownsGuild: flagOf('caller.ownsGuild', ownsGuild),
  };
}

function postedRole(role: unknown): Role {
  return typeof role === 'object' && role !== null ? postedName('a role', role) : postedName('a role', { id: role });
}

function postedList(what: string, value: unknown): readonly unknown[] {
  if (Array.isArray(value) && value.length <= MOST) return value;
  throw misfit(what, value, `a list of at most ${MOST}`);
}

function postedTexts(what: string, value: unknown): readonly string[] {
  return postedList(what, value).map((one) => postedText(`one of ${what}`, one));
}

function postedPath(command: unknown): readonly string[] {
  const names =
    typeof command === 'string' ? command.trim().replace(/^\//, '').split(/\s+/) : postedTexts('command', command);
  if (names.length > 0 && names.length <= MOST_IN_PATH && names.every((name) => name !== '')) return names;
  throw misfit('command', command, "the command's name, such as 'fine' or '/overdue remind'");
}

function optionsOf(options: unknown): Readonly<Record<string, unknown>> {
  if (options === undefined) return {};
  if (isObject(options)) return { ...options };
  throw misfit('options', options, 'an object with the options by name');
}

function answerAddress(answerTo: unknown): string {
  if (typeof answerTo === 'string' && answerTo.length <= LONGEST_ADDRESS && URL.canParse(answerTo)) return answerTo;
  throw misfit('answerTo', answerTo, 'an address');
}
