/** What can be wrong with a command's cooldowns and running limits. */

import { isRequirement } from '../access/requirement.js';
import { requirementBuilder } from '../access/requirements/index.js';
import { parseAllowance } from '../base/allowance.js';
import { messageOf, shown } from '../base/fields.js';
import { atOnce } from '../base/thenable.js';
import type { AnyDeclaration } from '../commands/command.js';
import { cooldownOptions, countedBy } from '../commands/cooldowns.js';
import { leavesOf } from '../commands/requirements.js';
import type { Tell } from './check-args.js';

function isCount(uses: unknown): boolean {
  return Number.isInteger(uses) && (uses as number) >= 1;
}

export function checkLimits({ cooldowns = {}, running = {} }: AnyDeclaration, tell: Tell): void {
  const uncounted = `counts by nothing known; give one of ${countedBy.join(', ')}`;
  for (const [by, declared] of Object.entries(cooldowns)) {
    const field = `cooldowns.${by}`;
    const { allow, key, cost, exempt } = cooldownOptions(declared);
    if (parseAllowance(allow) === undefined)
      tell(field, `${JSON.stringify(allow)} does not read; write '10m' or '5 in 1m'`);
    if (!countedBy.includes(by) && key === undefined) {
      tell(field, `${uncounted}, or a \`key\` function`);
    }
    if (typeof cost === 'number' && !isCount(cost)) tell(field, `costs ${cost}; give a whole number from 1 on`);
    if (exempt !== undefined) checkExempt(field, exempt, tell);
  }
  for (const [by, uses] of Object.entries(running)) {
    const field = `running.${by}`;
    if (!countedBy.includes(by)) tell(field, uncounted);
    if (!isCount(uses)) tell(field, `allows ${shown(uses)}; give a whole number from 1 on`);
  }
}

function checkExempt(
  field: string,
  exempt: NonNullable<ReturnType<typeof cooldownOptions>['exempt']>,
  tell: Tell,
): void {
  try {
    const given: unknown = atOnce(exempt(requirementBuilder));
    if (!Array.isArray(given) || !given.every(isRequirement))
      tell(field, 'has an `exempt` that gives no list of requirements; return [ … ]');
    else if (given.some((one) => [...leavesOf(one)].some(({ condition }) => condition !== undefined)))
      tell(field, 'exempts by a condition of its own; use those on caller, bot and target');
  } catch (error) {
    tell(field, `has an \`exempt\` that throws: ${messageOf(error)}`);
  }
}

/** Limits that are shared must be the same everywhere. */
export function* sharedProblems(
  declarations: readonly Pick<AnyDeclaration, 'name' | 'cooldowns'>[],
): Iterable<{ command: string; field: string; problem: string }> {
  const seen = new Map<string, { allow: string; command: string }>();
  for (const { name: command, cooldowns = {} } of declarations) {
    for (const [by, declared] of Object.entries(cooldowns)) {
      const { shared, allow } = cooldownOptions(declared);
      if (shared === undefined) continue;
      const other = seen.get(`${shared}/${by}`);
      if (other !== undefined && other.allow !== allow) {
        yield {
          command,
          field: `cooldowns.${by}`,
          problem: `shares "${shared}" but allows ${allow}, where ${other.command} allows ${other.allow}; make them the same`,
        };
      }
      seen.set(`${shared}/${by}`, other ?? { allow, command });
    }
  }
}
