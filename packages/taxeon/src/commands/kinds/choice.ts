import { nearNames } from '../../base/near.js';
import { either, foldName } from '../../base/text.js';
import { type ArgOf, type ArgOptions, type DefaultOf, type Exactly, makeArg, type NoOptions } from '../arg.js';
import { type Kind, Misread, takeIf } from '../kind.js';

type Labels = readonly string[] | Readonly<Record<string, unknown>>;

type ValueOf<L extends Labels> = L extends readonly (infer Label)[] ? Label : L[keyof L];

/**
 * One of a fixed set of labels, compared without case. A list of labels gives the label itself,
 * a record the value behind the label.
 *
 * @example
 * arg.choice(['lathe', 'welder', 'chainsaw'], { description: 'Which machine' })
 * arg.choice({ small: 10, large: 25 }, { description: 'Which drill bit, in millimetres' })
 */
export function choice<const L extends Labels, const Options extends ArgOptions<DefaultOf<ValueOf<L>>> = NoOptions>(
  labels: L,
  options?: Exactly<Options, ArgOptions<DefaultOf<ValueOf<L>>>>,
): ArgOf<ValueOf<L>, 'choice', Options> {
  if (typeof labels !== 'object') throw new TypeError('arg.choice takes a list of labels, or values by label');
  const entries = (Array.isArray(labels) ? labels.map((label) => [label, label]) : Object.entries(labels)) as [
    string,
    ValueOf<L>,
  ][];
  return makeArg('choice', choiceKind(entries), options as Options, labelProblems(entries));
}

function choiceKind<Value>(entries: readonly [string, Value][]): Kind<Value> {
  const byName = new Map(entries.map((entry) => [foldName(entry[0]), entry]));
  const labels = entries.map(([label]) => label);
  const near = (typed: string) =>
    nearNames(foldName(typed), byName.keys()).map((name) => byName.get(name)?.[0] ?? name);
  const labelOf = (value: Value) => entries.find(([, one]) => one === value)?.[0] ?? '';
  const isValue = (value: unknown) => entries.some(([, one]) => one === value);
  return {
    name: 'choice',
    expected: { key: 'choice', parameters: { labels: { oneOf: labels } }, english: `one of ${either(labels)}` },
    schema: { type: 'string', enum: labels },
    traits: { readsAlone: true, suggestsAll: true },
    example: labels[0],
    tokens: 1,
    leavesQuoted: false,
    shape: (typed) => byName.has(foldName(typed)) || near(typed).length > 0,
    read: (typed) => {
      const entry = byName.get(typed) ?? byName.get(foldName(typed));
      return entry === undefined ? new Misread('argument.invalid', { misfit: 'shape', near: near(typed) }) : entry[1];
    },
    take: takeIf(isValue),
    write: labelOf,
    shown: labelOf,
    suggest: () => labels,
    isValue,
  };
}

function labelProblems(entries: readonly [string, unknown][]): string[] {
  if (entries.length === 0) return ['has no labels; name at least one'];
  const seen = new Set<string>();
  const problems: string[] = [];
  for (const [label] of entries) {
    const name = foldName(label);
    if (seen.has(name)) problems.push(`names the label "${label}" twice; labels compare without case`);
    if (label.trim() === '') problems.push('has an empty label; name it or leave it out');
    seen.add(name);
  }
  return problems;
}
