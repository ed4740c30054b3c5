/** Lists of things that a text may name, and the parts of the kinds whose values are found in them. */
import { BoundedMap, foundOrMade } from '../../base/bounded-map.js';
import { oneOf } from '../../base/fields.js';
import { echoText } from '../../base/text.js';
import { andThen, isThenable, type MaybePromise } from '../../base/thenable.js';
import { Apart, isApart, isMisread, type Kind, Misread, type Offered, type ReadingContext } from '../kind.js';
import { aName, oneOfThese } from './expected.js';
import {
  type Called,
  firstWord,
  MOST_WORDS,
  type NameMatch,
  nameOf,
  plainName,
  ThingNames,
  withoutStop,
} from './names.js';

export const matchFields = { match: oneOf('beginning', 'exact') };

/** How things are called. */
export interface Naming<T> {
  readonly name: (thing: T) => string;
  /** Other names that are understood, and never shown. */
  readonly also?: ((thing: T) => readonly string[]) | undefined;
  /** What is shown beside a name where people choose. */
  readonly describe?: ((thing: T) => string | undefined) | undefined;
  /** What stands in place of the name where several are called alike. */
  readonly apart?: ((thing: T) => string | undefined) | undefined;
  /** They stand in the declaration, and are shown as they stand there. */
  readonly isDeclared?: boolean;
}

/** More things than this are no list that people choose from. */
const MOST_THINGS = 100_000;

/** What each is called, or what tells it apart from others that are called alike. */
function labelsOf<T>(things: readonly T[], { apart }: Naming<T>, called: readonly Called[]): readonly string[] {
  const names = called.map(nameOf);
  if (apart === undefined) return names;
  const times = new Map<string, number>();
  for (const name of names) times.set(plainName(name), (times.get(plainName(name)) ?? 0) + 1);
  return names.map((name, place) => {
    const label = (times.get(plainName(name)) ?? 0) > 1 ? apart(things[place] as T) : undefined;
    return typeof label === 'string' && label !== '' ? label : name;
  });
}

/** Things that a text may name. */
export interface NameList<T> {
  readonly things: readonly T[];
  readonly naming: Naming<T>;
  readonly index: ThingNames;
}

/**
 * A list of things by their names.
 *
 * @param before names that are taken again where they and what is shown of them are the same
 * @throws TypeError for what is no list of things with names
 */
export function nameList<T>(given: unknown, naming: Naming<T>, before?: ThingNames): NameList<T> {
  const called = calledOf(given, naming);
  // Whose list it is may change it while a line waits for something else.
  const things = [...(given as readonly T[])];
  if (before !== undefined && isSame(before.called, called)) {
    const labels = before.hasTwins ? labelsOf(things, naming, called) : before.labels;
    if (labels.every((label, place) => label === before.labels[place])) return { things, naming, index: before };
  }
  return {
    things,
    naming,
    index: new ThingNames(called, labelsOf(things, naming, called), naming.isDeclared === true),
  };
}

const none: readonly string[] = [];

function calledOf<T>(things: unknown, { name, also }: Naming<T>): readonly Called[] {
  if (!Array.isArray(things)) throw new TypeError('what there is to choose from is no list');
  if (things.length > MOST_THINGS) throw new TypeError(`there are more than ${MOST_THINGS} things to choose from`);
  return things.map((thing: T): Called => {
    const called: unknown = name(thing);
    const others: unknown = also?.(thing) ?? none;
    if (typeof called !== 'string')
      throw new TypeError('a thing to choose from has no text as its name; say by `name` what it is called');
    if (!Array.isArray(others) || !others.every((one) => typeof one === 'string'))
      throw new TypeError(`the other names of ${echoText(called)} are no list of texts`);
    return others.length === 0 ? called : [called, ...others];
  });
}

function isSame(some: readonly Called[], others: readonly Called[]): boolean {
  return (
    some.length === others.length &&
    some.every((names, place) => {
      const other = others[place] as Called;
      if (typeof names === 'string') return names === other;
      return names.length === other.length && names.every((name, index) => name === other[index]);
    })
  );
}

/** Guilds whose names are kept. */
const MOST_KEPT = 100;

/** What is asked for anew in each call: once, and compiled again only where its names have changed. */
export class AskedLists<T> {
  readonly #calls = new WeakMap<object, Map<string, MaybePromise<NameList<T>>>>();
  readonly #kept = new BoundedMap<string, ThingNames>(MOST_KEPT);

  constructor(
    readonly namingIn: (context: ReadingContext) => Naming<T>,
    /** Gives `undefined` where there is nothing to choose from. */
    readonly ask: (context: ReadingContext, word: string) => MaybePromise<unknown>,
    /** Whether what begins with a word is asked for, and not all there is. */
    readonly isByWord = false,
  ) {}

  /** All that a text that begins with a word may name here. */
  of(context: ReadingContext, word: string): MaybePromise<NameList<T>> {
    const begun = this.isByWord ? plainName(word) : '';
    const asked = foundOrMade(this.#calls, context.call, () => new Map<string, MaybePromise<NameList<T>>>());
    const before = asked.get(begun);
    if (before !== undefined) return before;
    const list = andThen(this.ask(context, word), (things) => this.#compiled(context, things ?? []));
    asked.set(begun, list);
    // Who waits for it is told what went wrong.
    if (isThenable(list))
      list.then(
        (there) => asked.set(begun, there),
        () => undefined,
      );
    return list;
  }

  /** The same where it was asked for, and is there. */
  atHand(context: ReadingContext, word: string): NameList<T> | undefined {
    const list = this.#calls.get(context.call)?.get(this.isByWord ? plainName(word) : '');
    return list === undefined || isThenable(list) ? undefined : list;
  }

  #compiled(context: ReadingContext, things: unknown): NameList<T> {
    const naming = this.namingIn(context);
    if (this.isByWord) return nameList(things, naming);
    const { platform, guild } = context;
    const key = JSON.stringify([platform?.name, guild?.id]);
    const before = this.#kept.get(key);
    const list = nameList(things, naming, before);
    if (list.index !== before) this.#kept.set(key, list.index);
    return list;
  }
}

/** A list that is there, or is asked for in each call. */
export interface Listed<T> {
  readonly of: (context: ReadingContext, word: string) => MaybePromise<NameList<T>>;
  readonly atHand: (context: ReadingContext | undefined, word: string) => NameList<T> | undefined;
  readonly isAsked: boolean;
  /** Whether a refusal tells what there is: what a platform has need not be for everyone. */
  readonly tellsAll: boolean;
}

export function fixed<T>(list: NameList<T>): Listed<T> {
  return { of: () => list, atHand: () => list, isAsked: false, tellsAll: true };
}

export function asked<T>(lists: AskedLists<T>, tellsAll: boolean): Listed<T> {
  return {
    of: (context, word) => lists.of(context, word),
    atHand: (context, word) => (context === undefined ? undefined : lists.atHand(context, word)),
    isAsked: true,
    tellsAll,
  };
}

/** The parts of a kind whose values are found in a list by name. */
export function namedBy<T>({ of, atHand, isAsked, tellsAll }: Listed<T>, match: NameMatch = 'beginning') {
  const prepare: Kind<T>['prepare'] = (word, context) => andThen(of(context, firstWord(word)), () => undefined);
  return {
    tokens: MOST_WORDS,
    leavesQuoted: false,
    ...(isAsked ? { prepare } : {}),
    goesOn: (word: string, typed: string, context: ReadingContext) =>
      atHand(context, firstWord(typed))?.index.goesOn(typed, word) === true,
    shape: (typed: string, context?: ReadingContext) => {
      const list = atHand(context, firstWord(typed));
      return list?.index.isMeant(typed) === true;
    },
    read: (typed: string, context: ReadingContext) =>
      andThen(of(context, firstWord(typed)), (list) => foundIn(list, typed, match, tellsAll)),
    suggest: (typed: string, context: ReadingContext) => andThen(of(context, firstWord(typed)), offeredOf),
  } satisfies Partial<Kind<T>>;
}

export function foundIn<T>(
  { things, index }: NameList<T>,
  typed: string,
  match: NameMatch,
  tellsAll = false,
): T | Misread | Apart<T> {
  const found = index.find(typed, match);
  if (typeof found === 'number') return things[found] as T;
  if (isApart(found)) return new Apart(things[found.value as number] as T, found.matches, found.isUsual, true);
  return found ?? missed(index, typed, tellsAll);
}

/** The one of that id or whole name; a misread that names them where several are called so. */
export function named<T extends { readonly id: string; readonly name: string }>(
  typed: string,
  all: readonly T[],
): T | Misread | undefined {
  const exactly = all.find(({ id }) => id === typed);
  if (exactly !== undefined) return exactly;
  const found = nameList(all, { name: ({ name }: T) => name }).index.find(typed, 'exact');
  return typeof found === 'number' ? all[found] : isMisread(found) ? found : undefined;
}

/** Several words that begin no name were taken together since they almost do. */
function missed(index: ThingNames, typed: string, tellsAll: boolean): Misread {
  const isMistake = typed.includes(' ') && !index.begins(withoutStop(typed));
  return new Misread(
    'argument.invalid',
    { misfit: 'shape', near: [], ...(isMistake ? { expected: aName } : {}) },
    isMistake,
    () => {
      const near = index.near(typed);
      return { near, expected: tellsAll ? oneOfThese(index.labels, near) : undefined };
    },
  );
}

export function offeredOf<T>({ things, index, naming: { describe } }: NameList<T>): readonly Offered[] {
  return index.labels.map((value, place) => {
    const description = describe?.(things[place] as T);
    return typeof description === 'string' ? { value, description } : { value };
  });
}
