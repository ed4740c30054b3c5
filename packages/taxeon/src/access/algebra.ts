/**
 * What deciding a requirement gives, and how all combine: five values, so that what is not known never passes
 * for a yes, nor under `not` for a no.
 */
import type { Coded, Missing } from '../contract/codes.js';

export type AccessRefusal = Coded<
  | 'permission.caller'
  | 'permission.bot'
  | 'permission.rank'
  | 'permission.target'
  | 'requirement.failed'
  | 'callback.failed'
>;

/** It does not hold, or cannot be told: with every condition on the shortest way to pass that is not met. */
export interface Negative {
  readonly value: 'no' | 'unknown';
  readonly unmet: readonly AccessRefusal[];
}

/**
 * `later`: arguments or bot were not looked at yet. `nobody`: it is about a person who was not named, and so about
 * nobody; left out wherever it is combined with others.
 */
export type Decided = 'yes' | 'later' | 'nobody' | Negative;

export function no(...unmet: readonly AccessRefusal[]): Negative {
  return { value: 'no', unmet };
}

export function unknown(...unmet: readonly AccessRefusal[]): Negative {
  return { value: 'unknown', unmet };
}

/** Any `no` is no; else any `later`, then any `unknown`; of nothing but nobody it is about nobody. */
export function allOf(all: readonly Decided[]): Decided {
  return combined(all, 'no', (unmet) => unmet.flatMap((one) => one.unmet));
}

/** The mirror of `allOf`. Of several ways that all fail, the one with the least missing is told. */
export function anyOf(all: readonly Decided[]): Decided {
  return combined(all, 'yes', (unmet) => shortest(unmet).unmet);
}

/** Swaps yes and no, and leaves the rest. */
export function negated(decided: Decided, against: () => readonly AccessRefusal[]): Decided {
  if (decided === 'yes') return no(...against());
  return typeof decided === 'object' && decided.value === 'no' ? 'yes' : decided;
}

/** Hot path: bench/rows/calls. */
function combined(
  all: readonly Decided[],
  deciding: 'yes' | 'no',
  told: (unmet: readonly Negative[]) => readonly AccessRefusal[],
): Decided {
  let otherwise: Decided = 'nobody';
  let isLater = false;
  let negatives: Negative[] | undefined;
  for (const decided of all) {
    if (decided === 'nobody') continue;
    if (decided === 'later') isLater = true;
    else if (decided === 'yes') {
      if (deciding === 'yes') return 'yes';
      otherwise = 'yes';
    } else {
      negatives ??= [];
      negatives.push(decided);
    }
  }
  const noes = negatives?.filter(({ value }) => value === 'no') ?? [];
  if (deciding === 'no' && noes.length > 0) return no(...told(noes));
  if (isLater) return 'later';
  if (negatives === undefined) return otherwise;
  return negatives.length > noes.length ? unknown(...told(negatives.filter(isUnknown))) : no(...told(noes));
}

function isUnknown({ value }: Negative): boolean {
  return value === 'unknown';
}

function shortest(all: readonly Negative[]): Negative {
  return all.reduce((least, one) => (one.unmet.length < least.unmet.length ? one : least));
}

/** Why a caller lacks what is asked of them. */
export function lacks(what: Missing['what'], name: string): AccessRefusal {
  return { code: 'permission.caller', parameters: { missing: [{ what, name, without: false }], denied: false } };
}

/** Why a caller is refused who has what must not be. */
export function mustBeWithout(what: Missing['what'], name: string): AccessRefusal {
  return { code: 'permission.caller', parameters: { missing: [{ what, name, without: true }], denied: false } };
}

/** For what has no sentence of its own. */
export const asThingsAre: AccessRefusal = {
  code: 'requirement.failed',
  parameters: { argument: undefined, reason: undefined },
};

/** One refusal for all that is missing: the first decides the code, and further ones of the caller's join it. */
export function refusalOf({ unmet }: Negative): AccessRefusal {
  const [first = asThingsAre] = unmet;
  if (first.code !== 'permission.caller' || unmet.length === 1) return first;
  const missing = unmet.flatMap((one) => (one.code === 'permission.caller' ? one.parameters.missing : []));
  return { code: 'permission.caller', parameters: { missing, denied: false } };
}
