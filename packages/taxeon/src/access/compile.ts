/** Requirements, sorted at compile time by what deciding them needs. */
import { leavesOf, type Requirement } from '../commands/requirements.js';

export interface CompiledRequirement {
  readonly requirement: Requirement;
  /** Decided by the caller alone, once and for all. */
  readonly byCaller: boolean;
  /**
   * Made only of `can` and `holds` of the caller: a guild's grant satisfies it as a whole, and so
   * does owning the bot. Nothing else is ever loosened.
   */
  readonly grantable: boolean;
  /** The developer's own checks in it. */
  readonly checks: readonly Extract<Requirement, { kind: 'own' }>[];
}

export function compileRequirements(requirements: readonly Requirement[]): readonly CompiledRequirement[] {
  return requirements.map((requirement) => {
    const leaves = [...leavesOf(requirement)];
    return {
      requirement,
      byCaller: leaves.every((leaf) => isGrantable(leaf) || leaf.kind === 'owns-bot'),
      grantable: leaves.length > 0 && leaves.every(isGrantable),
      checks: leaves.filter((leaf) => leaf.kind === 'own'),
    };
  });
}

function isGrantable(leaf: Requirement): boolean {
  return leaf.kind === 'holds' || (leaf.kind === 'can' && leaf.of === 'caller');
}

/** What the bot itself must be allowed. */
export function botPermissionsIn(requirements: readonly CompiledRequirement[]): readonly string[] {
  const names = new Set<string>();
  for (const { requirement } of requirements) {
    for (const leaf of leavesOf(requirement)) if (leaf.kind === 'can' && leaf.of === 'bot') names.add(leaf.permission);
  }
  return [...names];
}
