import { foldName } from '../../base/text.js';
import { type ArgOf, type ArgOptions, type DefaultOf, type Exactly, makeArg, type NoOptions } from '../arg.js';
import { type Kind, notOfShape, type ReadingContext, takeIf } from '../kind.js';
import { plainly } from './expected.js';

export interface BooleanOptions extends ArgOptions<DefaultOf<boolean>> {}

const meanings: ReadonlyMap<string, boolean> = new Map([
  ...['yes', 'y', 'true', 'on'].map((word) => [word, true] as const),
  ...['no', 'n', 'false', 'off'].map((word) => [word, false] as const),
]);

/**
 * Yes or no: `yes`, `y`, `true`, `on` and their opposites, or the words for them of a language that the bot has.
 * As a flag it is a switch: `--quiet` is yes, `--no-quiet` is no, and absent is no unless a default says otherwise.
 *
 * @example
 * arg.boolean({ description: 'Without telling everybody', flag: { short: 'q' } })
 */
export function boolean<const Options extends BooleanOptions = NoOptions>(
  options?: Exactly<Options, BooleanOptions>,
): ArgOf<boolean, 'boolean', Options> {
  const declared = options as Options | undefined;
  const isSwitch = declared?.flag !== undefined && declared.default === undefined && declared.optional !== true;
  return makeArg('boolean', booleanKind, (isSwitch ? { ...declared, default: false } : declared) as Options);
}

function meaningOf(typed: string, context: ReadingContext | undefined): boolean | undefined {
  return meanings.get(foldName(typed)) ?? meanings.get(foldName(context?.inEnglish?.(typed) ?? ''));
}

const isValue = (value: unknown) => typeof value === 'boolean';

const booleanKind: Kind<boolean> = {
  name: 'boolean',
  expected: plainly('boolean', 'yes or no'),
  schema: { type: 'boolean' },
  traits: { isSwitch: true, readsAlone: true },
  example: 'yes',
  tokens: 1,
  leavesQuoted: false,
  shape: (typed, context) => meaningOf(typed, context) !== undefined,
  read: (typed, context) => meaningOf(typed, context) ?? notOfShape,
  take: takeIf(isValue),
  write: (value) => (value ? 'yes' : 'no'),
  suggest: () => ['yes', 'no'],
  isValue,
};
