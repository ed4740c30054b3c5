/** Requirements, sorted at compile time by what deciding them needs. */
import { foundOrMade } from '../base/bounded-map.js';
import { leavesOf, type Requirement } from '../commands/requirements.js';
import { type Decidable, isRequirement } from './requirement.js';

export interface CompiledRequirement {
  readonly requirement: Decidable;
  /** Decided by the caller alone, once and for all. */
  readonly byCaller: boolean;
  /** Something in it is decided by the caller alone. */
  readonly aboutCaller: boolean;
  /**
   * Made only of `can` and `holds` of the caller, without `not`: a guild's grant satisfies it as a whole, and so
   * does owning the bot. Nothing else is ever loosened.
   */
  readonly grantable: boolean;
  /** The member arguments that it is about. */
  readonly about: readonly string[];
  /** The developer's own conditions in it. */
  readonly conditions: readonly Decidable[];
}

/** @throws TypeError for what no builder has made; a catalogue tells that with all other problems. */
export function compileRequirements(requirements: readonly Requirement[]): readonly CompiledRequirement[] {
  return requirements.map((requirement) => {
    if (!isRequirement(requirement)) throw new TypeError('This is no requirement; make it with the builder');
    return foundOrMade(compiled, requirement, compileRequirement);
  });
}

/** Requirements are shared between commands, and so is what becomes of them: bench/rows/catalogue. */
const compiled = new WeakMap<Decidable, CompiledRequirement>();

function compileRequirement(requirement: Decidable): CompiledRequirement {
  const leaves = requirement.operands.length === 0 ? [requirement] : [...leavesOf(requirement)];
  return {
    requirement,
    byCaller: leaves.every(({ traits }) => traits.byCaller === true),
    aboutCaller: leaves.some(({ traits }) => traits.byCaller === true),
    grantable: !hasNot(requirement) && leaves.every(({ traits }) => traits.grantable === true),
    about: [...new Set(leaves.flatMap(({ parameters }) => parameters.argument ?? []))],
    conditions: leaves.filter(({ condition }) => condition !== undefined),
  };
}

function hasNot({ traits, operands }: Requirement): boolean {
  return traits.negates === true || operands.some(hasNot);
}

/** What the bot itself must be allowed. */
export function botPermissionsIn(requirements: readonly CompiledRequirement[]): readonly string[] {
  const names = new Set<string>();
  for (const { requirement } of requirements) {
    for (const { traits, parameters } of leavesOf(requirement)) {
      if (traits.permissionOf === 'bot' && parameters.permission !== undefined) names.add(parameters.permission);
    }
  }
  return [...names];
}
