import { aFunction, type Fields, oneOf } from '../../base/fields.js';
import { foldName } from '../../base/text.js';
import { andThen, isThenable, type MaybePromise } from '../../base/thenable.js';
import type { Actor } from '../../contract/actors.js';
import type { Guild, Place } from '../../contract/places.js';
import { type ArgOf, type ArgOptions, type DefaultOf, type Exactly, makeArg, type NoOptions } from '../arg.js';
import { type Kind, notOfShape, type ReadingContext, takeIf } from '../kind.js';
import { aName, oneOfThese } from './expected.js';
import { AskedLists, asked, fixed, type Listed, type NameList, type Naming, namedBy, nameList } from './named.js';

type Labels = readonly (string | object)[] | Readonly<Record<string, unknown>>;

/** Where there is something to choose from: an argument does not know its command's own `in`. */
export type ListedIn = 'guild' | 'anywhere';

/** What a function that lists things is given. */
export interface ThingsCall<In extends ListedIn = ListedIn> {
  readonly caller: Actor;
  readonly guild: In extends 'guild' ? Guild : Guild | undefined;
  readonly place: Place;
  /** The layer's time, in milliseconds. */
  readonly now: number;
}

/** Gives what there is to choose from: texts, or things with a name. */
export type ThingsOf<In extends ListedIn = ListedIn> = (
  call: ThingsCall<In>,
) => MaybePromise<readonly (string | object)[]>;

/** What a handler gets of a choice. */
export type Chosen<From> = From extends (...call: never) => infer Given
  ? Awaited<Given> extends readonly (infer Thing)[]
    ? Thing
    : never
  : From extends readonly (infer Thing)[]
    ? Thing
    : From[keyof From];

export interface TextChoiceOptions<T, In extends ListedIn = ListedIn> extends ArgOptions<DefaultOf<T>> {
  /** `'guild'` where each guild has its own: the function is given a guild, and a command with it is `in: 'guild'`. */
  readonly in?: In;
  /** Other names that are understood, and never shown. */
  readonly also?: (thing: T) => readonly string[];
  /** What is shown beside it where people choose, and tells apart those that are called alike. */
  readonly describe?: (thing: T) => string | undefined;
}

export interface ThingChoiceOptions<T, In extends ListedIn = ListedIn> extends TextChoiceOptions<T, In> {
  /** What people type for it, and are shown. */
  readonly name: (thing: T) => string;
}

/** For things of type `any`, as many databases give them: texts, or things with a name. */
export interface UntypedChoiceOptions<T, In extends ListedIn = ListedIn> extends TextChoiceOptions<T, In> {
  readonly name?: (thing: T) => string;
}

/** Before the compiler knows the things. */
export interface AnyChoiceOptions<In extends ListedIn = ListedIn> extends ArgOptions<unknown> {
  readonly in?: In;
  readonly name?: (thing: never) => string;
  readonly also?: (thing: never) => readonly string[];
  readonly describe?: (thing: never) => string | undefined;
}

type ChoiceOptions<From, Options, In extends ListedIn> = [Chosen<From>] extends [never]
  ? [options?: Exactly<Options, AnyChoiceOptions<In>>]
  : unknown extends Chosen<From>
    ? [
        options?: Exactly<
          Options,
          0 extends 1 & Chosen<From> ? UntypedChoiceOptions<Chosen<From>, In> : AnyChoiceOptions<In>
        >,
      ]
    : [From] extends [readonly object[]] | [(...call: never) => MaybePromise<readonly object[]>]
      ? [options: Exactly<Options, ThingChoiceOptions<Chosen<From>, In>>]
      : [options?: Exactly<Options, TextChoiceOptions<Chosen<From>, In>>];

const fields: Fields<Omit<AnyChoiceOptions, keyof ArgOptions<unknown>>> = {
  in: oneOf('guild', 'anywhere'),
  name: aFunction,
  also: aFunction,
  describe: aFunction,
};

/**
 * One of several, by its name, compared without case: by all of it, or by a beginning that no other has. A name may have
 * several words. A list of labels gives the label, a record the value behind the label, and a list of things with their
 * `name` the thing. A function of the call gives such a list, at once or later; it is asked once in each call.
 *
 * @example
 * arg.choice(['lathe', 'welder', 'chainsaw'], { description: 'Which machine' })
 * arg.choice({ small: 10, large: 25 }, { description: 'Which drill bit, in millimetres' })
 * arg.choice(({ guild }) => library.tools(guild.id), { in: 'guild', name: (tool) => tool.name })
 */
export function choice<
  const From extends Labels | ThingsOf<In>,
  const Options extends AnyChoiceOptions = NoOptions,
  const In extends ListedIn = 'anywhere',
>(
  from: From,
  ...[options]: ChoiceOptions<From, Options, In>
): ArgOf<Chosen<From>, In extends 'guild' ? 'choice in guild' : 'choice', Options> {
  const given = options as AnyChoiceOptions | undefined;
  return makeChoice(from, given) as never;
}

function described(name: string, more: string | undefined): string | undefined {
  return typeof more === 'string' && more !== '' ? `${name} (${more})` : undefined;
}

type Labelled = readonly [label: string, value: unknown];

function makeChoice(from: unknown, options: AnyChoiceOptions | undefined) {
  const type = options?.in === 'guild' ? 'choice in guild' : 'choice';
  const callable = <Given>(one: ((thing: never) => Given) | undefined) =>
    typeof one === 'function' ? (one as (thing: unknown) => Given) : undefined;
  const name: Naming<unknown>['name'] = callable(options?.name) ?? ((thing) => thing as string);
  const describe: Naming<unknown>['describe'] = callable(options?.describe);
  const naming: Naming<unknown> = {
    name,
    also: callable(options?.also),
    describe,
    isDeclared: typeof from !== 'function',
    ...(describe === undefined ? {} : { apart: (thing) => described(name(thing), describe(thing)) }),
  };
  if (typeof from === 'function') {
    const lists = new AskedLists<unknown>(
      () => naming,
      (context) => listing(from as ThingsOf, context, options),
    );
    return makeArg(type, liveKind(asked(lists, true), naming, options), options, [], fields);
  }
  if (typeof from !== 'object' || from === null || isIterableOrPromise(from))
    throw new TypeError('arg.choice takes a list, values by label, or a function that gives a list');
  // A record's names are its keys.
  const entries = Array.isArray(from) ? undefined : Object.entries(from);
  const byLabel: Naming<Labelled> = { name: ([label]) => label, isDeclared: true };
  const problems: string[] = [];
  let list: NameList<unknown>;
  try {
    list =
      entries === undefined
        ? nameList(from, naming)
        : { ...nameList<Labelled>(entries, byLabel), things: entries.map(([, value]) => value), naming };
  } catch (error) {
    problems.push(`does not list things with names: ${(error as Error).message}; give a list of texts, or a \`name\``);
    list = nameList<unknown>([], naming);
  }
  if (problems.length === 0) problems.push(...labelProblems(list.index.labels, naming));
  return makeArg(type, fixedKind(list, options), options, problems, fields);
}

/** What is no list of labels, and has no labels of its own: a promise, a map, a set. */
function isIterableOrPromise(from: object): boolean {
  return !Array.isArray(from) && (isThenable(from) || Symbol.iterator in from);
}

/** A function that needs a guild is not asked where there is none. */
function listing(from: ThingsOf, { caller, guild, place, now }: ReadingContext, options: AnyChoiceOptions | undefined) {
  if (options?.in === 'guild' && guild === undefined) return undefined;
  return from({ caller, guild, place, now } as never);
}

const traitsIn = (options: AnyChoiceOptions | undefined) =>
  options?.in === 'guild' ? ({ ofGuild: true } as const) : {};

function fixedKind<T>(list: NameList<T>, options: AnyChoiceOptions | undefined): Kind<T> {
  const { things, index } = list;
  const { labels } = index;
  const labelOf = (value: T) => labels[things.indexOf(value)] ?? '';
  const isValue = (value: unknown) => things.includes(value as T);
  return {
    ...namedBy(fixed(list)),
    name: 'choice',
    expected: oneOfThese(labels),
    schema: { type: 'string', enum: labels },
    traits: { readsAlone: true, suggestsAll: true, ...traitsIn(options) },
    example: labels[0],
    take: takeIf(isValue),
    write: labelOf,
    shown: labelOf,
    isValue,
  };
}

function liveKind<T>(listed: Listed<T>, { name }: Naming<T>, options: AnyChoiceOptions | undefined): Kind<T> {
  const labelIn = (list: NameList<T> | undefined, thing: T) =>
    list?.index.labels[list.things.indexOf(thing)] ?? name(thing);
  return {
    ...namedBy(listed),
    name: 'choice',
    expected: aName,
    expectedNow(context) {
      const list = listed.atHand(context, '');
      return list === undefined ? undefined : oneOfThese(list.index.labels);
    },
    traits: { isListed: true, ...traitsIn(options) },
    example: (context) => listed.atHand(context, '')?.index.labels[0],
    /** By its name: each call may have objects of its own. */
    take: (value, context) =>
      andThen(listed.of(context, ''), ({ things, index }) => {
        if (things.includes(value as T)) return value as T;
        const called = calledBy(name, value);
        const place =
          called === undefined ? -1 : index.labels.findIndex((label) => foldName(label) === foldName(called));
        return place < 0 ? notOfShape : (things[place] as T);
      }),
    write: (value) => name(value),
    shown: (value, context) => labelIn(listed.atHand(context, ''), value),
    isValue: (value) => calledBy(name, value) !== undefined,
  };
}

/** How something is called that may be anything. */
function calledBy<T>(name: (thing: T) => unknown, value: unknown): string | undefined {
  try {
    const called = name(value as T);
    return typeof called === 'string' ? called : undefined;
  } catch {
    return undefined;
  }
}

function labelProblems(labels: readonly string[], naming: Naming<never>): string[] {
  if (labels.length === 0) return ['has no labels; name at least one'];
  const seen = new Set<string>();
  const problems: string[] = [];
  for (const label of labels) {
    const name = foldName(label);
    if (seen.has(name)) {
      const mend = naming.describe === undefined ? '' : ', or describe them differently';
      problems.push(`names the label "${label}" twice; labels compare without case${mend}`);
    }
    if (label.trim() === '') problems.push('has an empty label; name it or leave it out');
    seen.add(name);
  }
  return problems;
}
