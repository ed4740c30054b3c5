import { nearNames } from '../../base/near.js';
import { either, foldName } from '../../base/text.js';
import { type ArgOf, type ArgOptions, type DefaultOf, type Exactly, makeArg, type NoOptions } from '../arg.js';
import { type Kind, Misread } from '../kind.js';

/**
 * One of a fixed set of labels, compared without case.
 *
 * @example
 * arg.choice(['lathe', 'welder', 'chainsaw'], { description: 'Which machine' })
 */
export function choice<
  const Labels extends readonly string[],
  const Options extends ArgOptions<DefaultOf<Labels[number]>> = NoOptions,
>(labels: Labels, options?: Exactly<Options, ArgOptions<unknown>>): ArgOf<Labels[number], 'choice', Options> {
  return makeArg('choice', choiceKind<Labels[number]>(labels), options as Options, labelProblems(labels));
}

function choiceKind<Label extends string>(labels: readonly Label[]): Kind<Label> {
  const byName = new Map(labels.map((label) => [foldName(label), label]));
  const near = (typed: string) => nearNames(foldName(typed), byName.keys()).map((name) => byName.get(name) as Label);
  return {
    name: 'choice',
    expected: `one of ${either(labels)}`,
    example: labels[0] ?? '',
    tokens: 1,
    leavesQuoted: false,
    shape: (typed) => byName.has(foldName(typed)) || near(typed).length > 0,
    read: (typed) =>
      byName.get(typed) ??
      byName.get(foldName(typed)) ??
      new Misread('argument.invalid', { misfit: 'shape', near: near(typed) }),
    accepts: (value) => labels.includes(value as Label),
  };
}

function labelProblems(labels: readonly string[]): string[] {
  if (labels.length === 0) return ['has no labels; name at least one'];
  const seen = new Set<string>();
  const problems: string[] = [];
  for (const label of labels) {
    const name = foldName(label);
    if (seen.has(name)) problems.push(`names the label "${label}" twice; labels compare without case`);
    if (label.trim() === '') problems.push('has an empty label; name it or leave it out');
    seen.add(name);
  }
  return problems;
}
