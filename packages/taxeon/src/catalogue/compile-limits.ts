/** A command's cooldowns and running limits, compiled. */
import { type CompiledRequirement, compileRequirements } from '../access/compile.js';
import { requirementBuilder } from '../access/requirements/index.js';
import { parseAllowance } from '../base/allowance.js';
import type { AnyDeclaration } from '../commands/command.js';
import { type CooldownOptions, cooldownOptions, type OutagePolicy } from '../commands/cooldowns.js';

/** One limit of a command, apart from the platform it is counted on. */
export interface Counted {
  /** `user`, `guild` …, or a name of the developer's own. */
  readonly by: string;
  /** What names the limit beside the platform: `induct/user`, `shared/lending`. */
  readonly id: string;
  readonly uses: number;
  /** `undefined` for a running limit, whose uses end with the call. */
  readonly windowMs: number | undefined;
  readonly exempt: readonly CompiledRequirement[] | undefined;
  readonly charge: 'always' | 'completed';
  readonly cost: CooldownOptions['cost'];
  readonly key: CooldownOptions['key'];
  readonly outage: OutagePolicy | undefined;
}

type Limited = Pick<AnyDeclaration, 'cooldowns' | 'running'>;

/** @param declared a command's limits, or a group's, which all its commands share */
export function countedOf({ cooldowns = {}, running = {} }: Limited, id: string): readonly Counted[] {
  const cooling = Object.entries(cooldowns).flatMap(([by, declared]): Counted[] => {
    const { allow, shared, exempt, charge = 'always', cost, key, outage } = cooldownOptions(declared);
    const parsed = parseAllowance(allow);
    if (parsed === undefined) return [];
    return [
      {
        by,
        id: shared === undefined ? `${id}/${by}` : `shared/${shared}/${by}`,
        ...parsed,
        exempt: exempt === undefined ? undefined : compileRequirements(exempt(requirementBuilder)),
        charge,
        cost,
        key,
        outage,
      },
    ];
  });
  const atOnce = Object.entries(running).map(
    ([by, uses]): Counted => ({
      by,
      id: `${id}/running/${by}`,
      uses,
      windowMs: undefined,
      exempt: undefined,
      charge: 'always',
      cost: undefined,
      key: undefined,
      outage: undefined,
    }),
  );
  return [...cooling, ...atOnce];
}
