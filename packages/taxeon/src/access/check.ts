/** The two stages of access: what the caller alone decides, and what needs arguments, the bot or a condition of the developer's own. */
import { calledName } from '../base/text.js';
import { andThen, isThenable, type MaybePromise, patiently } from '../base/thenable.js';
import type { Clock } from '../base/time.js';
import type { ConditionContext } from '../commands/requirements.js';
import type { Member } from '../contract/actors.js';
import type { Log } from '../contract/log.js';
import type { Guild } from '../contract/places.js';
import type { Directory } from '../contract/platform.js';
import { type AccessRefusal, allOf, asThingsAre, type Decided, refusalOf } from './algebra.js';
import type { CompiledRequirement } from './compile.js';
import { type AccessContext, type ConditionGave, isUnique, ownsAnything, ownsBot, type Rights } from './context.js';
import type { Decidable } from './requirement.js';
import type { CompiledSettings } from './rules.js';

/** A command as access sees it. */
export interface Guarded {
  readonly name: string;
  /** The ids under which a guild may decide about it, the most specific first: its own, its groups', its section's. */
  readonly ids: readonly string[];
  /** Those in which the caller alone decides something. */
  readonly early: readonly CompiledRequirement[];
  /** Those that the caller alone does not decide. */
  readonly standing: readonly CompiledRequirement[];
  /** The developer's own conditions in them. */
  readonly conditions: readonly Decidable[];
  /** Names of member arguments that must not name the bot itself. */
  readonly notTheBot: readonly string[];
}

/** An input as access sees it. */
export interface AccessInput extends Omit<ConditionContext, 'args' | 'platform'> {
  /** The name of the platform that the caller is of. */
  readonly platformName: string;
  readonly rights: Rights;
  readonly settings: CompiledSettings;
}

const denied: AccessRefusal = { code: 'permission.caller', parameters: { missing: [], denied: true } };

/** Whether a guild's grant, or owning the bot, stands in for what may be granted. */
export function isExcused(command: Guarded, asking: AccessInput): boolean {
  return ownsBot(asking) || asking.settings.ruleFor(command.ids, asking.caller, asking.place) === 'grant';
}

/** Stage 5: refuses only what is already no. Hot path: bench/rows/calls. */
export function checkCaller(command: Guarded, asking: AccessInput): AccessRefusal | undefined {
  if (asking.settings.ruleFor(command.ids, asking.caller, asking.place) === 'deny' && !ownsAnything(asking))
    return denied;
  const { early } = command;
  if (early.length === 0) return undefined;
  const context = accessContextOf(asking, undefined, undefined);
  let excused: boolean | undefined;
  for (const { requirement, grantable } of early) {
    const decided = requirement.decide(context);
    if (typeof decided === 'string' || decided.value === 'unknown') continue;
    if (grantable) excused ??= isExcused(command, asking);
    if (!grantable || excused !== true) return refusalOf(decided);
  }
  return undefined;
}

export function accessContextOf(
  { caller, platformName, settings, rights }: Pick<AccessContext, 'caller' | 'platformName' | 'settings' | 'rights'>,
  args: AccessContext['args'],
  bot: AccessContext['bot'],
  conditions?: AccessContext['conditions'],
): AccessContext {
  return { caller, platformName, settings, rights, args, bot, conditions };
}

/** How long the developer's conditions are waited for, and where it is told that one failed. */
export interface Judge {
  readonly clock: Clock;
  readonly patienceMs: number;
  readonly log: Log;
  reference(): string;
}

/** The arguments that were read. */
export interface ReadArguments {
  /** As the handler gets them. */
  readonly args: Readonly<Record<string, unknown>>;
  /** With the members that were named where `.map` makes something else of them. */
  readonly named: Readonly<Record<string, unknown>>;
}

/** Stage 7: settles the rest. Asks the platform for the bot, and the developer's conditions, only when needed. */
export function checkStanding(
  command: Guarded,
  asking: AccessInput,
  given: ReadArguments,
  directory: Directory | undefined,
  judge: Judge,
): MaybePromise<AccessRefusal | undefined> {
  if (command.standing.length === 0 && command.notTheBot.length === 0) return undefined;
  const bot = lookUpBot(asking.guild, directory);
  return isThenable(bot)
    ? patiently(judge.clock, bot, judge.patienceMs).then((member) =>
        askThenDecide(command, asking, given, member, judge),
      )
    : askThenDecide(command, asking, given, bot, judge);
}

/** The bot itself, as it stands in a guild. */
export function lookUpBot(guild: Guild | undefined, directory: Directory | undefined): MaybePromise<Member | 'absent'> {
  if (directory === undefined || guild === undefined) return 'absent';
  return andThen(directory.self(guild), knownBot);
}

/** Types do not hold for a platform: a bot without an id is not known. */
function knownBot(self: Member | undefined): Member | 'absent' {
  return typeof self?.id === 'string' ? self : 'absent';
}

function askThenDecide(
  command: Guarded,
  asking: AccessInput,
  { args, named }: ReadArguments,
  bot: Member | 'absent',
  judge: Judge,
): MaybePromise<AccessRefusal | undefined> {
  const { standing, conditions } = command;
  const aimed = aimedWrong(command.notTheBot, named, bot);
  if (aimed !== undefined) return aimed;
  const context = accessContextOf(asking, named, bot);
  if (conditions.length === 0) return firstNotPassing(standing, context);
  const refused = firstNo(standing, context);
  if (refused !== undefined) return refused;
  const { caller, platformName: platform, guild, place, now } = asking;
  return andThen(askConditions(command, { caller, args, platform, guild, place, now }, judge), (settled) =>
    firstNotPassing(standing, accessContextOf(asking, named, bot, settled)),
  );
}

/**
 * Whatever the requirements say: nothing is done to the bot itself, unless the command says that it may be. Where it
 * does not know itself, nothing is done to anybody; nor to a person whom their id does not tell from others.
 */
export function aimedWrong(
  notTheBot: readonly string[],
  named: ReadArguments['named'],
  bot: Member | 'absent',
): AccessRefusal | undefined {
  for (const argument of notTheBot) {
    const value = named[argument] as Member | readonly Member[] | undefined;
    if (value === undefined) continue;
    const all: readonly Member[] = Array.isArray(value) ? value : [value as Member];
    const isBot = bot === 'absent' ? all[0] : all.find(({ id }) => id === bot.id);
    const found = isBot ?? all.find((one) => !isUnique(one));
    if (found === undefined) continue;
    const because = isBot === undefined ? 'several' : bot === 'absent' ? 'unknown' : 'the-bot';
    return { code: 'permission.target', parameters: { argument, who: calledName(found), because, permission: '' } };
  }
  return undefined;
}

/** What is required of a list of members is required of each of them. Hot path: bench/rows/calls. */
export function decide({ requirement, about }: CompiledRequirement, context: AccessContext): Decided {
  const { args } = context;
  if (args !== undefined) {
    for (const argument of about) {
      if (Array.isArray(args[argument])) return decidedForEach(requirement, about, context);
    }
  }
  return requirement.decide(context);
}

function decidedForEach(requirement: Decidable, about: readonly string[], context: AccessContext): Decided {
  const { args = {} } = context;
  const [argument, ...rest] = about;
  if (argument === undefined) return requirement.decide(context);
  const all: readonly unknown[] = Array.isArray(args[argument]) ? args[argument] : [args[argument]];
  return allOf(all.map((one) => decidedForEach(requirement, rest, { ...context, args: { ...args, [argument]: one } })));
}

/** What is no already need not wait for the developer's conditions. */
function firstNo(open: Guarded['standing'], context: AccessContext): AccessRefusal | undefined {
  for (const one of open) {
    const decided = decide(one, context);
    if (typeof decided === 'object' && decided.value === 'no') return refusalOf(decided);
  }
  return undefined;
}

/** Only what is a yes, or about nobody, passes. */
function firstNotPassing(open: Guarded['standing'], context: AccessContext): AccessRefusal | undefined {
  for (const one of open) {
    const decided = decide(one, context);
    if (decided === 'yes' || decided === 'nobody') continue;
    return decided === 'later' ? asThingsAre : refusalOf(decided);
  }
  return undefined;
}

type Gave = ReadonlyMap<Decidable, ConditionGave>;

/** One after the other. */
function askConditions({ name, conditions }: Guarded, context: ConditionContext, judge: Judge): MaybePromise<Gave> {
  const results = new Map<Decidable, ConditionGave>();
  return askFrom(0);

  function askFrom(from: number): MaybePromise<Gave> {
    for (let index = from; index < conditions.length; index++) {
      const one = conditions[index] as Decidable;
      let given: unknown;
      try {
        given = one.condition?.(context as never);
      } catch (error) {
        results.set(one, { reference: failed(error) });
        continue;
      }
      if (isThenable(given)) {
        return patiently(judge.clock, given, judge.patienceMs).then(
          (settled) => {
            results.set(one, answerOf(settled));
            return askFrom(index + 1);
          },
          (error) => {
            results.set(one, { reference: failed(error) });
            return askFrom(index + 1);
          },
        );
      }
      results.set(one, answerOf(given));
    }
    return results;
  }

  /** Types do not hold in JavaScript: what is no answer is a failure, never a yes or a no. */
  function answerOf(given: unknown): ConditionGave {
    if (typeof given === 'boolean' || (typeof given === 'string' && given !== '')) return given;
    const what = given === '' ? 'an empty text' : String(given);
    return { reference: failed(new TypeError(`A condition gave ${what}; give true, false or a sentence`)) };
  }

  function failed(error: unknown): string {
    const reference = judge.reference();
    judge.log.error({ reference, command: name, stage: 'standing', error }, 'A condition of the bot failed');
    return reference;
  }
}
