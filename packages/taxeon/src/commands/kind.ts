/** What a kind of argument is: how its text is recognised, read, bounded and told. */
import type { MaybePromise } from '../base/thenable.js';
import type { Actor } from '../contract/actors.js';
import type { CodeParameters } from '../contract/codes.js';
import type { Place } from '../contract/places.js';
import type { Platform } from '../contract/platform.js';

/** What a kind may look at while it reads. */
export interface ReadingContext {
  readonly caller: Actor;
  readonly place: Place;
  /** Absent where an input came without a platform: then nobody can be looked up. */
  readonly platform: Platform | undefined;
  /** The layer's time, in milliseconds. */
  readonly now: number;
}

type MisreadCode = 'argument.invalid' | 'argument.ambiguous' | 'argument.absent-member';

type MisreadParameters<C extends MisreadCode> = Omit<CodeParameters[C], 'argument' | 'read' | 'expected'>;

/** A text that is no value of its kind. What was read, and by which argument, the reader adds. */
export class Misread<C extends MisreadCode = MisreadCode> {
  constructor(
    readonly code: C,
    readonly parameters: MisreadParameters<C>,
  ) {}
}

const misfits = {
  shape: new Misread('argument.invalid', { misfit: 'shape', near: [] }),
  below: new Misread('argument.invalid', { misfit: 'below', near: [] }),
  above: new Misread('argument.invalid', { misfit: 'above', near: [] }),
} as const;

/** The text is not of the kind's form. */
export const notOfShape = misfits.shape;
/** The value is under the declared minimum. */
export const belowMinimum = misfits.below;
/** The value is over the declared maximum. */
export const aboveMaximum = misfits.above;

/**
 * One kind of argument with its bounds, as the reader uses it.
 * A kind is shared by every call: it holds no state.
 */
export interface Kind<T> {
  /** How the kind is called in a reference: `integer`, `member`. */
  readonly name: string;
  /** What it expects, in words that follow "expected": `a whole number from 1 to 500`. */
  readonly expected: string;
  /** One text that a person could type. */
  readonly example: string;
  /**
   * How many tokens a value may take: the longest run that reads wins.
   * `'rest'` takes the line from here on, verbatim.
   */
  readonly tokens: number | 'rest';
  /** Whether an optional argument of the kind leaves a quoted token to the next one. */
  readonly leavesQuoted: boolean;
  /** Whether a text is meant for this kind, bounds aside; without it any text is. */
  readonly shape?: (text: string) => boolean;
  read(text: string, context: ReadingContext): MaybePromise<T | Misread>;
  /** Whether a value handed over by the bot's own code is one of the kind, bounds included. */
  accepts(value: unknown): boolean;
  /** A default as declared, turned into a value, where the two differ: `'3d'` is 259,200,000. */
  readonly fromDeclared?: (declared: unknown) => T | undefined;
}
