import { aFlag, aNumber, type Fields } from '../../base/fields.js';
import {
  type Arg,
  type ArgOf,
  type ArgOptions,
  type DefaultOf,
  type Exactly,
  isArg,
  makeArg,
  type NoOptions,
} from '../../commands/arg.js';
import { type Kind, notOfShape } from '../../commands/kind.js';
import { schemaOf } from '../../commands/kinds/schema.js';
import { expectedInEnglish } from '../../contract/expectation.js';
import { listTaking } from '../lists.js';

export interface ListOptions<T> extends ArgOptions<DefaultOf<readonly T[]>> {
  /** Fewest values; 1 by default. */
  readonly min?: number;
  /** Most values; 20 by default. */
  readonly max?: number;
  /** Whether each value may stand there only once. */
  readonly unique?: boolean;
}

const fields: Fields<Omit<ListOptions<unknown>, keyof ArgOptions<unknown>>> = {
  min: aNumber,
  max: aNumber,
  unique: aFlag,
};

const MOST = 20;

/**
 * Several values of one kind, one after the other, with or without commas between them.
 * As a flag it may be given several times.
 *
 * @example
 * arg.list(arg.member(), { description: 'Who comes along', optional: true, max: 4 })
 */
export function list<T, ItemType extends string, const Options extends ListOptions<T> = NoOptions>(
  item: Arg<T, ItemType>,
  options?: Exactly<Options, ListOptions<T>>,
): ArgOf<readonly T[], `list of ${ItemType}`, Options> {
  if (!isArg(item)) throw new TypeError('arg.list takes an argument, as in arg.list(arg.integer())');
  const { min = 1, max = MOST } = options ?? {};
  const { kind, convert } = item;
  const isValue = (value: unknown) =>
    Array.isArray(value) && value.length >= min && value.length <= max && value.every((one) => kind.isValue(one));
  const listKind: Kind<readonly T[]> = {
    name: 'list',
    expected: {
      key: 'list',
      parameters: {
        count: min === max ? 'exact' : min === 1 ? 'upTo' : 'range',
        min,
        max,
        each: { each: kind.expected },
      },
      english: `${countInWords(min, max)}, each ${expectedInEnglish(kind.expected)}`,
    },
    schema: { type: 'array', items: schemaOf(kind), minItems: min, maxItems: max },
    example: kind.example,
    tokens: 'many',
    leavesQuoted: kind.leavesQuoted,
    ...(kind.shape === undefined ? {} : { shape: kind.shape }),
    // The reader takes a list value by value; a whole text is none.
    read: () => notOfShape,
    take: (value) => (isValue(value) ? (value as readonly T[]) : notOfShape),
    ...(kind.suggest === undefined ? {} : { suggest: kind.suggest }),
    isValue,
    item: { kind, convert, min, max, unique: options?.unique === true },
    taking: listTaking,
  };
  return makeArg(`list of ${item.type}`, listKind, options as Options, [...listProblems(item, min, max)], fields);
}

function countInWords(min: number, max: number): string {
  if (min === max) return `${min} values`;
  return min === 1 ? `up to ${max} values` : `${min} to ${max} values`;
}

function* listProblems({ kind, absent, flag }: Arg<unknown>, min: number, max: number): Iterable<string> {
  if (typeof kind.tokens === 'string') yield `is a list of ${kind.name}; take a kind of single values`;
  if (absent.as !== 'problem' || flag !== undefined)
    yield 'has values that are optional or flags; say that of the list';
  if (!Number.isInteger(min) || !Number.isInteger(max) || min < 1 || max < min)
    yield `has min ${min} and max ${max}; give whole numbers, 1 ≤ min ≤ max`;
}
