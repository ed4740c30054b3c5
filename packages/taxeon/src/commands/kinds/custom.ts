import { aFlag, aFunction, anything, aText, checkFields, type Fields, textByLocale } from '../../base/fields.js';
import { visibleText } from '../../base/text.js';
import { andThen, type MaybePromise } from '../../base/thenable.js';
import { type OwnExpected, ownExpectation } from '../../contract/expectation.js';
import { type ArgOf, type ArgOptions, type DefaultOf, type Exactly, makeArg, type NoOptions } from '../arg.js';
import {
  type Capped,
  isCapped,
  isMisread,
  isReadAs,
  type Kind,
  Misread,
  misread,
  notOfShape,
  type ReadAs,
  type ReadingContext,
} from '../kind.js';
import type { OutputOf, StandardSchema, Validated } from '../standard-schema.js';

/** A kind of one's own; the built-in kinds are made of the same parts. */
export interface CustomKind<T> {
  /** How it is called in a reference: `shelf mark`. */
  readonly name: string;
  /** What it expects, in words that follow "takes": `a shelf mark such as B12`; for everyone, or by locale. */
  readonly expected: OwnExpected;
  /** One text that a person could type. */
  readonly example: string;
  /** How many tokens a value may take, at most twelve; 1 by default. */
  readonly tokens?: number;
  /** Whether an optional argument of the kind leaves a quoted token to the next one; no by default. */
  readonly leavesQuoted?: boolean;
  /**
   * Whether a text is meant for the kind, bounds aside. Without it any text is, and the argument may be
   * optional only as the last one before a tail or the end.
   */
  readonly shape?: (text: string) => boolean;
  /**
   * Whether a word could go on the value that `typed` begins, in a kind of several tokens; any could by default.
   * With it, `shape` is asked about all such words together, and a mistake in them is never left out.
   */
  readonly goesOn?: (word: string, typed: string) => boolean;
  /** Reads a text; `undefined` or `misread('what would be right')` where it is none. */
  read(text: string, context: ReadingContext): MaybePromise<T | Misread | Capped<T> | ReadAs<T> | undefined>;
  /** Whether a value from the bot's own code, or a default, is one; every value is by default. */
  readonly isValue?: (value: unknown) => boolean;
  /** The text that a person would type for a value. */
  readonly write?: (value: T) => string;
  /** Texts that could stand here. */
  readonly suggest?: (typed: string, context: ReadingContext) => MaybePromise<readonly string[]>;
}

/**
 * A kind of one's own.
 *
 * @example
 * const shelves = new Map([['B12', 'the drill']]);
 * arg.custom({
 *   name: 'shelf mark',
 *   expected: 'a shelf mark such as B12',
 *   example: 'B12',
 *   shape: (text) => /^[A-Z]\d/.test(text),
 *   read: (text) => shelves.get(text), // nothing where there is none
 * })
 */
export function custom<T, const Options extends ArgOptions<DefaultOf<T>> = NoOptions>(
  kind: CustomKind<T>,
  options?: Exactly<Options, ArgOptions<DefaultOf<T>>>,
): ArgOf<T, 'custom', Options> {
  if (typeof kind !== 'object') throw new TypeError('arg.custom takes a kind: { name, expected, example, read }');
  const { expected, tokens = 1, leavesQuoted = false, isValue = () => true, ...rest } = kind;
  const whole: Kind<T> = {
    ...rest,
    expected: ownExpectation(expected),
    tokens,
    leavesQuoted,
    isValue,
    traits: { isOfAnyLength: true },
    read(text, context) {
      return andThen(kind.read(text, context), (read: T | Misread | Capped<T> | ReadAs<T> | undefined) => {
        const value = isCapped(read) || isReadAs(read) ? read.value : read;
        if (value === undefined || isMisread(value) || isValue(value)) return read ?? notOfShape;
        throw new TypeError(`The kind ${kind.name} read a value that it says is none`);
      });
    },
    take: (value) => (isValue(value) ? (value as T) : notOfShape),
  };
  return makeArg('custom', whole, options as Options, kindProblems(kind as CustomKind<unknown>));
}

const kindFields: Fields<CustomKind<unknown>> = {
  name: aText,
  expected: anything,
  example: aText,
  tokens: anything,
  leavesQuoted: aFlag,
  shape: aFunction,
  goesOn: aFunction,
  read: aFunction,
  isValue: aFunction,
  write: aFunction,
  suggest: aFunction,
};

function kindProblems(kind: CustomKind<unknown>): string[] {
  const problems: string[] = [];
  checkFields(
    kind,
    kindFields,
    (field, problem) => void problems.push(`has a kind whose \`${field}\` is wrong: ${problem}`),
  );
  return [...problems, ...descriptionProblems(kind)];
}

const MOST_TOKENS = 12;

type Described = Pick<CustomKind<unknown>, 'name' | 'expected' | 'example' | 'tokens' | 'read'>;

function* descriptionProblems({ name, expected, example, tokens = 1, read }: Described): Iterable<string> {
  if (read === undefined) yield 'has a kind without `read`; give the function that reads a text';
  for (const [field, text] of Object.entries({ name, expected, example })) {
    if (textByLocale(text) !== undefined) yield `has a kind without \`${field}\`; say it in a few words`;
  }
  if (!Number.isInteger(tokens) || tokens < 1 || tokens > MOST_TOKENS) {
    yield `has a kind of ${tokens} tokens; give 1 to ${MOST_TOKENS}`;
  }
}

export interface SchemaOptions<T> extends ArgOptions<DefaultOf<T>> {
  /** What the validator takes, in words, for everyone or by locale; its first issue's message by default. */
  readonly expected?: OwnExpected;
  readonly example?: string;
}

/**
 * Whatever a Standard Schema validator makes of the text (standardschema.dev): it gets the text that
 * was typed, so a number wants a coercing schema.
 *
 * @example
 * import { z } from 'zod';
 *
 * arg.schema(z.string().email(), { expected: 'an e-mail address', example: 'wren@oddmere.example' })
 */
export function schema<Schema extends StandardSchema, const Options extends SchemaOptions<Output<Schema>> = NoOptions>(
  validator: Schema,
  options?: Exactly<Options, SchemaOptions<Output<Schema>>>,
): ArgOf<Output<Schema>, 'schema', Options> {
  const { expected, example } = options ?? {};
  const validate = (value: unknown): MaybePromise<Output<Schema> | Misread> => {
    const result = validator['~standard'].validate(value);
    return andThen(result, (result: Validated<unknown>) =>
      result.issues === undefined
        ? (result.value as Output<Schema>)
        : expected === undefined
          ? saidBy(result.issues[0]?.message)
          : misread(expected),
    );
  };
  const kind: Kind<Output<Schema>> = {
    name: 'schema',
    traits: { isOfAnyLength: true },
    expected:
      expected === undefined ? `a value that ${validator['~standard'].vendor} accepts` : ownExpectation(expected),
    example,
    tokens: 1,
    leavesQuoted: false,
    read: validate,
    take: validate,
    // A default is given as a value of the output, which the validator need not take as input.
    isValue: () => true,
  };
  return makeArg('schema', kind, options as Options, [], { expected: textByLocale });
}

/** The validator's own sentence, as it may be shown. */
function saidBy(message: unknown): Misread {
  const said = typeof message === 'string' ? visibleText(message) : '';
  if (said === '') return notOfShape;
  const sentence = /[.!?…。]$/.test(said) ? said : `${said}.`;
  return new Misread('argument.invalid', { misfit: 'own', near: [], expected: sentence });
}

type Output<Schema extends StandardSchema> = OutputOf<Schema>;
