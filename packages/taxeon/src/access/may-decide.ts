/** Which rules a person may make for a guild: nobody decides about who is not below them, nor gives what they do not have. */
import type { Member, Role } from '../contract/actors.js';
import { type AccessInput, accessContextOf, type Guarded } from './check.js';
import type { CompiledRequirement } from './compile.js';
import { ownsAnything } from './context.js';
import { callerBelow } from './requirements/rank.js';

/** What a rule, or switching off, is about. */
export interface Decision {
  readonly verdict: 'grant' | 'deny' | 'forget' | 'switch';
  /** Nobody where it holds for all, or for a channel. */
  readonly about: Member | Role | undefined;
}

/** With this the ids of the commands begin by which settings are changed. */
export const CHANGING = 'settings.';

/** A command as rules see it. */
type Governed = Guarded & { readonly id: string; readonly requires: readonly CompiledRequirement[] };

/**
 * Only about who is below, only what they may do themselves, and never who may decide; the last two but for owners.
 *
 * @param governed the commands that it would hold for
 */
export function mayDecide({ verdict, about }: Decision, governed: readonly Governed[], asking: AccessInput): boolean {
  if (about !== undefined && callerBelow(asking.caller, subjectOf(about), false, asking.rights) !== undefined)
    return false;
  return (
    ownsAnything(asking) ||
    governed.every(
      (command) => !command.id.startsWith(CHANGING) && (verdict !== 'grant' || meetsRequirements(command, asking)),
    )
  );
}

/** A role ranks like a member who has it alone. */
function subjectOf(about: Member | Role): Pick<Member, 'id' | 'rank' | 'ownsGuild' | 'sharesId'> {
  return 'kind' in about ? about : { id: '', rank: about.rank, ownsGuild: false };
}

/** By one's own right: what a grant gave is not handed on. */
function meetsRequirements({ ids, requires }: Governed, asking: AccessInput): boolean {
  const { settings, caller, place } = asking;
  if (settings.ruleFor(ids, caller, place) === 'deny') return false;
  const context = accessContextOf(asking, undefined, undefined);
  return requires.every(({ requirement, grantable }) => !grantable || requirement.decide(context) === 'yes');
}
