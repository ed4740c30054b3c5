/** What a kind of argument is: how its text is recognised, read, bounded and told. */
import { shown, textByLocale } from '../base/fields.js';
import { bears, mark } from '../base/mark.js';
import type { MaybePromise } from '../base/thenable.js';
import type { Actor } from '../contract/actors.js';
import type { Attachment } from '../contract/attachment.js';
import type { CodeParameters, Measure, Misfit } from '../contract/codes.js';
import { type Amount, type Expectation, type OwnExpected, ownExpectation } from '../contract/expectation.js';
import type { Guild, Place } from '../contract/places.js';
import type { Directory, Platform } from '../contract/platform.js';
import type { ArgumentSchema } from '../contract/registrar.js';

/** What a kind may look at while it reads. */
export interface ReadingContext {
  /** Stands for the call: what was asked for once is kept by it. */
  readonly call: object;
  readonly caller: Actor;
  readonly place: Place;
  readonly guild: Guild | undefined;
  /** Absent where an input came without a platform: then nobody can be looked up. */
  readonly platform: Platform | undefined;
  /** The layer's time, in milliseconds. */
  readonly now: number;
  /** The IANA name of the time zone that holds in the place. */
  readonly timeZone: string;
  /** BCP 47: the guild's, else the caller's, else the layer's own, where one of them says. Not to be trusted to be one. */
  readonly locale: string | undefined;
  /** Puts the words of dates in the caller's language into English, in which they are read. */
  readonly inEnglish: ((text: string) => string) | undefined;
  /** Whether the caller is one of the bot's owners, who may know whom the bot knows elsewhere. */
  readonly ownsBot: boolean;
  /** The files that came with the message or the slash command. */
  readonly attachments: readonly Attachment[];
}

type MisreadCode = 'argument.invalid' | 'argument.ambiguous' | 'argument.absent-member';

type MisreadParameters<C extends MisreadCode> = Omit<
  CodeParameters[C],
  'argument' | 'read' | 'expected' | 'measure'
> & {
  /** What was expected, where the text at hand lets it be said better than the kind says it. */
  readonly expected?: Expectation;
};

/** A text that is no value of its kind. What was read, and by which argument, the reader adds. */
export class Misread<C extends MisreadCode = MisreadCode> {
  readonly [mark] = 'misread';

  constructor(
    readonly code: C,
    readonly parameters: MisreadParameters<C>,
    /** What stands there may be two values, so that it is no mistake where a second one is awaited. */
    readonly mayBeTwo = false,
    /** What takes a while to find, and is asked for where it is told. */
    readonly later?: () => { readonly near: readonly string[]; readonly expected: Expectation | undefined },
  ) {}
}

/** A value that was lowered to the maximum because the argument says `cap: true`. */
export class Capped<T = unknown> {
  readonly [mark] = 'capped';

  constructor(
    readonly value: T,
    /** The maximum. */
    readonly to: Amount,
  ) {}
}

/** A value that another person could have meant otherwise, so that the caller is told how it was read. */
export class ReadAs<T = unknown> {
  readonly [mark] = 'read-as';

  constructor(
    readonly value: T,
    /** How it was read. */
    readonly as: Amount,
  ) {}
}

export function isMisread(read: unknown): read is Misread {
  return bears(read, 'misread');
}

export function isCapped(read: unknown): read is Capped {
  return bears(read, 'capped');
}

/** Words that are one value together, and could be two: `1 000`, where a second number may follow. */
export class Apart<T = unknown> {
  readonly [mark] = 'apart';

  constructor(
    /** What they are together. */
    readonly value: T,
    /** The value of them all, and that of the first alone, as they can be typed. */
    readonly matches: readonly string[],
    /** Whether where the caller is they are written apart and meant as one. */
    readonly isUsual: boolean,
    /** Whether they are one all the same in a list of such values, where the longest is meant. */
    readonly isName = false,
  ) {}
}

export function isApart(read: unknown): read is Apart {
  return bears(read, 'apart');
}

export function isReadAs(read: unknown): read is ReadAs {
  return bears(read, 'read-as');
}

/** Whether a kind found a text to be none of its values, without a word of its own about why. */
export function isNotOfShape(read: unknown): boolean {
  return read === notOfShape || (isMisfit(read, 'shape') && read.parameters.expected === undefined);
}

/** Whether a text has the form of a value: it is one, it is beyond a bound, or whom it names is not to be found. */
export function isOfForm(read: unknown): boolean {
  return !(isMisfit(read, 'shape') || isMisfit(read, 'unit'));
}

export function isMisfit(read: unknown, misfit: Misfit): read is Misread<'argument.invalid'> {
  if (!isMisread(read) || read.code !== 'argument.invalid') return false;
  return (read as Misread<'argument.invalid'>).parameters.misfit === misfit;
}

/** The text is not of the kind's form. */
export const notOfShape = new Misread('argument.invalid', { misfit: 'shape', near: [] });
/** A number that means nothing without a unit. */
export const withoutUnit = new Misread('argument.invalid', { misfit: 'unit', near: [] });
/** The value is under the declared minimum. */
export const belowMinimum = new Misread('argument.invalid', { misfit: 'below', near: [] });
/** The value is over the declared maximum. */
export const aboveMaximum = new Misread('argument.invalid', { misfit: 'above', near: [] });

/**
 * What the reader of a kind of one's own gives for a text that is none.
 *
 * @param expected what would have been right, in words that follow "takes"; the kind's own words by default
 * @throws TypeError for what says nothing
 *
 * @example
 * arg.custom({ name: 'even', expected: 'an even number', example: '4', read: (text) => (Number(text) % 2 === 0 ? Number(text) : misread()) });
 */
export function misread(expected?: OwnExpected): Misread {
  if (expected === undefined) return notOfShape;
  const wanted = textByLocale(expected);
  if (wanted !== undefined) throw new TypeError(`misread takes ${wanted}, and not ${shown(expected)}`);
  return mistaken(ownExpectation(expected));
}

/** The text is meant for the kind, and there is a mistake in it: what would have been right. */
export function mistaken(expected: Expectation, mayBeTwo?: boolean): Misread {
  return new Misread('argument.invalid', { misfit: 'shape', near: [], expected }, mayBeTwo);
}

/** A value that could stand somewhere. */
export interface Offered {
  readonly value: string;
  /** What a person is shown; the value by default. */
  readonly label?: string;
  readonly description?: string;
}

/** What a kind makes of a text: a value, perhaps with something to be told of it, or none. */
export type ReadResult<T> =
  | T
  | Misread
  | Capped<T>
  | ReadAs<T | Capped<T>>
  | Apart<T | Capped<T> | ReadAs<T> | Misread>;

/**
 * One kind of argument with its bounds, as the reader uses it.
 * A kind is shared by every call: it holds no state.
 */
export interface Kind<T> {
  /** How the kind is called in a reference: `integer`, `member`. */
  readonly name: string;
  /** What it expects: data that every language has words for, or one's own that follow "takes". */
  readonly expected: Expectation;
  /** The same where it depends on what there is, once that was asked for. */
  readonly expectedNow?: (context: ReadingContext) => Expectation | undefined;
  /** The same where a whole message is one value, so that no quotes are needed. */
  readonly expectedAlone?: Expectation;
  /** Its values in JSON Schema; a text with the kind's name by default. */
  readonly schema?: ArgumentSchema;
  /** A text that a person could type, or what that is in a place; `undefined` where none can be told. */
  readonly example: string | undefined | ((context: ReadingContext) => string | undefined);
  /** What its bounds are bounds of; an amount by default. */
  readonly measure?: Measure;
  /**
   * How many tokens a value may take: the longest run that reads wins.
   * `'rest'` takes the line from here on, verbatim; `'many'` one value after the other; `'attached'` none, but a file
   * that came with the line.
   */
  readonly tokens: number | 'rest' | 'many' | 'attached';
  /** Whether an optional argument of the kind leaves a quoted token to the next one. */
  readonly leavesQuoted: boolean;
  /** Whether a text is meant for this kind, bounds aside; without it any text is. Synchronous and quick. */
  readonly shape?: (text: string, context?: ReadingContext) => boolean;
  /** Whether a value of several words could begin with a word, so that most words are left at once; any could by default. */
  readonly begins?: (word: string, context: ReadingContext) => boolean;
  /** Whether a word that goes on a value could begin with a sign of ASCII, so that most are not looked at. */
  readonly goesOnWith?: (unit: number, typed: string, context: ReadingContext) => boolean;
  /**
   * Whether a word could go on the value that `typed` begins; without it any could. A kind that has it is asked
   * about all these words together, and no shorter value is taken where it finds a mistake in them.
   */
  readonly goesOn?: (word: string, typed: string, context: ReadingContext) => boolean;
  /** Asks for what `shape` and `goesOn` look at, where that is not there from the beginning: for the first word of a value. */
  readonly prepare?: (word: string, context: ReadingContext) => MaybePromise<void>;
  read(text: string, context: ReadingContext): MaybePromise<ReadResult<T>>;
  /** Takes a value that the bot's own code hands over; gives it back where it is one of the kind, bounds included. */
  take(value: unknown, context: ReadingContext): MaybePromise<ReadResult<T>>;
  /** The text that a person would type for a value. Without it, values of the kind cannot be written. */
  readonly write?: (value: T, directory?: Directory) => string;
  /** The same for a developer who reads a trace, where it may be longer or hold only now: `90 days`, `Saturday 9:00`. */
  readonly shown?: (value: T, context: ReadingContext) => string;
  /** The kind that a slash option takes, where typing has rules of its own. */
  readonly asOption?: Kind<T>;
  /** Texts that could stand here, for what is typed so far. */
  readonly suggest?: (typed: string, context: ReadingContext) => MaybePromise<readonly (string | Offered)[]>;
  /** A default as declared, turned into a value, where the two differ: `'3d'` is 259,200,000. */
  readonly fromDeclared?: (declared: unknown) => T | undefined;
  /** Whether a declared default is one of the kind. */
  readonly isValue: (value: unknown) => boolean;
  /** What a list is a list of. */
  readonly item?: ListItem;
  /** How the readers take its values, where that is more than reading words. A bot without such kinds goes without it. */
  readonly taking?: Taking;
  readonly traits?: KindTraits;
}

declare const ofTheReaders: unique symbol;

/** Made by the readers, and known to them alone. */
export interface Taking {
  readonly [ofTheReaders]?: never;
}

/** What others must know of a kind to treat it right. */
export interface KindTraits {
  /** Its values are found in a guild, so that a command with one is `in: 'guild'`. */
  readonly ofGuild?: true;
  /** Its values are members, of whom requirements can ask something. */
  readonly members?: true;
  /** A member argument that may name the bot itself. */
  readonly orBot?: true;
  /** As a flag it takes no value: that it stands there is `true`. */
  readonly isSwitch?: true;
  /** Its values are texts, and are taken as they were typed. */
  readonly isVerbatim?: true;
  /** Its texts may be of any length; those of other kinds are bounded before they are read. */
  readonly isOfAnyLength?: true;
  /** Reads nothing but the text, so that an example can be read before anybody types it. */
  readonly readsAlone?: true;
  /** Its example mentions the caller, who exists wherever it is read. */
  readonly namesCaller?: true;
  /** Its values are looked up on the platform, which tells what exists: by any of these. */
  readonly looksUp?: readonly (keyof Directory)[];
  /** Its form shows in text alone, but not whether a value is in bounds. */
  readonly boundsMove?: true;
  /** Its values are the bot's own, found by name in a list that a function of the bot's gives. */
  readonly isListed?: true;
  /** What it suggests is all that there is, and stands in its schema. */
  readonly suggestsAll?: true;
}

/** What each value of a list is. */
export interface ListItem {
  readonly kind: Kind<unknown>;
  readonly convert: ((value: unknown) => unknown) | undefined;
  readonly min: number;
  readonly max: number;
  readonly unique: boolean;
}

/** `take` for a kind whose values can be told at once. */
export function takeIf<T>(isValue: (value: unknown) => boolean): Kind<T>['take'] {
  return (value) => (isValue(value) ? (value as T) : notOfShape);
}
