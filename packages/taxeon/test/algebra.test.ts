/**
 * How requirements combine: the library against a plain model, over every tree of up to three leaves, and one in sixteen
 * of four. `npm run test:long` goes through all of them.
 */

import { standIn } from '@taxeon/testing';
import {
  type Arg,
  arg,
  command,
  createCommandLayer,
  type Member,
  type Requirement,
  type RequirementBuilder,
} from 'taxeon';
import type { Input, Platform } from 'taxeon/platform';
import { describe, expect, test } from 'vitest';
import { codeOf, oddmereData, silentLog } from '../../../test/support/oddmere.js';

type Value = 'yes' | 'no' | 'later' | 'unknown' | 'nobody';
type Tree = number | { readonly not: Tree } | { readonly all: readonly Tree[] } | { readonly any: readonly Tree[] };

/** The rule of docs/access.md as it reads: who was not named is left out; then the first of these that is there decides. */
const decides = { all: ['no', 'later', 'unknown', 'yes'], any: ['yes', 'later', 'unknown', 'no'] } as const;

function modelled(tree: Tree, leaf: (index: number) => Value): Value {
  if (typeof tree === 'number') return leaf(tree);
  if ('not' in tree) {
    const value = modelled(tree.not, leaf);
    return value === 'yes' ? 'no' : value === 'no' ? 'yes' : value;
  }
  const [operands, order] = 'all' in tree ? [tree.all, decides.all] : [tree.any, decides.any];
  const values = operands.map((one) => modelled(one, leaf)).filter((value) => value !== 'nobody');
  return order.find((value) => values.includes(value)) ?? 'nobody';
}

/** All trees with so many leaves and at most so many operations above each; leaves are numbered from `from` on. */
function treesOf(leaves: number, depth: number, from = 0): readonly Tree[] {
  const single: Tree[] = leaves === 1 ? [from] : [];
  if (depth === 0) return single;
  const negated = treesOf(leaves, depth - 1, from).map((not) => ({ not }));
  const joined = rowsOf(leaves, depth - 1, from)
    .filter((row) => row.length > 1)
    .flatMap((row): Tree[] => [{ all: row }, { any: row }]);
  return [...single, ...negated, ...joined];
}

function rowsOf(leaves: number, depth: number, from: number): readonly (readonly Tree[])[] {
  if (leaves === 0) return [[]];
  return Array.from({ length: leaves }, (_, index) => index + 1).flatMap((first) =>
    treesOf(first, depth, from).flatMap((tree) =>
      rowsOf(leaves - first, depth, from + first).map((rest) => [tree, ...rest]),
    ),
  );
}

function inOwnWords(tree: Tree, leaves: readonly Requirement[], builder: RequirementBuilder<never>): Requirement {
  const made = (one: Tree) => inOwnWords(one, leaves, builder);
  if (typeof tree === 'number') return leaves[tree] as Requirement;
  if ('not' in tree) return builder.not(made(tree.not));
  return 'all' in tree ? builder.allOf(...tree.all.map(made)) : builder.anyOf(...tree.any.map(made));
}

/** A leaf that the caller alone decides, or one about somebody who is named only when the command is called. */
const callersAlone: readonly Value[] = ['yes', 'no'];
const aboutOthers: readonly Value[] = ['yes', 'no', 'unknown', 'nobody'];

function member(id: string, rank: number | undefined, permissions: readonly string[] = []): Member {
  return { kind: 'member', id, name: id, roles: [], permissions: new Set(permissions), rank, ownsGuild: false };
}

const others: Readonly<Record<string, Member>> = {
  yes: member('yes', 1),
  no: member('no', 9),
  unknown: member('unknown', undefined),
};

/** Whoever is asked for by its value: somebody below, above, or of no rank that is known. */
function platformOf(): Platform {
  const simulated = standIn(oddmereData().world);
  const directory = {
    ...simulated.directory,
    member: (_: unknown, id: string) => others[id],
    mentioned: () => undefined,
  };
  return { ...simulated, directory, deliver: () => undefined, hold: () => undefined } as Platform;
}

const guild = { id: 'oddmere', name: 'Oddmere Tool Library' };
const place: Input['place'] = { kind: 'guild', guild, channel: { id: 'counter', name: 'counter' } };

/** Calls a command that requires the tree, for every combination of its leaves' values. @returns how many */
async function compare(trees: readonly Tree[], leaves: number, platform: Platform): Promise<number> {
  let read = 0;
  let compared = 0;
  const indexes = Array.from({ length: leaves }, (_, index) => index);
  const counted = arg.custom({
    name: 'note',
    expected: 'a note',
    example: 'n',
    read(text) {
      read++;
      return text;
    },
  });
  const args: Record<string, Arg<unknown>> = { note: counted };
  for (const index of indexes) args[`a${index}`] = arg.member({ optional: true, flag: true });
  for (const kinds of combinations(indexes.map(() => [callersAlone, aboutOthers]))) {
    const commands = trees.map((tree, at) =>
      command({
        name: `c${at}`,
        description: 'Act',
        args,
        requires(builder: RequirementBuilder<never>) {
          const made = kinds.map((kind, index) =>
            kind === callersAlone ? builder.caller.can(`p${index}`) : builder.caller.outranks(`a${index}` as never),
          );
          return [inOwnWords(tree, made, builder)];
        },
        run: () => undefined,
      } as never),
    );
    const layer = createCommandLayer({ commands, log: silentLog, damping: 'off' });
    for (const values of combinations(kinds)) {
      const can = indexes.filter((index) => kinds[index] === callersAlone && values[index] === 'yes');
      const caller = member(
        'ines',
        5,
        can.map((index) => `p${index}`),
      );
      const options: Record<string, unknown> = { note: 'n' };
      for (const index of indexes) {
        if (kinds[index] === aboutOthers && values[index] !== 'nobody') options[`a${index}`] = values[index];
      }
      for (const [at, tree] of trees.entries()) {
        read = 0;
        const input = { surface: 'slash', path: [`c${at}`], options, caller, place, at: 0 } as const;
        const outcome = await layer.handle(input, platform);
        const early = modelled(tree, (index) => (kinds[index] === callersAlone ? (values[index] as Value) : 'later'));
        const full = modelled(tree, (index) => values[index] as Value);
        const expected = [early !== 'no', full === 'yes' || full === 'nobody'];
        if (read > 0 !== expected[0] || (outcome.status === 'completed') !== expected[1]) {
          expect({ tree, values, expected: [read > 0, codeOf(outcome)] }).toEqual({ tree, values, expected });
        }
        compared++;
      }
    }
    await layer.close();
  }
  return compared;
}

function combinations<T>(choices: readonly (readonly T[])[]): readonly (readonly T[])[] {
  return choices.reduce<readonly (readonly T[])[]>(
    (before, choice) => before.flatMap((row) => choice.map((one) => [...row, one])),
    [[]],
  );
}

describe('requirements, combined', () => {
  test.each([
    [1, 3],
    [2, 3],
    [3, 3],
    [4, 3],
  ])(
    'trees of %i leaves and depth %i give what the model gives, at both stages',
    async (leaves, depth) => {
      const sampled = process.env['SWEEP'] === 'all' || leaves < 4 ? 1 : 16;
      const trees = treesOf(leaves, depth).filter((_, index) => index % sampled === 0);
      const compared = await compare(trees, leaves, platformOf());
      expect(compared).toBe(trees.length * 6 ** leaves);
    },
    300_000,
  );
});
