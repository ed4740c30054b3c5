/** The two stages of access: what the caller alone decides, and what needs arguments, the bot or a condition of the developer's own. */
import { isThenable, type MaybePromise } from '../base/thenable.js';
import type { ConditionContext, ConditionResult, Requirement } from '../commands/requirements.js';
import type { Member } from '../contract/actors.js';
import type { Place } from '../contract/places.js';
import { type Directory, guildOf } from '../contract/platform.js';
import type { CompiledRequirement } from './compile.js';
import { type AccessRefusal, type AccessScene, decide, ownsBot, type Rights, refusalOf } from './decide.js';
import type { CompiledSettings } from './rules.js';

/** A command as access sees it. */
export interface Guarded {
  /** The ids under which a guild may decide about it, the most specific first: its own, its groups', its section's. */
  readonly ids: readonly string[];
  readonly requires: readonly CompiledRequirement[];
  /** Those that the caller alone does not decide. */
  readonly standing: readonly CompiledRequirement[];
}

/** An input as access sees it. */
export interface Asking extends Omit<ConditionContext, 'args'> {
  readonly rights: Rights;
  readonly settings: CompiledSettings;
}

const denied: AccessRefusal = { code: 'permission.caller', parameters: { missing: [], denied: true } };

/** Whether a guild's grant, or owning the bot, stands in for what may be granted. */
export function isExcused(command: Guarded, asking: Asking): boolean {
  return ownsBot(asking) || asking.settings.ruleFor(command.ids, asking.caller, asking.place) === 'grant';
}

/** Stage 5: refuses only what is already no. Hot path: bench/dispatch. */
export function checkCaller(command: Guarded, asking: Asking): AccessRefusal | undefined {
  if (asking.settings.ruleFor(command.ids, asking.caller, asking.place) === 'deny') return denied;
  const { requires } = command;
  if (requires.length === 0) return undefined;
  const scene = sceneOf(asking, undefined, undefined);
  let excused: boolean | undefined;
  for (const { requirement, grantable } of requires) {
    const finding = decide(requirement, scene);
    if (typeof finding === 'string') continue;
    if (grantable) excused ??= isExcused(command, asking);
    if (!grantable || excused !== true) return refusalOf(finding);
  }
  return undefined;
}

function sceneOf(
  { caller, settings, rights }: Asking,
  args: AccessScene['args'],
  bot: AccessScene['bot'],
): AccessScene {
  return { caller, settings, rights, args, bot, checked: undefined };
}

/** Stage 7: settles the rest. Asks the platform for the bot, and the developer's checks, only when needed. */
export function checkStanding(
  command: Guarded,
  asking: Asking,
  args: Readonly<Record<string, unknown>>,
  directory: Directory | undefined,
): MaybePromise<AccessRefusal | undefined> {
  const open = command.standing;
  if (open.length === 0) return undefined;
  const bot = lookUpBot(asking.place, directory);
  return isThenable(bot) ? bot.then((member) => settle(open, asking, args, member)) : settle(open, asking, args, bot);
}

/** The bot itself, as it stands in a place. */
export function lookUpBot(place: Place, directory: Directory | undefined): MaybePromise<Member | 'absent'> {
  const guild = guildOf(place);
  if (directory === undefined || guild === undefined) return 'absent';
  const self = directory.self(guild);
  return isThenable(self) ? self.then((bot) => bot ?? 'absent') : (self ?? 'absent');
}

type Open = readonly CompiledRequirement[];

function settle(
  open: Open,
  asking: Asking,
  args: Readonly<Record<string, unknown>>,
  bot: Member | 'absent',
): MaybePromise<AccessRefusal | undefined> {
  const scene = sceneOf(asking, args, bot);
  const refusal = firstRefusal(open, scene);
  if (refusal !== undefined || open.every(({ checks }) => checks.length === 0)) return refusal;
  const { caller, guild, place, now } = asking;
  const checked = runConditions(open, { caller, args, guild, place, now });
  return isThenable(checked)
    ? checked.then((results) => firstRefusal(open, { ...scene, checked: results }))
    : firstRefusal(open, { ...scene, checked });
}

function firstRefusal(open: Open, scene: AccessScene): AccessRefusal | undefined {
  for (const { requirement } of open) {
    const finding = decide(requirement, scene);
    if (typeof finding === 'object') return refusalOf(finding);
  }
  return undefined;
}

/** Runs the developer's checks, one after the other; what one of them throws goes up. */
function runConditions(open: Open, context: ConditionContext): MaybePromise<ReadonlyMap<Requirement, ConditionResult>> {
  const results = new Map<Requirement, ConditionResult>();
  const checks = open.flatMap(({ checks }) => checks);
  return runFrom(0);

  function runFrom(from: number): MaybePromise<ReadonlyMap<Requirement, ConditionResult>> {
    for (let index = from; index < checks.length; index++) {
      const requirement = checks[index] as (typeof checks)[number];
      const result = requirement.holds(context);
      if (isThenable(result)) {
        return result.then((settled) => {
          results.set(requirement, settled);
          return runFrom(index + 1);
        });
      }
      results.set(requirement, result);
    }
    return results;
  }
}
