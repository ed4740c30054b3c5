/** Which rules somebody may make for a guild: nobody decides about who is not below them, nor gives what they do not have. */
import type { Member, Role } from '../contract/actors.js';
import { type Asking, type Guarded, sceneOf } from './check.js';
import type { CompiledRequirement } from './compile.js';
import { callerBelow } from './requirements/rank.js';
import { compileSettings } from './rules.js';
import { ownsAnything } from './scene.js';

/** What a rule, or switching off, is about. */
export interface Decision {
  readonly verdict: 'grant' | 'deny' | 'forget' | 'switch';
  /** Nobody where it holds for all, or for a channel. */
  readonly about: Member | Role | undefined;
  /** Ids of the commands by which settings are changed. */
  readonly of: ReadonlySet<string>;
}

/** Why not: it is about who is not below, it gives what they have not, or it is about changing settings itself. */
export type DecisionProblem = 'rank' | 'not-yours' | 'owners';

/** A command as rules see it. */
type Governed = Guarded & { readonly id: string; readonly requires: readonly CompiledRequirement[] };

/** @param governed the commands that it would hold for */
export function decisionProblem(
  { verdict, about, of }: Decision,
  governed: readonly Governed[],
  asking: Asking,
): DecisionProblem | undefined {
  if (about !== undefined && callerBelow(asking.caller, subjectOf(about), false, asking.rights) !== undefined)
    return 'rank';
  if (ownsAnything(asking)) return undefined;
  if (governed.some(({ id }) => of.has(id))) return 'owners';
  return verdict === 'grant' && !governed.every((command) => holds(command, asking)) ? 'not-yours' : undefined;
}

/** A role ranks like a member who has it alone. */
function subjectOf(about: Member | Role): Pick<Member, 'id' | 'rank' | 'ownsGuild' | 'sharesId'> {
  return 'kind' in about ? about : { id: '', rank: about.rank, ownsGuild: false };
}

/** By one's own right: what a grant gave is not handed on. */
function holds({ ids, requires }: Governed, asking: Asking): boolean {
  const { settings, caller, place } = asking;
  const rules = settings.settings.rules?.filter(({ verdict }) => verdict === 'deny') ?? [];
  const without = compileSettings({ ...settings.settings, rules });
  if (without.ruleFor(ids, caller, place) === 'deny') return false;
  const scene = sceneOf({ ...asking, settings: without }, undefined, undefined);
  return requires.every(({ requirement, grantable }) => !grantable || requirement.decide(scene) === 'yes');
}
