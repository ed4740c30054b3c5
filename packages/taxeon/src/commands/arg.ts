/** Arguments as a command declares them. */
import {
  aFlag,
  aFunction,
  anObject,
  anything,
  aText,
  aTextOrFunction,
  checkFields,
  type FieldForm,
  type Fields,
  oneOf,
} from '../base/fields.js';
import { bears } from '../base/mark.js';
import { andThen, type MaybePromise } from '../base/thenable.js';
import type { Actor } from '../contract/actors.js';
import type { ArgumentMessages } from '../contract/codes.js';
import { expectedInEnglish } from '../contract/expectation.js';
import type { Surface } from '../contract/input.js';
import { nobody, none } from '../contract/look-ups.js';
import type { Place } from '../contract/places.js';
import type { Directory, Platform } from '../contract/platform.js';
import type { Words } from '../contract/words.js';
import type { Kind, KindTraits, Misread, Offered } from './kind.js';

export type { Offered };

/** What a default that depends on the call is given. */
export interface DefaultContext {
  readonly caller: Actor;
  readonly place: Place;
  /** The layer's time, in milliseconds. */
  readonly now: number;
}

/** How a flag may be typed besides `--name`. */
export interface FlagForm {
  /** One letter: `'d'` for `-d`. */
  readonly short?: string;
}

/** A default computed for each call that needs it; `undefined` leaves the argument missing. */
export type DefaultFrom<T> = (context: DefaultContext) => MaybePromise<T | undefined>;

/** What takes the place of an argument that was not given. */
export type Absent =
  | { readonly as: 'problem' }
  | { readonly as: 'undefined' }
  | { readonly as: 'value'; readonly value: unknown }
  | { readonly as: 'computed'; readonly from: DefaultFrom<unknown> };

declare const valueType: unique symbol;
declare const givenType: unique symbol;

/**
 * One declared argument. A plain value: name it, share it, spread it, map it.
 *
 * @typeParam Value what the handler gets
 * @typeParam Type the kind's name, so that requirements can tell members from the rest
 * @typeParam Given what the bot's own code passes to `layer.invoke`
 */
export interface Arg<Value, Type extends string = string, Given = unknown> {
  readonly type: Type;
  readonly kind: Kind<unknown>;
  readonly description: string | undefined;
  readonly example: Kind<unknown>['example'];
  readonly absent: Absent;
  /** What is wrong with the declaration itself, told when the catalogue is built. */
  readonly problems: readonly string[];
  readonly convert: ((value: unknown) => unknown) | undefined;
  /** Where the argument is typed as `--name`, and its short form. */
  readonly flag: FlagForm | undefined;
  readonly complete: CompletionFrom | undefined;
  readonly whenMissing: WhenMissing | undefined;
  readonly messages: ArgumentMessages | undefined;
  readonly question: OwnQuestion | undefined;
  readonly [valueType]?: Value;
  readonly [givenType]?: Given;
  /**
   * The same argument with each value passed through `convert`; an absent one stays absent. `convert` may give a promise,
   * and `misread(…)` for a value that it refuses.
   */
  map<To>(
    convert: (value: Exclude<Value, undefined>) => To,
  ): Arg<Exclude<Awaited<To>, Misread> | Extract<Value, undefined>, `mapped ${Type}`, Given>;
}

/** The arguments of a command, by name. */
export type ArgMap = Readonly<Record<string, Arg<unknown>>>;

/** The typed arguments that a handler gets. */
export type ValuesOf<Args extends ArgMap> = {
  readonly [Name in keyof Args]: Args[Name] extends Arg<infer Value> ? Value : never;
  // An editor then shows names and values, and not how they came about.
} & {};

/** How arguments are called that name members. */
type MemberType = 'member' | 'list of member';

/** Names of the arguments that name members: one, or a list, whatever `.map` makes of them. */
export type MemberNames<Args extends ArgMap> = {
  [Name in keyof Args & string]: Args[Name] extends {
    readonly type: MemberType | `mapped ${MemberType}` | 'list of mapped member' | 'mapped list of mapped member';
  }
    ? Name
    : never;
}[keyof Args & string];

/** Whether an argument names members, whatever `.map` makes of them. */
export function holdsMembers({ kind }: Pick<Arg<unknown>, 'kind'>): boolean {
  return (kind.item?.kind ?? kind).traits?.members === true;
}

/** By which look-ups values of an argument are found, where they are looked up. */
export function lookUpsOf({ kind }: Pick<Arg<unknown>, 'kind'>): KindTraits['looksUp'] {
  return (kind.item?.kind ?? kind).traits?.looksUp;
}

/** Whether a directory has none of the look-ups that an argument needs. */
export function isUnfindable(arg: Pick<Arg<unknown>, 'kind'>, directory: Directory | undefined): boolean {
  return lookUpsOf(arg)?.every((one) => directory?.[one] === nobody || directory?.[one] === none) === true;
}

type GivenBy<A> = A extends Arg<unknown, string, infer Given> ? Given : never;
type OptionalNames<Args extends ArgMap> = {
  [Name in keyof Args]: undefined extends GivenBy<Args[Name]> ? Name : never;
}[keyof Args];

/** The values that the bot's own code passes, before `.map`; what may be absent may be left out. */
export type GivenOf<Args extends ArgMap> = {
  readonly [Name in Exclude<keyof Args, OptionalNames<Args>>]: GivenBy<Args[Name]>;
} & { readonly [Name in OptionalNames<Args>]?: GivenBy<Args[Name]> };

export type DefaultOf<T> = T | DefaultFrom<T>;

/** What is done where a required argument is missing or wrong: it is refused, or asked for in the chat. */
export type WhenMissing = 'refuse' | 'ask';

/** A question, or what makes one in a language. */
export type OwnQuestion = string | ((words: Words) => string);

export const aWhenMissing = oneOf('refuse', 'ask');

/** What every kind's options share. `optional` and `default` exclude each other. */
export interface ArgOptions<Default> {
  readonly description?: string;
  /** A text that a person could type, for the example in replies; the kind has one of its own. */
  readonly example?: string;
  readonly optional?: boolean;
  readonly default?: Default;
  /** Typed as `--name value` anywhere before the tail, not by its place in the line. Must not be required. */
  readonly flag?: true | FlagForm;
  /** Values that could stand here, for what is typed so far; in place of the kind's own. */
  readonly complete?: CompletionFrom;
  /** Whether it is asked for where it is missing or wrong; as the command says by default. */
  readonly whenMissing?: WhenMissing;
  /** Own words for codes that are about it, in place of the command's and the layer's. */
  readonly messages?: ArgumentMessages;
  /** What is asked where it is asked for. */
  readonly question?: OwnQuestion;
}

/** What completion of an argument knows of the person who types. */
export interface CompletionContext {
  readonly caller: Actor;
  readonly place: Place;
  readonly platform: Platform | undefined;
  readonly surface: Surface;
  /** The arguments that were read so far. */
  readonly args: Readonly<Record<string, unknown>>;
  /** Aborted when nobody waits for the answer any more. */
  readonly signal: AbortSignal;
}

/** Gives values for what is typed so far; the layer keeps those that fit and puts the best first. */
export type CompletionFrom = (typed: string, context: CompletionContext) => MaybePromise<readonly (string | Offered)[]>;

/** Options as they were written, with every name that is not `Allowed` an error that says so. */
export type Exactly<Options, Allowed> = Allowed &
  Options & { readonly [Name in Exclude<keyof Options, keyof Allowed>]: NoSuchOption<Name> };

declare const noSuchOption: unique symbol;

/** Nothing is of this type: a compiler names it, and the option with it, where an option is mistyped. */
export interface NoSuchOption<Name> {
  readonly [noSuchOption]: Name;
}

/** Of an argument that is declared without options. */
export interface NoOptions extends Readonly<Record<never, never>> {}

type Absence<Options> = Options extends { readonly optional: infer Optional }
  ? Optional extends true
    ? undefined
    : never
  : never;

/** The argument that a kind's function gives for its options. */
export type ArgOf<T, Type extends string, Options> = Arg<
  T | Absence<Options>,
  Type,
  T | Absence<Options> | (Options extends { readonly default: unknown } ? undefined : never)
>;

/** The options of a kind's own, with the form of each. */
export type OwnFields = Readonly<Record<string, FieldForm>>;

const flagFields: OwnFields = { short: aText };

const sharedFields: Fields<ArgOptions<unknown>> = {
  description: aText,
  example: aText,
  optional: aFlag,
  default: anything,
  flag: (value) =>
    value === true || checkFields(value, flagFields, () => undefined) ? undefined : "true or { short: 'n' }",
  complete: aFunction,
  whenMissing: aWhenMissing,
  messages: anObject,
  question: aTextOrFunction,
};

/** Whether it is what the functions of `arg` give. */
export function isArg(value: unknown): value is Arg<unknown> {
  const { kind, absent, problems } = (value ?? {}) as Partial<Arg<unknown>>;
  return typeof kind?.read === 'function' && absent !== undefined && Array.isArray(problems);
}

/** An argument made of a kind; every function in `arg` ends here. */
export function makeArg<T, Type extends string, Options extends ArgOptions<unknown>>(
  type: Type,
  kind: Kind<T>,
  options: Options | undefined,
  problems: readonly string[] = [],
  fields: OwnFields = {},
): ArgOf<T, Type, Options> {
  const found: string[] = [];
  const tell = (field: string, problem: string) =>
    void found.push(field === '' ? problem : `has \`${field}\`: ${problem}`);
  // What is of no right form would be told again for what follows from it.
  if (options === undefined || checkFields(options, { ...sharedFields, ...fields }, tell)) found.push(...problems);
  // Shape is that of the first word, where a value takes several.
  const word = kind.tokens === 1 ? options?.example : options?.example?.split(' ', 1)[0];
  // What has to be asked for is not known yet.
  if (word !== undefined && kind.prepare === undefined && kind.shape?.(word) === false) {
    found.push(`has the example "${options?.example}"; give ${expectedInEnglish(kind.expected)}`);
  }
  return {
    type,
    kind,
    description: options?.description,
    example: options?.example ?? kind.example,
    absent: absentOf(kind, options ?? {}, found),
    problems: found,
    convert: undefined,
    flag: options?.flag === true ? {} : options?.flag,
    complete: options?.complete,
    whenMissing: options?.whenMissing,
    messages: options?.messages,
    question: options?.question,
    map,
  } as ArgOf<T, Type, Options>;
}

function absentOf<T>(kind: Kind<T>, options: ArgOptions<unknown>, problems: string[]): Absent {
  if (options.default === undefined) return { as: options.optional === true ? 'undefined' : 'problem' };
  if (options.optional === true) problems.push('has both `optional` and `default`; keep one of them');
  if (typeof options.default === 'function') return { as: 'computed', from: options.default as DefaultFrom<unknown> };
  const value = kind.fromDeclared === undefined ? options.default : kind.fromDeclared(options.default);
  if (!kind.isValue(value)) {
    problems.push(`has a default of ${JSON.stringify(options.default)}; give ${expectedInEnglish(kind.expected)}`);
  }
  return { as: 'value', value };
}

function map(this: Arg<unknown>, convert: (value: never) => unknown): never {
  const before = this.convert;
  const after = convert as (value: unknown) => unknown;
  const isCallable = typeof convert === 'function';
  return {
    ...this,
    type: `mapped ${this.type}`,
    problems: isCallable
      ? this.problems
      : [...this.problems, 'has a `.map` without a function; give what makes the value'],
    convert: before === undefined ? after : (value: unknown) => mappedOn(before(value), after),
  } as never;
}

/** What is refused, is not passed on. */
function mappedOn(before: unknown, after: (value: unknown) => unknown): unknown {
  return andThen(before, (value: unknown) => (bears(value, 'misread') ? value : after(value)));
}
